import { asJson, asList, asText, NO_VALUE } from '../database/copied.ts'
import type { RowOf } from '../database/row.ts'
import {
  absolute,
  diagnose,
  explanationKey,
  judge,
  MOST_PAIRS,
  multiply,
  otherRoundings,
  ratio,
  round,
  sum,
  together,
  type Assumption,
  type Exchange,
  type Explanation,
  type Recomputable,
  type UnprovedMember,
  type Verdict,
  lastDayOf,
} from '@axion/core'
import { digestOf } from '../database/json.ts'
import { departuresOf } from '../setUp/departures.ts'
import type { Grounds } from './grounds.ts'
import type { Unit } from './gather.ts'
import { undecidedNet } from './matter.ts'
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

function recomputableOf({ source, expected }: Unit, { index }: Grounds): Recomputable | null {
  return source && { document: source.document, determination: source.determination, expected, index }
}

/** What is proved of a unit, and what is not. */
function judged(unit: Unit, grounds: Grounds): Pick<Judged, 'verdict' | 'bySetUp'> {
  const { source } = unit
  const of = recomputableOf(unit, grounds)
  let bySetUp = false
  const verdict = judge({
    stated: unit.stated,
    committed: unit.committed,
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
  return { verdict, bySetUp }
}

function weigh(
  unit: Unit,
  grounds: Grounds,
  departures: ReadonlyMap<string, readonly Assumption[]>,
  most: number,
): Judged {
  const { source } = unit
  const { verdict, ...looked } = judged(unit, grounds)
  let { bySetUp } = looked
  let pairsLeft = 0
  const of = recomputableOf(unit, grounds)
  if (!source || !of || unit.booked.length > 1 || unit.voided.source || unit.voided.ledger)
    return { verdict, reproduced: [], bySetUp, pairsLeft: 0, waits: false }
  const ledgerId = grounds.systems.find((s) => s.row.role === 'ledger')?.row.system_id ?? ''
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

/** What of each agency and account is not proved, and what net of it, in the base currency. */
function astrayOf({ source }: Unit, { unproved, unprovedNet }: Verdict, currency: string) {
  const exchange = source?.document.exchange ?? null
  const own = unproved.map((member) => ({ ...member, tax: inBase(member, currency, exchange) }))
  const net = exchange ? round(multiply(ratio(unprovedNet), exchange.rate)) : unprovedNet
  return { own, tax: sum(own.map((one) => one.tax)), net: absolute(net) }
}

/** What a unit by itself decides of its verdict, whatever explains it and whoever settles it: by column, and SQL of a unit `u` that says the same. */
export const JUDGED_COLUMNS = {
  proved: 'u.proved',
  headline: 'u.headline',
  facets: 'u.facets',
  odd: 'u.odd',
  unproved: 'case when u.settled is null then u.unproved else u.astray end',
  unproved_net: 'case when u.settled is null then u.unproved_net else u.astray_net end',
} as const satisfies Partial<Record<(typeof VERDICT_COLUMNS)[number], string>>

/** Its line of JUDGED_COLUMNS. @param unit null of what nothing has to be weighed of */
export function judgedLine(unit: Unit | null, { posted }: Composed, grounds: Grounds): string {
  if (!unit) return `${posted}\t${NO_VALUE}\t{}\t{}\t0\t0`
  const { verdict } = judged(unit, grounds)
  const { tax, net } = astrayOf(unit, verdict, grounds.currency)
  const { proved, headline, facets, odd } = verdict
  return [proved, asText(headline), asList(facets), asList(odd), tax, net].join('\t')
}

function asLines(
  unit: Unit,
  { verdict, reproduced, bySetUp, pairsLeft, waits }: Judged,
  currency: string,
): Weighed {
  const { own, tax: unproved, net } = astrayOf(unit, verdict, currency)
  return {
    verdict: [
      verdict.proved,
      asText(verdict.headline),
      asList(verdict.facets),
      asList(verdict.odd),
      asText(verdict.missingWhy),
      unproved,
      net,
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
