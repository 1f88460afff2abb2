import type { Columns } from '../database/row.ts'
import {
  absolute,
  diagnose,
  explanationKey,
  judge,
  MOST_PAIRS,
  multiply,
  otherRoundings,
  ranked,
  ratio,
  round,
  sum,
  together,
  type Assumption,
  type Exchange,
  type Explanation,
  type UnprovedMember,
  type Verdict,
  lastDayOf,
} from '@axion/core'
import { insertRows, json, type Books } from '../database/connection.ts'
import { departuresOf } from '../setUp/departures.ts'
import type { Grounds, Numbered } from './gather.ts'
import { matterKey, undecidedNet, type Matter } from './matter.ts'

/** An explanation of what one voice says; stated and booked are diagnosed apart. */
export interface Reproduced {
  readonly voice: 'stated' | 'booked'
  readonly assumptions: Explanation
}

interface Judged {
  readonly unit: Numbered
  readonly verdict: Verdict
  readonly reproduced: readonly Reproduced[]
}

/** How many recomputations all pairs of assumptions of one proof may take together. */
const PAIRS_IN_ALL = 40_000

/** What the weighing of one proof shares from slice to slice. */
export interface Weighing {
  readonly departures: ReadonlyMap<string, readonly Assumption[]>
  /** Recomputations that pairs of assumptions may still take. */
  pairs: number
}

export function weighingOf({ systems, index }: Grounds, period: string): Weighing {
  return {
    departures: new Map(
      systems.map((held) => [held.row.system_id, departuresOf(held, index, lastDayOf(period))]),
    ),
    pairs: PAIRS_IN_ALL,
  }
}

/** Weighs and diagnoses units whose signatures differ, and writes what came of it; causes are ranked over the whole month. */
export async function weighUnits(
  grounds: Grounds,
  weighing: Weighing,
  units: readonly Numbered[],
): Promise<void> {
  const { trx, entityId } = grounds
  const ids = units.map((unit) => unit.unitId)
  const differing = new Set(
    await trx('tie_unit')
      .where({ entity_id: entityId, differs: true })
      .whereRaw('unit_id = any(?)', [ids])
      .pluck('unit_id'),
  )
  const judged = units
    .filter((unit) => differing.has(unit.unitId))
    .map((unit) => {
      const weighed = weigh(unit, grounds, weighing.departures, Math.min(weighing.pairs, MOST_PAIRS))
      if (weighed.reproduced.length === 0 && weighed.verdict.headline !== 'missing')
        weighing.pairs -= MOST_PAIRS
      return weighed
    })
  await writeVerdicts(grounds, judged)
  await trx.raw('update tie_unit set proved = true where entity_id = ? and unit_id = any(?)', [
    entityId,
    ids.filter((id) => !differing.has(id)),
  ])
}

function weigh(
  unit: Numbered,
  { index, systems }: Grounds,
  departures: ReadonlyMap<string, readonly Assumption[]>,
  mostPairs: number,
): Judged {
  const { source } = unit
  const of = source && {
    document: source.document,
    determination: source.determination,
    expected: unit.expected,
    index,
  }
  const verdict = judge({
    stated: unit.stated,
    expected: source ? unit.expected : null,
    expectedComplete: source?.determination.complete ?? true,
    undecided: source ? undecidedNet(source) : 0n,
    flaws: unit.flaws.map((flaw) => flaw.facet),
    booked: unit.booked,
    missingWhy: unit.why,
    edited: unit.edited,
    voided: unit.voided,
    otherRoundings: () => (of ? otherRoundings(of) : []),
  })
  if (!source || !of || unit.booked.length > 1 || unit.voided.source || unit.voided.ledger)
    return { unit, verdict, reproduced: [] }
  const ledgerId = systems.find((s) => s.row.role === 'ledger')?.row.system_id ?? ''
  const explain = (voice: 'stated' | 'booked'): Reproduced[] => {
    const odd = voice === 'stated' ? unit.stated : unit.booked.length === 0 ? null : together(unit.booked)
    const from = departures.get(voice === 'stated' ? source.stored.system_id : ledgerId) ?? []
    return odd === null
      ? []
      : diagnose(of, odd, from, Math.max(mostPairs, 0)).map((assumptions) => ({ voice, assumptions }))
  }
  // Where the baseline stands alone, the source's mistake went through: it is the stated voice that is explained.
  const reproduced = [
    ...(verdict.odd.includes('booked') ? explain('booked') : []),
    ...(verdict.odd.includes('stated') || verdict.odd.includes('expected') ? explain('stated') : []),
  ]
  return { unit, verdict, reproduced }
}

export function reproducedKey({ voice, assumptions }: Reproduced): string {
  return `${voice}: ${explanationKey(assumptions)}`
}

