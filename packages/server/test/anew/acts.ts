import {
  LINK_KINDS,
  type AgreedView,
  type BaselineImport,
  type BulkPreview,
  type DecisionsView,
  type LinkKind,
  type RemedyPreview,
  type RulesView,
  type TieOutView,
} from '@axion/contract'
import { readBaseline } from '../../src/baseline/read.ts'
import { inEntity } from '../../src/database/connection.ts'
import { NEW_PLACE } from '../newPlace.ts'
import { MONTH } from '../world.ts'
import type { Act, Draw } from './acting.ts'
import {
  atSource,
  doubted,
  inDoubt,
  inLedger,
  kept,
  computed,
  keptThere,
  opened,
  posted,
  reconnected,
  scoped,
  setUpThere,
  withdrawn,
} from './onBooks.ts'

const RESOURCE: Readonly<Partial<Record<LinkKind, readonly [resource: string, table: string]>>> = {
  agency: ['agencies', 'agency'],
  'combined-rate': ['tax-rates', 'combined_rate'],
  item: ['items', 'item'],
  party: ['parties', 'party'],
  location: ['locations', 'location'],
  'payment-method': ['payment-methods', 'payment_method'],
}

const linked: Act = async ({ world, draw }) => {
  const kind = draw.of(LINK_KINDS.filter((one) => one in RESOURCE))
  const [resource, table] = RESOURCE[kind] as readonly [string, string]
  const held = await world.ownerSql<{ system_id: string; object_id: string }>(
    `select system_id, object_id from held_object where resource = '${resource}' and not removed order by 1, 2`,
  )
  const baseline = await world.ownerSql<{ id: string }>(
    `select distinct object_id as id from ${table} where upper_inf(recorded) order by 1`,
  )
  if (held.length === 0 || baseline.length === 0) return `no ${kind}`
  const { system_id: systemId, object_id: objectId } = draw.of(held)
  const baselineId = draw.of(baseline).id
  const body = { systemId, kind, objectId }
  const answer = await (draw.is(70)
    ? world.as('preparer', 'PUT', `${MONTH}/links`, { ...body, baselineId })
    : world.as('preparer', 'DELETE', `${MONTH}/links`, body))
  return `${kind} ${objectId} ${answer.statusCode}`
}

const linkedClear: Act = async ({ world, draw }) => {
  const kinds = [draw.of(['agencies', 'rates', 'items', 'parties', 'locations'])]
  return `${kinds.join()} ${(await world.as('preparer', 'POST', `${MONTH}/links/clear`, { kinds })).statusCode}`
}

const registered: Act = async ({ world, draw }) => {
  const agency = draw.of(['TDT', 'HCT', 'CPL'])
  const to = draw.is(50) ? '2026-09-14' : null
  const versions = [{ number: 'N-1', basis: 'cash', frequency: 'quarter', from: '2024-01-01', to }]
  const answer = await world.as('preparer', 'PUT', `${MONTH}/registrations/${agency}`, { versions })
  return `${agency} ${answer.statusCode}`
}

const thresholdSet: Act = async ({ world }) => {
  const { regions } = await world.ok<{ regions: { id: string; versions: object[] }[] }>(
    'GET',
    `${MONTH}/registrations`,
  )
  const [first] = regions.filter(({ versions }) => versions.length > 0)
  const path = `${MONTH}/thresholds/${first?.id ?? ''}`
  return String(
    (await world.as('preparer', 'PUT', path, { versions: first?.versions.slice(0, 1) })).statusCode,
  )
}

type Lists = { [K in keyof BaselineImport]: BaselineImport[K] extends readonly (infer T)[] ? T[] : never }

