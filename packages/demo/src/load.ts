import { setTimeout as pause } from 'node:timers/promises'
import {
  baseline,
  baselineOf,
  billingData,
  billingOf,
  FERNHOLLOW,
  ledgerData,
  ledgerOf,
  OLD_CARD,
  otherSystems,
  purchasingOf,
  QUILLON,
  reckonerOf,
  SALTMARSH,
  SEED,
  type Charged,
  type OtherSystem,
  type SmallEntity,
  type SystemData,
} from './index.ts'
import { workMonths } from './months.ts'
import { OPENING_DAY, openingEntries } from './larkspur/opening.ts'

const MONTH = '2026-09'

const need = (name: string): string =>
  process.env[name] ??
  (() => {
    throw new Error(`${name} is not set`)
  })()
const server = need('AXION_DEMO_SERVER')
const standins = need('AXION_DEMO_STANDINS')
const token = need('AXION_DEMO_TOKEN')
let session = ''

/** One call of Axion's API, as a script would make it. 409: it is there already, and stays as it is. */
async function call(method: string, path: string, body?: unknown): Promise<Response> {
  const answer = await fetch(server + path, {
    method,
    headers: {
      ...(body === undefined ? {} : { 'content-type': 'application/json' }),
      'x-axion-request': 'demo',
      cookie: session,
    },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  })
  if (!answer.ok && answer.status !== 409)
    throw new Error(`${method} ${path}: ${answer.status} ${await answer.text()}`)
  return answer
}

