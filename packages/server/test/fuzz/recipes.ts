import type { DecisionsView, SeenView, PostView, TieOutView } from '@axion/contract'
import { WHOLE_SCOPE } from '@axion/contract'
import { baseline } from '@axion/demo'
import { expect, vi } from 'vitest'
import { connect } from '../../src/database/connection.ts'
import { makeFirstLink } from '../../src/people/first.ts'
import { NEW_PLACE } from '../newPlace.ts'
import { MONTH, type World } from '../world.ts'

export interface Kitchen {
  readonly world: World
  /** Asks the server as somebody, or as `address|password`; notes which routes answered well. */
  call<T = Record<string, never>>(
    who: string | null,
    method: 'GET' | 'POST' | 'PUT' | 'DELETE',
    url: string,
    body?: object,
  ): Promise<T>
}

/** Waits for a run that real workers do. */
async function ended({ call }: Kitchen, run: string): Promise<void> {
  await vi.waitFor(
    async () => {
      const { state } = await call<{ state: string }>('preparer', 'GET', `/api/entities/larkspur/runs/${run}`)
      expect(['queued', 'running']).not.toContain(state)
    },
    { timeout: 120_000, interval: 200 },
  )
}

async function account({ call }: Kitchen): Promise<void> {
  const email = 'nell@example.org'
  const [first, second, own] = ['for the first day', 'for the second day', 'one of my own']
  await call('administrator', 'POST', '/api/people', { email, name: 'Nell', password: first })
  await call('administrator', 'PUT', `/api/people/${email}/password`, { password: second })
  const me = `${email}|${second}`
  await call(null, 'POST', '/api/session', { email, password: second })
  await call(me, 'PUT', '/api/session/password', { password: second, next: own })
  await call(null, 'POST', '/api/session', { email, password: own })
  const { sessions } = await call<{ sessions: { id: string; own: boolean }[] }>(me, 'GET', '/api/session/all')
  await call(me, 'DELETE', `/api/session/all/${sessions.find((one) => !one.own)?.id ?? ''}`)
  await call(me, 'DELETE', '/api/session')
  const members = '/api/entities/larkspur/members'
  await call('administrator', 'PUT', members, { email, role: 'viewer' })
  await call('administrator', 'DELETE', `${members}/${email}`)
}

/** Somebody begins where nobody runs the practice, and an entity is changed, closed and opened again. */
async function own({ call, world }: Kitchen): Promise<void> {
  const { founds, back } = {
    founds: `update person set may_create_entities = false where email = 'administrator@example.org'`,
    back: `update person set may_create_entities = true where email = 'administrator@example.org'`,
  }
  await world.ownerSql(founds)
  const owner = connect(world.databases.owner, 1)
  const link = await makeFirstLink(owner)
  await owner.destroy()
  await call(null, 'GET', `/api/first/${link ?? ''}`)
  await call(null, 'POST', `/api/first/${link ?? ''}`, {
    email: 'first@example.org',
    name: 'The first',
    password: 'one of my own',
  })
  await world.ownerSql(back)
  await call('administrator', 'POST', '/api/entities', {
    ...{ id: 'founded', name: 'Founded', country: 'XA', currency: 'USD' },
    ...{ timeZone: 'UTC', locale: 'en', yearBegins: 1 },
  })
  await call('viewer', 'GET', `${MONTH}/sale?country=XA&date=2026-09-16&amount=1.00`)
  const entity = '/api/entities/larkspur'
  await call('administrator', 'PUT', entity, { name: 'Larkspur', locale: 'en-US', yearBegins: 4 })
  for (const closed of [true, false]) await call('administrator', 'PUT', `${entity}/closed`, { closed })
}

