import { baseline, billingData, ledgerData } from './index.ts'

const SEED = 20_260_901
const MONTH = '2026-09'
const ENTITY = 'larkspur'

const need = (name: string): string => process.env[name] ?? (() => { throw new Error(`${name} is not set`) })()
const server = need('AXION_DEMO_SERVER')
const standins = need('AXION_DEMO_STANDINS')
const token = need('AXION_DEMO_TOKEN')
let session = ''

/** One call of Axion's API, as a script would make it. 409: it is there already, and stays as it is. */
async function call(method: string, path: string, body: unknown): Promise<Response> {
  const answer = await fetch(server + path, { method, headers: { 'content-type': 'application/json', 'x-axion-request': 'demo', cookie: session }, body: JSON.stringify(body) })
  if (!answer.ok && answer.status !== 409) throw new Error(`${method} ${path}: ${answer.status} ${await answer.text()}`)
  return answer
}

async function fill(system: string, data: object): Promise<boolean> {
  const answer = await fetch(`${standins}/${system}/load`, { method: 'POST', headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` }, body: JSON.stringify(data) })
  if (!answer.ok && answer.status !== 409) throw new Error(`loading ${system}: ${answer.status} ${await answer.text()}`)
  return answer.ok
}

await fill('ledger', ledgerData())
await fill('billing', billingData(SEED, MONTH, `${standins}/billing/desk`))

const signedIn = await call('POST', '/api/session', { email: need('AXION_DEMO_EMAIL'), password: need('AXION_DEMO_PASSWORD') })
session = signedIn.headers.getSetCookie().map((cookie) => cookie.split(';')[0]).join('; ')
const founded = await call('POST', '/api/entities', { id: ENTITY, name: 'Larkspur Apiary Supply', country: 'XA', currency: 'USD', timeZone: 'America/Chicago', locale: 'en-US' })
if (founded.ok) {
  for (const [email, role] of JSON.parse(need('AXION_DEMO_MEMBERS')) as [string, string][]) await call('PUT', `/api/entities/${ENTITY}/members`, { email, role })
  await call('PUT', `/api/entities/${ENTITY}/months/${MONTH}/baseline`, baseline())
}
// Connected anew at every start: the stand-ins listen wherever this installation does.
for (const [system, role, name] of [['ledger', 'ledger', 'Ledger'], ['billing', 'billing', 'Billing']] as const) {
  await call('PUT', `/api/entities/${ENTITY}/systems/${system}`, { role, name, address: `${standins}/${system}/bridge`, token })
}