async function writeVerdicts(
  { trx, entityId, currency: baseCurrency }: Grounds,
  judged: readonly Judged[],
): Promise<void> {
  const shares: object[] = []
  const rows = judged.map(({ unit, verdict, reproduced }) => {
    const exchange = unit.source?.document.exchange ?? null
    const own = verdict.unproved.map((member) => ({ ...member, tax: inBase(member, baseCurrency, exchange) }))
    own.forEach(({ agency, account, period, tax }, place) =>
      shares.push({
        entity_id: entityId,
        unit_id: unit.unitId,
        place,
        agency,
        account,
        currency: baseCurrency,
        period,
        tax,
      }),
    )
    const net = exchange ? round(multiply(ratio(verdict.unprovedNet), exchange.rate)) : verdict.unprovedNet
    return {
      unit_id: unit.unitId,
      proved: verdict.proved,
      headline: verdict.headline,
      facets: verdict.facets,
      odd: verdict.odd,
      missing_why: verdict.missingWhy,
      unproved: sum(own.map((u) => u.tax)),
      unproved_net: absolute(net),
      assumptions: reproduced,
    }
  })
  await trx.raw(
    `update tie_unit u set proved = v.proved, headline = v.headline, facets = v.facets, odd = v.odd, missing_why = v.missing_why,
       unproved = v.unproved, unproved_net = v.unproved_net, assumptions = v.assumptions
     from jsonb_populate_recordset(null::tie_unit, ?::jsonb) v where u.entity_id = ? and u.unit_id = v.unit_id`,
    [json(rows), entityId],
  )
  await insertRows(trx, 'unproved_share', shares)
}

function inBase({ currency, tax }: UnprovedMember, baseCurrency: string, exchange: Exchange | null): bigint {
  return currency === baseCurrency || exchange === null ? tax : round(multiply(ratio(tax), exchange.rate))
}

interface OpenUnit extends Columns<
  'unit',
  'unit_id' | 'headline' | 'missing_why' | 'odd' | 'proved' | 'settled' | 'assumptions' | 'cause' | 'matter'
> {
  readonly assumptions: readonly Reproduced[]
  readonly matter: Matter | null
  readonly status: string | null
}

const NOT_TAKEN: readonly (string | null)[] = ['draft', 'out-of-range', 'kind-off']

/**
 * Gives each open unit of the month its cause: of the equals that reproduce it, the one that explains most of the month's other
 * differences comes first. Documents with the same cause share its key; null where nothing is at fault.
 */
export async function rankCauses({ trx, entityId }: Books, period: string): Promise<void> {
  const open = (await trx('tie_unit as u')
    .leftJoin(
      'source_document as d',
      (on) =>
        void on
          .on('d.entity_id', 'u.entity_id')
          .on('d.system_id', 'u.system_id')
          .on('d.document_id', 'u.document_id'),
    )
    .where({ 'u.entity_id': entityId, 'u.period': period, 'u.differs': true })
    .select(
      'u.unit_id',
      'u.headline',
      'u.missing_why',
      'u.odd',
      'u.proved',
      'u.settled',
      'u.assumptions',
      'u.cause',
      'u.matter',
      'd.status',
    )) as OpenUnit[]
  const explains = new Map<string, number>()
  for (const key of open.flatMap((u) => u.assumptions.map(reproducedKey)))
    explains.set(key, (explains.get(key) ?? 0) + 1)
  const weight = (r: Reproduced): number => explains.get(reproducedKey(r)) ?? 0
  const rows = open.map((u) => {
    const equals = ranked(u.assumptions, weight)
    return { unit_id: u.unit_id, assumptions: equals, cause: causeOf(u, equals[0]) }
  })
  await trx.raw(
    `update tie_unit u set cause = v.cause, assumptions = v.assumptions from jsonb_populate_recordset(null::tie_unit, ?::jsonb) v
     where u.entity_id = ? and u.unit_id = v.unit_id and (u.cause is distinct from v.cause or u.assumptions is distinct from v.assumptions)`,
    [json(rows), entityId],
  )
}

function causeOf(
  { proved, settled, headline, missing_why: why, odd, matter, status }: OpenUnit,
  first: Reproduced | undefined,
): string | null {
  if (proved || settled !== null || (headline === 'missing' && NOT_TAKEN.includes(why))) return null
  if (headline === 'missing') return `missing|${why}`
  if (headline === 'voided') return `voided|${status === 'void' ? 'source' : 'ledger'}`
  if (headline === 'orphan' || headline === 'duplicate' || headline === 'edited' || headline === 'period')
    return matter && matter.kind !== 'moved' && headline !== 'orphan' ? matterKey(matter) : headline
  if (matter && matter.kind !== 'moved') return matterKey(matter)
  if (!first && matter && headline === 'account') return matterKey(matter)
  return first ? reproducedKey(first) : `unexplained|${headline}|${odd.join('+')}`
}