async function systems({ call, world }: Kitchen): Promise<void> {
  const connection = { address: `${world.standins}/billing/bridge`, token: world.token }
  const { link } = await call<{ link: string }>(
    'administrator',
    'POST',
    '/api/entities/larkspur/invitations',
    {
      systemId: 'invited',
      role: 'billing',
      name: 'Invited',
    },
  )
  await call(null, 'GET', `/api/invitations/${link.split('/').at(-1) ?? ''}`)
  await call(null, 'POST', `/api/invitations/${link.split('/').at(-1) ?? ''}/asked`, connection)
  await call(null, 'POST', `/api/invitations/${link.split('/').at(-1) ?? ''}`, connection)
  await call('administrator', 'POST', `${MONTH}/systems/more/asked`, {
    role: 'billing',
    name: 'More',
    ...connection,
  })
  await call('administrator', 'PUT', '/api/entities/larkspur/systems/more', {
    role: 'billing',
    name: 'More',
    ...connection,
  })
  for (const id of ['invited', 'more'])
    await call('administrator', 'DELETE', `/api/entities/larkspur/systems/${id}`)
  const scope = `${MONTH}/systems/billing/scope`
  const { revision } = await call<{ revision: string }>(
    'administrator',
    'POST',
    `${scope}/preview`,
    WHOLE_SCOPE,
  )
  await call('administrator', 'PUT', scope, { scope: WHOLE_SCOPE, revision })
}

async function files(kitchen: Kitchen): Promise<void> {
  const { call } = kitchen
  await call('administrator', 'PUT', '/api/entities/larkspur/systems/market/files', {
    role: 'commerce',
    name: 'Market stall',
    company: 'Larkspur at the market',
    baseCurrency: 'USD',
    timeZone: 'America/Chicago',
    defaultItemTaxCode: 'GOODS',
  })
  await call('preparer', 'GET', `${MONTH}/files/baseline/items?format=csv`)
  const bring = async (): Promise<string> => {
    const query = new URLSearchParams({ target: 'market', name: 'items.csv', sheet: 'items' })
    const { import: id, run } = await call<{ import: string; run: string }>(
      'preparer',
      'POST',
      `${MONTH}/files/imports?${query.toString()}`,
      Buffer.from('Code,Name,Kind,Taxable,Item tax code\nF-1,Fuzzed,goods,yes,GOODS\n'),
    )
    await ended(kitchen, run)
    return id
  }
  const id = await bring()
  const path = `${MONTH}/files/imports/${id}`
  const { sheets } = await call<{ sheets: { name: string; mapping: object }[] }>('preparer', 'GET', path)
  const mappings = Object.fromEntries(sheets.map(({ name, mapping }) => [name, mapping]))
  const { run } = await call<{ run: string }>('preparer', 'POST', `${path}/read`, { mappings })
  await ended(kitchen, run)
  const applied = await call<{ run: string }>('preparer', 'POST', `${path}/apply`, {
    mode: 'part',
    goodOnly: true,
  })
  await ended(kitchen, applied.run)
  await call('preparer', 'DELETE', `${MONTH}/files/imports/${await bring()}`)
}

interface Versioned {
  readonly id: string
  readonly versions: readonly object[]
}

/** The books open on a day, and an account is taken over by a list that came as a file; then all is taken back. */
async function opening(kitchen: Kitchen): Promise<void> {
  const { call } = kitchen
  const path = `${MONTH}/opening`
  const set = async (day: string | null): Promise<void> => {
    const { revision } = await call<{ revision: string }>('administrator', 'POST', `${path}/preview`, { day })
    const { run } = await call<{ run: string }>('administrator', 'PUT', path, { day, revision })
    await ended(kitchen, run)
  }
  await set('2026-09-01')
  await call('preparer', 'GET', path)
  const account = `${path}/accounts/2210`
  await call('preparer', 'GET', account)
  const file = Buffer.from('Reference,Amount\nJune,12.50\n')
  const { items } = await call<{ items: object[] }>('preparer', 'POST', `${account}/read?name=june.csv`, file)
  await call('preparer', 'PUT', account, { items })
  await call('preparer', 'GET', `${account}/list`)
  await call('preparer', 'PUT', `${account}/aside`, { why: 'Nobody knows' })
  await call('preparer', 'PUT', `${account}/aside`, { why: null })
  await set(null)
}

/** For whom a tax service computes. */
async function computing(kitchen: Kitchen): Promise<void> {
  const path = `${MONTH}/systems/reckoner/computes-for`
  for (const systems of [['billing'], []]) {
    const { run } = await kitchen.call<{ run: string }>('administrator', 'PUT', path, { systems })
    await ended(kitchen, run)
  }
}