/** One thing of the register is another, or gone. */
const CHANGES: Readonly<Record<string, (of: Lists, draw: Draw) => void>> = {
  rate: ({ rateVersions }, draw) => {
    const one = draw.of(rateVersions)
    rateVersions[rateVersions.indexOf(one)] = { ...one, percent: `${draw.below(9)}.${draw.below(10)}5` }
  },
  item: ({ items, itemTaxCodes }, draw) => {
    const one = draw.of(items)
    items[items.indexOf(one)] = { ...one, itemTaxCode: draw.of(itemTaxCodes).code }
  },
  party: ({ parties }, draw) => {
    const one = draw.of(parties)
    parties[parties.indexOf(one)] = { ...one, claims: one.claims === null ? 'resale' : null }
  },
  account: ({ postingRules }, draw) => {
    const one = draw.of(postingRules)
    postingRules[postingRules.indexOf(one)] = { ...one, account: draw.of(postingRules).account }
  },
  agency: ({ agencies }, draw) => {
    const one = draw.of(agencies)
    agencies[agencies.indexOf(one)] = { ...one, name: `${one.name} anew` }
  },
  rounding: ({ roundings }, draw) => {
    const one = draw.of(roundings)
    roundings[roundings.indexOf(one)] = { ...one, tie: draw.of(['half-even', 'truncate', 'half-away']) }
  },
  region: ({ regionRules }, draw) => {
    if (regionRules.length === 0) return
    const one = draw.of(regionRules)
    regionRules[regionRules.indexOf(one)] = { ...one, taxedBeforeDiscount: !one.taxedBeforeDiscount }
  },
  'no code rule': ({ codeRules }, draw) => void codeRules.splice(draw.below(codeRules.length), 1),
  'no certificate': ({ certificates }, draw) => void certificates.splice(draw.below(certificates.length), 1),
  'no registration': ({ registrations }, draw) =>
    void registrations.splice(draw.below(registrations.length), 1),
}

const agreed: Act = async ({ world, draw }) => {
  const register = await inEntity(world.services.database, 'larkspur', readBaseline)
  const name = draw.of(Object.keys(CHANGES))
  CHANGES[name]?.(register as unknown as Lists, draw)
  return `${name} ${(await world.as('preparer', 'PUT', `${MONTH}/baseline`, register)).statusCode}`
}

/** One object from a day on, ended, or gone, as it was previewed. */
const agreedUpon: Act = async ({ world, draw }) => {
  const kind = draw.of(['rateVersions', 'codeRules', 'items', 'postingRules', 'registrations'] as const)
  const view = await world.ok<AgreedView>('GET', `${MONTH}/baseline/${kind}`)
  if (view.rows.length === 0) return `no ${kind}`
  const { id, cells, from: version } = draw.of(view.rows)
  const code = draw.of(['GOODS', 'FOOD', 'TOOLS'])
  const other = { percent: `${draw.below(9)}.5`, itemTaxCode: code, number: 'N-9', account: '2216' }
  const changed = { ...cells, ...Object.fromEntries(Object.entries(other).filter(([path]) => path in cells)) }
  const change = draw.of<object>([
    { act: 'change', id, version, cells: changed, since: '2026-09-11' },
    { act: 'end', id, version, last: '2026-09-20' },
    { act: 'remove', id, version },
  ])
  const path = `${MONTH}/baseline/${kind}`
  const shown = await world.as('preparer', 'POST', `${path}/preview`, { change })
  if (shown.statusCode !== 200) return `${kind} ${id} ${shown.statusCode}`
  const { revision } = shown.json<{ revision: string }>()
  return `${kind} ${id} ${(await world.as('preparer', 'POST', path, { change, revision })).statusCode}`
}

/** An entry that nobody took for tax, until its account is agreed to be a tax account. */
const byHand: Act = async (acting) => {
  const { world, draw } = acting
  const register = await inEntity(world.services.database, 'larkspur', readBaseline)
  const rules = register.postingRules as unknown as Lists['postingRules']
  const accounts = await world.ownerSql<{ id: string; number: string }>(
    `select object_id as id, value->>'number' as number from held_object where system_id = 'ledger' and resource = 'accounts' and not removed and value->>'number' <> all ($1) order by 1`,
    [rules.map(({ account }) => account)],
  )
  const [debit, credit] = [draw.of(accounts), draw.of(accounts)]
  await world.desk('ledger', 'journal', {
    date: draw.of(['2026-08-12', '2026-09-12']),
    memo: 'By hand',
    debit: debit.id,
    credit: credit.id,
    amount: '12.34',
  })
  await world.run('/pulls', { systemIds: ['ledger'] })
  const tax = draw.of(rules.filter(({ kind }) => kind === 'tax'))
  rules[rules.indexOf(tax)] = { ...tax, account: credit.number }
  const answer = await world.as('preparer', 'PUT', `${MONTH}/baseline`, register)
  return `${credit.number} ${answer.statusCode}`
}

const defaulted: Act = async ({ world, draw }) => {
  const answer = await world.as('preparer', 'PUT', `${MONTH}/align/defaults`, {
    itemTaxCode: draw.of([null, 'GOODS', 'TOOLS']),
    partiesTaxable: draw.of([null, true, false]),
    newItems: draw.of(['left-open', 'taken-in']),
  })
  return String(answer.statusCode)
}

