import { baseline, billingData, ledgerData, otherSystems, saltmarshBaseline, saltmarshBilling, saltmarshLedger, SEED, type OtherSystem } from './index.ts'

const MONTH = '2026-09'

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

interface DemoEntity {
  readonly id: string
  readonly name: string
  readonly timeZone: string
  readonly path: string
  readonly baseline: object
  readonly ledger: object
  readonly billing: object
  readonly others: readonly OtherSystem[]
}
const ENTITIES: readonly DemoEntity[] = [
  { id: 'larkspur', name: 'Larkspur Apiary Supply', timeZone: 'America/Chicago', path: '', baseline: baseline(), ledger: ledgerData(), billing: billingData(SEED, `${standins}/billing/desk`), others: otherSystems(SEED) },
  { id: 'saltmarsh', name: 'Saltmarsh Chandlery', timeZone: 'America/New_York', path: 'saltmarsh-', baseline: saltmarshBaseline(), ledger: saltmarshLedger(), billing: saltmarshBilling(SEED, `${standins}/saltmarsh-billing/desk`), others: [] },
]

const signedIn = await call('POST', '/api/session', { email: need('AXION_DEMO_EMAIL'), password: need('AXION_DEMO_PASSWORD') })
session = signedIn.headers.getSetCookie().map((cookie) => cookie.split(';')[0]).join('; ')
for (const entity of ENTITIES) {
  await fill(`${entity.path}ledger`, entity.ledger)
  await fill(`${entity.path}billing`, entity.billing)
  for (const { id, data } of entity.others) await fill(entity.path + id, data)
  const founded = await call('POST', '/api/entities', { id: entity.id, name: entity.name, country: 'XA', currency: 'USD', timeZone: entity.timeZone, locale: 'en-US' })
  if (founded.ok) {
    for (const [email, role] of JSON.parse(need('AXION_DEMO_MEMBERS')) as [string, string][]) await call('PUT', `/api/entities/${entity.id}/members`, { email, role })
    await call('PUT', `/api/entities/${entity.id}/months/${MONTH}/baseline`, entity.baseline)
  }
  // Connected anew at every start: the stand-ins listen wherever this installation does.
  for (const [role, name] of [['ledger', 'Ledger'], ['billing', 'Billing']] as const) {
    await call('PUT', `/api/entities/${entity.id}/systems/${role}`, { role, name, address: `${standins}/${entity.path}${role}/bridge`, token })
  }
  for (const { id, role, name } of entity.others) await call('PUT', `/api/entities/${entity.id}/systems/${id}`, { role, name, address: `${standins}/${entity.path}${id}/bridge`, token })
}