async function setUp(kitchen: Kitchen): Promise<void> {
  const { call, world } = kitchen
  await opening(kitchen)
  await computing(kitchen)
  await call('preparer', 'PUT', `${MONTH}/align/defaults`, {
    itemTaxCode: null,
    partiesTaxable: null,
    newItems: 'left-open',
  })
  await call('preparer', 'PUT', `${MONTH}/align/generic`, { systemId: 'billing', party: 'cus_counter' })
  await call('preparer', 'PUT', `${MONTH}/align/generic`, { systemId: 'billing', party: null })
  await call('preparer', 'GET', `${MONTH}/align/generic`)
  await call('preparer', 'PUT', `${MONTH}/baseline`, baseline())
  await call('preparer', 'GET', `${MONTH}/align/rates/WN-PLX/timeline`)
  await call('preparer', 'PUT', `${MONTH}/align/accounts/2216/purpose`, { kinds: ['tax'] })
  await call('preparer', 'PUT', `${MONTH}/align/accounts/2216/purpose`, { kinds: [] })
  const link = { systemId: 'ledger', kind: 'agency', objectId: 'agency_HCT' }
  await call('preparer', 'DELETE', `${MONTH}/links`, link)
  await call('preparer', 'PUT', `${MONTH}/links`, { ...link, baselineId: 'HCT' })
  await call('preparer', 'POST', `${MONTH}/links/clear`, { kinds: ['methods'] })
  const { rows } = await call<{
    rows: { id: string; findings: { code: string; systemId: string | null }[] }[]
  }>('preparer', 'GET', `${MONTH}/align/rates?limit=500`)
  const row = rows.find(({ findings }) => findings.length > 0)
  const finding = row?.findings[0]
  await call('preparer', 'PUT', `${MONTH}/align/left`, {
    kind: 'rates',
    rowId: row?.id,
    code: finding?.code,
    systemId: finding?.systemId ?? null,
    reason: 'It is known',
  })
  const { agencies, regions } = await call<{ agencies: Versioned[]; regions: Versioned[] }>(
    'preparer',
    'GET',
    `${MONTH}/registrations`,
  )
  for (const [path, of] of [
    ['registrations', agencies],
    ['thresholds', regions],
  ] as const) {
    const [first] = of.filter(({ versions }) => versions.length > 0)
    await call('preparer', 'PUT', `${MONTH}/${path}/${first?.id ?? ''}`, { versions: first?.versions })
  }
  const bulk = `${MONTH}/align/bulk`
  const request = { kind: 'items', action: 'leave', rows: { filter: {} }, reason: 'It is known' }
  const shown = await call<{ revision: string }>('preparer', 'POST', `${bulk}/preview`, request)
  const left = { request, revision: shown.revision }
  await ended(kitchen, (await call<{ run: string }>('preparer', 'POST', bulk, left)).run)
  const { standing } = await call<{ standing: string }>('preparer', 'GET', `${MONTH}/rules`)
  const rules = { rules: [], standing }
  const { revision } = await call<{ revision: string }>('preparer', 'POST', `${MONTH}/rules/try`, rules)
  await call('preparer', 'PUT', `${MONTH}/rules`, { ...rules, revision })
  await call('preparer', 'POST', `${MONTH}/new-rate`, {
    code: 'WN-FUZZ',
    name: 'Fuzzed, Wendover',
    jurisdictions: ['WN'],
    place: NEW_PLACE,
    from: '2026-09-01',
    to: null,
  })
  const change = { act: 'make', cells: { code: 'FUZZ', name: 'Fuzzed' } }
  const looked = await call<{ revision: string }>('preparer', 'POST', `${MONTH}/baseline/agencies/preview`, {
    change,
  })
  await call('preparer', 'POST', `${MONTH}/baseline/agencies`, { change, revision: looked.revision })
  await call('viewer', 'GET', `${MONTH}/baseline/agencies/object?id=FUZZ`)
  await call('preparer', 'PUT', `${MONTH}/collecting/PL`, {
    versions: [{ answer: 'nobody', why: null, from: '2026-01-01', to: null }],
  })
  const copied = '/api/entities/founded/months/2026-09/copied'
  await call('administrator', 'GET', copied)
  await call('administrator', 'GET', `${copied}/larkspur`)
  const choice = { standings: ['new'] }
  const copy = await call<{ revision: string }>('administrator', 'POST', `${copied}/larkspur/preview`, {
    choice,
  })
  await call('administrator', 'POST', `${copied}/larkspur`, {
    choice,
    follows: true,
    revision: copy.revision,
  })
  await call('administrator', 'PUT', `${copied}/larkspur`, { follows: false })
  // What is agreed there since is new, and left.
  const more = { act: 'make', cells: { code: 'FUZZ-2', name: 'Later' } }
  const made = await call<{ revision: string }>('preparer', 'POST', `${MONTH}/baseline/agencies/preview`, {
    change: more,
  })
  await call('preparer', 'POST', `${MONTH}/baseline/agencies`, { change: more, revision: made.revision })
  await call('administrator', 'POST', `${copied}/larkspur/left`, { keys: ['agencies FUZZ-2'] })
  const drafted = await call<DecisionsView>('preparer', 'GET', `${MONTH}/decisions`)
  const [decision] = drafted.decisions.filter((one) => one.options.length > 0 && one.waitsFor.length === 0)
  await call('preparer', 'POST', `${MONTH}/decisions`, {
    revision: drafted.revision,
    take: [{ key: decision?.key ?? '', option: decision?.options[0]?.key ?? '' }],
  })
  // The demo's baseline was entered: as if one of its rates had been drafted.
  await world.ownerSql(
    `insert into authority (entity_id, kind, object, says, seen_in, accepted_by) values ('larkspur', 'rate', 'WN', '', '{billing}', 'Somebody')`,
  )
  const { groups } = await call<SeenView>('preparer', 'GET', `${MONTH}/decisions/seen`)
  await call('preparer', 'POST', `${MONTH}/decisions/seen`, {
    checks: groups.map(({ id, revision }) => ({ id, revision, against: 'Its rate table', on: '2026-09-02' })),
  })
  const pdf = Buffer.from('%PDF-1.7\n1 0 obj\n<<>>\nendobj\ntrailer\n<<>>\n%%EOF\n')
  const beside = new URLSearchParams({ group: groups[0]?.id ?? '', name: 'rates.pdf' }).toString()
  await call('preparer', 'POST', `${MONTH}/decisions/seen/files?${beside}`, pdf)
  const [claim] = drafted.asked.certificates
  await call('preparer', 'POST', `${MONTH}/decisions/answers`, {
    registrations: [],
    certificates: [
      { party: claim?.party ?? '', number: 'F-0', regions: ['WN'], from: '2026-09-01', to: null },
    ],
  })
  const certificates = `${MONTH}/certificates/cus_ostler`
  const { certificate } = await call<{ certificate: string }>('preparer', 'PUT', certificates, {
    code: null,
    number: 'F-1',
    reason: 'resale',
    regions: ['WN'],
    from: '2026-01-01',
    to: null,
  })
  const { file } = await call<{ file: string }>(
    'preparer',
    'POST',
    `${certificates}/files?${new URLSearchParams({ certificate, name: 'a.pdf' }).toString()}`,
    pdf,
  )
  await call('viewer', 'GET', `${MONTH}/attached/${file}`)
  await call('preparer', 'DELETE', `${MONTH}/attached/${file}`)
}