async function fill(system: string, data: object): Promise<boolean> {
  const answer = await fetch(`${standins}/${system}/load`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` },
    body: JSON.stringify(data),
  })
  if (!answer.ok && answer.status !== 409)
    throw new Error(`loading ${system}: ${answer.status} ${await answer.text()}`)
  return answer.ok
}

/** Asks until the run has ended: a pull of so little takes a second or two. */
async function ended(entity: string, run: string): Promise<void> {
  for (let asked = 0; asked < 300; asked++) {
    const { state } = (await (await call('GET', `/api/entities/${entity}/runs/${run}`)).json()) as {
      state: string
    }
    if (state === 'done') return
    if (!['queued', 'running'].includes(state)) throw new Error(`run ${run} of ${entity}: ${state}`)
    await pause(200)
  }
  throw new Error(`run ${run} of ${entity} did not end within a minute`)
}

async function desk(system: string, action: string, fields: Readonly<Record<string, string>>): Promise<void> {
  const answer = await fetch(`${standins}/${system}/desk/${action}`, {
    method: 'POST',
    body: new URLSearchParams(fields),
    redirect: 'manual',
  })
  if (answer.status !== 303)
    throw new Error(`${action} of ${system}: ${answer.status} ${await answer.text()}`)
}

/** Larkspur's purchasing was pulled before, and a card linked that has been taken out there since: the next pull finds the link stale. */
async function linkOldCard(): Promise<void> {
  const { id, stoodFor } = OLD_CARD
  const month = `/api/entities/larkspur/months/${MONTH}`
  const { run } = (await (await call('POST', `${month}/pulls`, { systemIds: ['purchasing'] })).json()) as {
    run: string
  }
  await ended('larkspur', run)
  await call('PUT', `${month}/links`, {
    systemId: 'purchasing',
    kind: 'payment-method',
    objectId: id,
    baselineId: stoodFor,
  })
  await desk('purchasing', 'remove', { resource: 'payment-methods', id })
}

/** Saltmarsh has its tax computed by a service, which its billing told of its documents as it charged them. */
async function connectReckoner(entity: DemoEntity): Promise<void> {
  const answer = await fetch(`${standins}/${entity.path}billing/bridge/documents?after=0&limit=1000`, {
    headers: { authorization: `Bearer ${token}` },
  })
  if (!answer.ok) throw new Error(`reading what ${entity.id} billed: ${answer.status}`)
  const { items } = (await answer.json()) as { items: readonly Charged[] }
  await fill(`${entity.path}tax-service`, reckonerOf(entity.billing, items))
  await call('PUT', `/api/entities/${entity.id}/systems/reckoner`, {
    role: 'tax-service',
    name: 'Cairn Reckoner',
    address: `${standins}/${entity.path}tax-service/bridge`,
    token,
  })
  const said = await call('PUT', `/api/entities/${entity.id}/months/${MONTH}/systems/reckoner/computes-for`, {
    systems: ['billing'],
  })
  if (said.ok) await ended(entity.id, ((await said.json()) as { run: string }).run)
}

/** From when on Larkspur's books stand in Axion. What stood in its ledger by then waits to be taken over. */
async function openBooks(): Promise<void> {
  const path = `/api/entities/larkspur/months/${MONTH}/opening`
  const { revision } = (await (await call('POST', `${path}/preview`, { day: OPENING_DAY })).json()) as {
    revision: string
  }
  const { run } = (await (await call('PUT', path, { day: OPENING_DAY, revision })).json()) as { run: string }
  await ended('larkspur', run)
}

interface DemoEntity {
  readonly id: string
  readonly name: string
  readonly timeZone: string
  readonly country: string
  readonly currency: string
  readonly locale: string
  readonly path: string
  readonly baseline: object
  readonly ledger: object
  readonly billing: SystemData
  readonly others: readonly OtherSystem[]
}
const { id: oldId, stoodFor: _, ...oldCard } = OLD_CARD
const withOldCard = ({ settings, objects }: SystemData): SystemData => ({
  settings,
  objects: [
    ...objects,
    { resource: 'payment-methods', id: oldId, value: { code: null, ...oldCard, active: true } },
  ],
})
const withOpening = ({ settings, objects }: SystemData): SystemData => ({
  settings,
  objects: [...objects, ...openingEntries()],
})
const small = (entity: SmallEntity, country: string, locale: string): DemoEntity => ({
  id: entity.id,
  name: entity.name,
  timeZone: entity.timeZone,
  country,
  currency: entity.currency,
  locale,
  path: `${entity.id}-`,
  baseline: baselineOf(entity),
  ledger: ledgerOf(entity),
  billing: billingOf(entity, SEED, `${standins}/${entity.id}-billing/desk`),
  others: purchasingOf(entity, SEED),
})
const ENTITIES: readonly DemoEntity[] = [
  {
    id: 'larkspur',
    name: 'Larkspur Apiary Supply',
    timeZone: 'America/Chicago',
    country: 'XA',
    currency: 'USD',
    locale: 'en-US',
    path: '',
    baseline: baseline(),
    ledger: withOpening(ledgerData()),
    billing: billingData(SEED, `${standins}/billing/desk`),
    others: otherSystems(SEED),
  },
  small(SALTMARSH, 'XA', 'en-US'),
  small(FERNHOLLOW, 'XC', 'en-GB'),
  small(QUILLON, 'XB', 'en-GB'),
]

async function signIn(email: string): Promise<void> {
  const signedIn = await call('POST', '/api/session', { email, password: need('AXION_DEMO_PASSWORD') })
  session = signedIn.headers
    .getSetCookie()
    .map((cookie) => cookie.split(';')[0])
    .join('; ')
}

const MEMBERS = JSON.parse(need('AXION_DEMO_MEMBERS')) as [email: string, role: string][]
await signIn(need('AXION_DEMO_EMAIL'))
let first = false
for (const entity of ENTITIES) {
  await fill(`${entity.path}ledger`, entity.ledger)
  await fill(`${entity.path}billing`, entity.billing)
  for (const { id, data } of entity.others)
    await fill(entity.path + id, entity.id === 'larkspur' && id === 'purchasing' ? withOldCard(data) : data)
  const founded = await call('POST', '/api/entities', {
    id: entity.id,
    name: entity.name,
    country: entity.country,
    currency: entity.currency,
    timeZone: entity.timeZone,
    locale: entity.locale,
  })
  if (founded.ok) {
    first = true
    for (const [email, role] of MEMBERS)
      await call('PUT', `/api/entities/${entity.id}/members`, { email, role })
    await call('PUT', `/api/entities/${entity.id}/months/${MONTH}/baseline`, entity.baseline)
  }
  // Connected anew at every start: the stand-ins listen wherever this installation does.
  for (const [role, name] of [
    ['ledger', 'Ledger'],
    ['billing', 'Billing'],
  ] as const) {
    await call('PUT', `/api/entities/${entity.id}/systems/${role}`, {
      role,
      name,
      address: `${standins}/${entity.path}${role}/bridge`,
      token,
    })
  }
  for (const { id, role, name } of entity.others)
    await call('PUT', `/api/entities/${entity.id}/systems/${id}`, {
      role,
      name,
      address: `${standins}/${entity.path}${id}/bridge`,
      token,
    })
  if (entity.id === 'saltmarsh') await connectReckoner(entity)
  if (founded.ok && entity.id === 'larkspur') {
    await linkOldCard()
    await openBooks()
  }
}

if (first && process.env['AXION_DEMO_MONTHS'] !== 'none') {
  const preparer = MEMBERS.find(([, role]) => role === 'preparer')
  if (preparer) await signIn(preparer[0])
  await workMonths({
    call: async (method, path, body) => (await call(method, path, body)).json() as Promise<never>,
    ended,
    desk,
    say: (line) => void process.stdout.write(`axion: the demo: ${line}\n`),
  })
}