const generic: Act = async ({ world, draw }) => {
  const system = await world.ownerSql<{ id: string }>(
    `select system_id as id from system where role in ('billing', 'pos', 'commerce') order by 1`,
  )
  if (system.length === 0) return 'no system'
  const parties = await world.ownerSql<{ id: string }>(
    `select distinct object_id as id from party where upper_inf(recorded) and catch_all order by 1`,
  )
  const party = draw.of([null, ...parties.map(({ id }) => id)])
  const body = { systemId: draw.of(system).id, party }
  return `${party} ${(await world.as('preparer', 'PUT', `${MONTH}/align/generic`, body)).statusCode}`
}

const certified: Act = async ({ world, draw }) => {
  const parties = await world.ownerSql<{ id: string }>(
    `select distinct object_id as id from party where upper_inf(recorded) order by 1`,
  )
  const { id } = draw.of(parties)
  const answer = await world.as('preparer', 'PUT', `${MONTH}/certificates/${id}`, {
    code: null,
    number: `N-${draw.below(1_000_000)}`,
    reason: 'resale',
    regions: ['WN'],
    from: '2026-01-01',
    to: draw.of([null, '2026-09-10']),
  })
  return `${id} ${answer.statusCode}`
}

const ruled: Act = async ({ world, draw }) => {
  const { standing } = await world.ok<RulesView>('GET', `${MONTH}/rules`)
  const rule = {
    code: null,
    name: `Rule ${draw.below(100)}`,
    from: '2026-09-01',
    to: null,
    when: {
      item: null,
      text: draw.of(['frame', 'honey', 'hive']),
      region: null,
      party: null,
      method: null,
      channel: null,
    },
    then: { itemTaxCode: draw.of(['GOODS', 'TOOLS']), account: null, dimension: null },
  }
  const list = { rules: draw.is(30) ? [] : [rule], standing }
  const tried = await world.as('preparer', 'POST', `${MONTH}/rules/try`, list)
  const { revision } = tried.json<{ revision: string }>()
  return `${rule.when.text} ${(await world.as('preparer', 'PUT', `${MONTH}/rules`, { ...list, revision })).statusCode}`
}

const newRated: Act = async ({ world, draw }) => {
  const answer = await world.as('preparer', 'POST', `${MONTH}/new-rate`, {
    code: `WN-${draw.below(100_000)}`,
    name: `Newly rated ${draw.below(100_000)}`,
    jurisdictions: ['WN'],
    place: NEW_PLACE,
    from: '2026-09-01',
    to: null,
  })
  return String(answer.statusCode)
}

/** What the systems hold that nobody agreed on yet, as it is drafted. */
const decided: Act = async ({ world, draw }) => {
  const { revision, decisions } = await world.ok<DecisionsView>('GET', `${MONTH}/decisions`)
  const ready = decisions.filter(({ options, waitsFor }) => options.length > 0 && waitsFor.length === 0)
  if (ready.length === 0) return 'nothing'
  const { key, options } = draw.of(ready)
  const take = [{ key, option: draw.of(options).key }]
  return `${key} ${(await world.as('preparer', 'POST', `${MONTH}/decisions`, { revision, take })).statusCode}`
}

/** What a person knows and no system, of the first that is asked. */
const answered: Act = async ({ world, draw }) => {
  const { asked } = await world.ok<DecisionsView>('GET', `${MONTH}/decisions`)
  const from = draw.of(['2026-01-01', '2026-09-10'])
  const number = `A-${draw.below(1_000_000)}`
  const regions = asked.regions.map(({ id }) => id)
  const body = {
    registrations: asked.registrations.slice(0, 1).map(({ agency }) => ({ agency, number, from })),
    certificates: asked.certificates
      .slice(0, 1)
      .map(({ party }) => ({ party, number, regions, from, to: null })),
  }
  return String((await world.as('preparer', 'POST', `${MONTH}/decisions/answers`, body)).statusCode)
}

const bulked: Act = async ({ world, draw }) => {
  const kind = draw.of(['agencies', 'rates', 'items', 'parties', 'codes', 'accounts'] as const)
  const action = draw.of(['link', 'send', 'create', 'open', 'adopt', 'take-in', 'leave'] as const)
  const request = {
    kind,
    action,
    rows: { filter: {} },
    ...(action === 'leave' ? { reason: 'It is known' } : {}),
  }
  const shown = await world.as('preparer', 'POST', `${MONTH}/align/bulk/preview`, request)
  if (shown.statusCode >= 300) return `${kind} ${action} ${shown.statusCode}`
  const { revision, does } = shown.json<BulkPreview>()
  if (does.length === 0) return `${kind} ${action}: nothing`
  const begun = await world.as('preparer', 'POST', `${MONTH}/align/bulk`, { request, revision })
  if (begun.statusCode >= 300) return `${kind} ${action} ${begun.statusCode}`
  return `${kind} ${action} ${(await world.finish(begun.json<{ run: string }>().run)).state}`
}