async function posting(kitchen: Kitchen): Promise<void> {
  const { call, world } = kitchen
  const post = async (): Promise<PostView['rows']> =>
    (await call<PostView>('preparer', 'GET', `${MONTH}/post`)).rows
  const run = async (path: string, body: object): Promise<void> =>
    ended(kitchen, (await call<{ run: string }>('preparer', 'POST', MONTH + path, body)).run)
  // Some are charged at a rate that is not their own, so that there is a difference to keep.
  for (const { unit } of (await post()).filter((row) => Number(row.tax) > 0).slice(0, 3)) {
    const id = unit.split('/')[1] ?? ''
    const [line] = await world.billingSql<{ rate: string }>(
      `select l->>'taxRateId' as rate from object, jsonb_array_elements(value->'lines') l where id = $1 and l->>'taxRateId' is not null limit 1`,
      [id],
    )
    const rate = ['rate_WN-PLX', 'rate_WN-FEN'].find((one) => one !== line?.rate) ?? ''
    await world.desk('billing', 'rate', { id, rate })
  }
  await run('/pulls', { systemIds: null })
  await run('/post/rehearsal', {})
  const units = (await post()).slice(0, 30).map(({ unit }) => unit)
  await call('preparer', 'POST', `${MONTH}/post/runs/preview`, { units })
  await run('/post/runs', { states: ['rehearsed', 'changed'] })
  await run('/pulls', { systemIds: null })
  const some = units.slice(4, 6)
  const { revision } = await call<{ revision: string }>(
    'preparer',
    'POST',
    `${MONTH}/post/withdrawals/preview`,
    {
      units: some,
    },
  )
  await run('/post/withdrawals', { units: some, revision })
  const doubt = async (unit: string): Promise<unknown> =>
    world.ownerSql(
      `update booking set state = 'in-doubt', uncertain_since = now(), reason_code = 'AXION_IN_DOUBT', reason_facts = '{}' where system_id || '/' || document_id = $1`,
      [unit],
    )
  await doubt(units[8] ?? '')
  await run('/post/look-again', { units: null })
  await doubt(units[9] ?? '')
  await call('preparer', 'POST', `${MONTH}/post/not-there`, { units: [units[9]] })
  await kitchen.world.ownerSql(`update legal_entity set restored_at = now() where entity_id = 'larkspur'`)
  await call('preparer', 'POST', `${MONTH}/post/looked`, {})
}

