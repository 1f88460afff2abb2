import { asJson, asList, asText, NO_VALUE } from '../database/copied.ts'
import type { Columns, RowOf } from '../database/row.ts'
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
import { type Books } from '../database/connection.ts'
import { digestOf, json } from '../database/json.ts'
import { departuresOf } from '../setUp/departures.ts'
import type { Grounds } from './grounds.ts'
import type { Unit } from './gather.ts'
import { matterKey, undecidedNet, type Matter } from './matter.ts'
import type { Composed } from './composed.ts'

/** An explanation of what one voice says; stated and booked are diagnosed apart. */
export interface Reproduced {
  readonly voice: 'stated' | 'booked'
  readonly assumptions: Explanation
}

interface Judged {
  readonly verdict: Verdict
  readonly reproduced: readonly Reproduced[]
  /** Whether the set-up as a whole was looked through: what it comes to may be another whatever changes of it. */
  readonly bySetUp: boolean
  /** Pairs of assumptions that were not tried, and whether the proof had none left to try them. */
  readonly pairsLeft: number
  readonly waits: boolean
}

/** How many recomputations all pairs of assumptions of one proof may take together. */
const PAIRS_IN_ALL = 40_000

/** What the weighing of one proof shares from slice to slice. */
export interface Weighing {
  readonly departures: ReadonlyMap<string, readonly Assumption[]>
  /** What explanations are looked for in beside the document: baseline and departures, as a digest. */
  readonly ground: string
  /** Recomputations that pairs of assumptions may still take. */
  pairs: number
}

export function weighingOf({ systems, index }: Grounds, period: string): Weighing {
  const departures = new Map(
    systems.map((held) => [held.row.system_id, departuresOf(held, index, lastDayOf(period))]),
  )
  return { departures, ground: digestOf([index.baseline, [...departures]]), pairs: PAIRS_IN_ALL }
}

/** How many pairs of assumptions may be tried for the next unit. */
export function mostPairs({ pairs }: Weighing): number {
  return Math.max(Math.min(pairs, MOST_PAIRS), 0)
}

/** What nothing explained took all of its share of pairs. */
export function spend(weighing: Weighing): void {
  weighing.pairs -= MOST_PAIRS
}

/** The columns of a verdict, in the order in which its line has them. */
export const VERDICT_COLUMNS = [
  'proved',
  'headline',
  'facets',
  'odd',
  'missing_why',
  'unproved',
  'unproved_net',
  'assumptions',
  'by_set_up',
  'pairs_left',
  'search_waits',
] as const satisfies readonly (keyof RowOf<'unit'>)[]
export const SHARE_COLUMNS = [
  'place',
  'agency',
  'account',
  'currency',
  'period',
  'tax',
] as const satisfies readonly (keyof RowOf<'unproved_share'>)[]

/** A verdict, and what of each agency and account is not proved, as lines of their columns. */
export interface Weighed {
  readonly verdict: string
  readonly shares: readonly string[]
}

const UNSEARCHED = 'false\t0\tfalse'
const PROVED = `true\t${NO_VALUE}\t{}\t{}\t${NO_VALUE}\t0\t0\t[]\t${UNSEARCHED}`

/** What nothing has to be weighed of; what is not posted is proved by nobody, and missing from nowhere. */
export function unweighed({ posted, notTaken }: Composed): Weighed {
  return {
    verdict: posted ? PROVED : `false\t${NO_VALUE}\t{}\t{}\t${asText(notTaken)}\t0\t0\t[]\t${UNSEARCHED}`,
    shares: [],
  }
}

/** Weighs and diagnoses a unit whose signatures differ; causes are ranked over the whole month. */
export function weighUnit(unit: Unit, grounds: Grounds, weighing: Weighing): Weighed {
  const weighed = weigh(unit, grounds, weighing.departures, mostPairs(weighing))
  if (weighed.reproduced.length === 0 && weighed.verdict.headline !== 'missing') spend(weighing)
  return asLines(unit, weighed, grounds.currency)
}

function weigh(
  unit: Unit,
  { index, systems }: Grounds,
  departures: ReadonlyMap<string, readonly Assumption[]>,
  most: number,
): Judged {
  const { source } = unit
  let [bySetUp, pairsLeft] = [false, 0]
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
    otherRoundings: () => {
      bySetUp = true
      return of ? otherRoundings(of) : []
    },
  })
  if (!source || !of || unit.booked.length > 1 || unit.voided.source || unit.voided.ledger)
    return { verdict, reproduced: [], bySetUp, pairsLeft: 0, waits: false }
  const ledgerId = systems.find((s) => s.row.role === 'ledger')?.row.system_id ?? ''
  const explain = (voice: 'stated' | 'booked'): Reproduced[] => {
    const odd = voice === 'stated' ? unit.stated : unit.booked.length === 0 ? null : together(unit.booked)
    const from = departures.get(voice === 'stated' ? source.stored.system_id : ledgerId) ?? []
    if (odd === null) return []
    bySetUp = true
    const found = diagnose(of, odd, from, most)
    pairsLeft += found.pairsLeft
    return found.explanations.map((assumptions) => ({ voice, assumptions }))
  }
  // Where the baseline stands alone, the source's mistake went through: it is the stated voice that is explained.
  const reproduced = [
    ...(verdict.odd.includes('booked') ? explain('booked') : []),
    ...(verdict.odd.includes('stated') || verdict.odd.includes('expected') ? explain('stated') : []),
  ]
  return { verdict, reproduced, bySetUp, pairsLeft, waits: pairsLeft > 0 && most < MOST_PAIRS }
}

export function reproducedKey({ voice, assumptions }: Reproduced): string {
  return `${voice}: ${explanationKey(assumptions)}`
}

function asLines(
  { source }: Unit,
  { verdict, reproduced, bySetUp, pairsLeft, waits }: Judged,
  currency: string,
): Weighed {
  const exchange = source?.document.exchange ?? null
  const own = verdict.unproved.map((member) => ({ ...member, tax: inBase(member, currency, exchange) }))
  const net = exchange ? round(multiply(ratio(verdict.unprovedNet), exchange.rate)) : verdict.unprovedNet
  return {
    verdict: [
      verdict.proved,
      asText(verdict.headline),
      asList(verdict.facets),
      asList(verdict.odd),
      asText(verdict.missingWhy),
      sum(own.map((u) => u.tax)),
      absolute(net),
      asJson(reproduced),
      bySetUp,
      pairsLeft,
      waits,
    ].join('\t'),
    shares: own.map(
      ({ agency, account, period, tax }, place) =>
        `${place}\t${asText(agency)}\t${asText(account)}\t${currency}\t${period}\t${tax}`,
    ),
  }
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