const undone: Act = async ({ world }) => {
  const { batches } = await world.ok<{ batches: { id: string }[] }>('GET', `${MONTH}/align/batches`)
  const begun = await world.as('preparer', 'POST', `${MONTH}/align/undo`, { batchId: batches[0]?.id ?? '1' })
  if (begun.statusCode >= 300) return String(begun.statusCode)
  return (await world.finish(begun.json<{ run: string }>().run)).state
}

const mended: Act = async ({ world, draw }) => {
  const { causes } = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
  const remedies = causes.flatMap((cause) => cause.remedies)
  if (remedies.length === 0) return 'nothing to mend'
  const remedy = draw.of(remedies)
  const shown = await world.as('preparer', 'POST', `${MONTH}/mend/preview`, { remedy })
  if (shown.statusCode >= 300) return `${remedy.kind} ${shown.statusCode}`
  const { revision } = shown.json<RemedyPreview>()
  const begun = await world.as('preparer', 'POST', `${MONTH}/mend`, { remedy, revision })
  if (begun.statusCode >= 300) return `${remedy.kind} ${begun.statusCode}`
  return `${remedy.kind} ${(await world.finish(begun.json<{ run: string }>().run)).state}`
}

const purposed: Act = async ({ world, draw }) => {
  const kinds = draw.of([[], ['tax']])
  return String(
    (await world.as('preparer', 'PUT', `${MONTH}/align/accounts/2216/purpose`, { kinds })).statusCode,
  )
}

const left: Act = async ({ world, draw }) => {
  const { rows } = await world.ok<{
    rows: { id: string; findings: { code: string; systemId: string | null }[] }[]
  }>('GET', `${MONTH}/align/rates?limit=500`)
  const found = rows.filter(({ findings }) => findings.length > 0)
  if (found.length === 0) return 'no findings'
  const row = draw.of(found)
  const [finding] = row.findings
  const answer = await world.as('preparer', 'PUT', `${MONTH}/align/left`, {
    kind: 'rates',
    rowId: row.id,
    code: finding?.code,
    systemId: finding?.systemId ?? null,
    reason: 'It is known',
  })
  return `${row.id} ${answer.statusCode}`
}

const imported: Act = async ({ world, draw }) => {
  const out = await world.as('preparer', 'GET', `${MONTH}/files/baseline/items?format=csv`)
  const lines = out.body.split('\n')
  const at = 1 + draw.below(Math.max(lines.length - 2, 1))
  lines[at] = (lines[at] ?? '').replace(/GOODS|WARE|FOOD|TOOLS/, draw.of(['GOODS', 'TOOLS']))
  const query = new URLSearchParams({ target: 'baseline', name: 'items.csv', sheet: 'items' })
  const brought = await world.upload(
    'preparer',
    `${MONTH}/files/imports?${query.toString()}`,
    Buffer.from(lines.join('\n')),
  )
  const { import: id, run } = brought.json<{ import: string; run: string }>()
  await world.finish(run)
  const path = `${MONTH}/files/imports/${id}`
  const { sheets } = await world.ok<{ sheets: { name: string; mapping: object }[] }>('GET', path)
  const mappings = Object.fromEntries(sheets.map(({ name, mapping }) => [name, mapping]))
  await world.finish((await world.ok<{ run: string }>('POST', `${path}/read`, { mappings })).run)
  const applied = await world.as('preparer', 'POST', `${path}/apply`, { mode: 'part', goodOnly: true })
  if (applied.statusCode >= 300) return String(applied.statusCode)
  return (await world.finish(applied.json<{ run: string }>().run)).state
}

export const ACTS = {
  linked,
  linkedClear,
  registered,
  thresholdSet,
  scoped,
  computed,
  keptThere,
  opened,
  atSource,
  setUpThere,
  inLedger,
  posted,
  withdrawn,
  inDoubt,
  agreed,
  agreedUpon,
  byHand,
  defaulted,
  generic,
  certified,
  ruled,
  newRated,
  decided,
  answered,
  bulked,
  undone,
  mended,
  purposed,
  left,
  kept,
  doubted,
  imported,
  reconnected,
} satisfies Readonly<Record<string, Act>>