async function mending(kitchen: Kitchen): Promise<void> {
  const { call } = kitchen
  const view = await call<TieOutView>('preparer', 'GET', `${MONTH}/tie-out`)
  const open = encodeURIComponent(`of=total&unit=${view.rows[0]?.unit ?? ''}`)
  await call('viewer', 'GET', `${MONTH}/evidence?open=${open}`)
  await call('preparer', 'POST', `${MONTH}/evidence/doubt`, { unit: view.rows[0]?.unit ?? '' })
  const keepable = view.causes.find((cause) => cause.keepable > 0)?.key ?? ''
  const kept = await call<{ revision: string }>(
    'preparer',
    'GET',
    `${MONTH}/tie-out/kept/preview?cause=${encodeURIComponent(keepable)}`,
  )
  await call('preparer', 'POST', `${MONTH}/tie-out/kept`, {
    cause: keepable,
    reason: 'It is small',
    revision: kept.revision,
  })
  const { documents } = await call<{ documents: { unit: string; kept: object | null }[] }>(
    'preparer',
    'GET',
    `${MONTH}/tie-out/kept`,
  )
  const units = documents.filter((one) => one.kept).map((one) => one.unit)
  await call('reviewer', 'POST', `${MONTH}/tie-out/kept/review`, { units, agree: true })
  await call('preparer', 'PUT', `${MONTH}/tie-out/ticks`, { unit: view.rows[0]?.unit, done: true })
  for (const list of ['tie-out', 'post']) await call('viewer', 'GET', `${MONTH}/${list}/list.xlsx`)
  const causes = view.causes.filter((cause) => cause.remedies.length > 0)
  const cause = encodeURIComponent(causes[0]?.key ?? '')
  await call('preparer', 'GET', `${MONTH}/mend/tried?cause=${cause}`)
  const remedy = causes[0]?.remedies[0]
  const { revision } = await call<{ revision: string }>('preparer', 'POST', `${MONTH}/mend/preview`, {
    remedy,
  })
  const { run } = await call<{ run: string }>('preparer', 'POST', `${MONTH}/mend`, { remedy, revision })
  await ended(kitchen, run)
}

async function cancelling({ call, world }: Kitchen): Promise<void> {
  const [run] = await world.ownerSql<{ run_id: string }>(
    `insert into run (entity_id, kind, payload, started_by) values ('larkspur', 'pull', '{}', 'fuzz') returning run_id`,
  )
  await call('preparer', 'POST', `/api/entities/larkspur/runs/${run?.run_id ?? ''}/cancel`, {})
  await world.ownerSql(`delete from run where run_id = $1`, [run?.run_id])
}

/** Ways through routes that take more than one step, in an order in which each finds what it needs. */
export const RECIPES: readonly ((kitchen: Kitchen) => Promise<void>)[] = [
  own,
  account,
  systems,
  files,
  setUp,
  posting,
  mending,
  cancelling,
]