/** A route that writes: the acts that walk it, or why nothing that is proved can hang on it. */
export const WRITTEN_BY: Readonly<Record<string, readonly (keyof typeof ACTS)[] | string>> = {
  'PUT links': ['linked'],
  'DELETE links': ['linked'],
  'POST links/clear': ['linkedClear'],
  'PUT registrations/{id}': ['registered'],
  'PUT thresholds/{id}': ['thresholdSet'],
  'POST systems/{system}/scope/preview': 'shows what a scope would leave out',
  'PUT systems/{system}/scope': ['scoped'],
  'PUT systems/{system}/computes-for': ['computed', 'keptThere'],
  'POST opening/preview': 'shows what an opening day would leave out',
  'PUT opening': ['opened'],
  'PUT opening/accounts/{account}': 'keeps what an account opened with, which no figure of a month rests on',
  'PUT opening/accounts/{account}/aside': 'keeps why an account needs no list',
  'POST opening/accounts/{account}/read': 'reads a file, and keeps nothing',
  'POST pulls': ['atSource', 'setUpThere', 'inLedger'],
  'POST checks': 'asks systems how they are',
  'POST post/rehearsal': ['posted'],
  'POST post/runs/preview': 'shows what would be sent',
  'POST post/runs': ['posted'],
  'POST post/withdrawals/preview': 'shows what would be taken back',
  'POST post/withdrawals': ['withdrawn'],
  'POST post/look-again': ['inDoubt'],
  'POST post/not-there': ['inDoubt'],
  'POST post/looked': 'says that what was sent is known, which moves no figure',
  'PUT baseline': ['agreed', 'byHand'],
  'POST baseline/{kind}/preview': 'shows what would be agreed',
  'POST baseline/{kind}': ['agreedUpon'],
  'POST copied/{from}/preview': 'shows what would be taken from elsewhere',
  'POST copied/{from}': 'takes into the baseline, as an import does',
  'POST copied/{from}/left': 'keeps that something is left as it is, which no figure rests on',
  'PUT copied/{from}': 'keeps whether it is followed, which no figure rests on',
  'PUT align/defaults': ['defaulted'],
  'PUT align/generic': ['generic'],
  'PUT certificates/{party}': ['certified'],
  'POST certificates/{party}/files': 'keeps a file beside a certificate',
  'DELETE attached/{file}': 'takes that file away',
  'PUT collecting/{id}': 'says who collects, which decides no figure',
  'POST rules/try': 'shows what rules would decide',
  'PUT rules': ['ruled'],
  'POST new-rate': ['newRated'],
  'POST decisions': ['decided'],
  'POST decisions/answers': ['answered'],
  'POST decisions/seen': 'keeps who read what is held, which no figure rests on',
  'POST decisions/seen/files': 'keeps what was read beside who read it',
  'POST align/bulk/preview': 'shows what would be done',
  'POST align/bulk': ['bulked'],
  'POST align/undo': ['undone'],
  'POST mend/preview': 'shows what would be mended',
  'POST mend': ['mended'],
  'PUT align/accounts/{account}/purpose': ['purposed'],
  'PUT align/left': ['left'],
  'POST tie-out/kept': ['kept'],
  'POST tie-out/kept/review': ['kept'],
  'PUT tie-out/ticks': 'ticks a line of somebody’s own list',
  'POST evidence/doubt': ['doubted'],
  'POST full-proof': 'proves what waits to be proved, compares, and doubts what differs',
  'POST files/imports': ['imported'],
  'POST files/imports/{import}/read': ['imported'],
  'POST files/imports/{import}/apply': ['imported'],
  'DELETE files/imports/{import}': 'drops a file that was not taken',
  'POST systems/{system}/asked': 'asks a bridge who it is, and keeps nothing',
  'PUT /systems/{system}': ['reconnected'],
  'DELETE /systems/{system}': ['reconnected'],
  'PUT /systems/{system}/files': 'connects a system that holds nothing yet',
  'POST /invitations': 'asks somebody to connect a system',
  'PUT /closed': 'says whether the entity is read alone',
  'PUT /members': 'says who may see the entity',
  'DELETE /members/{email}': 'says who may see the entity',
  'POST /runs/{run}/cancel': 'a run that is cancelled proves what it took by then, as pulls do',
}
