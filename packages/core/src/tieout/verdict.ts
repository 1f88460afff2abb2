import { groupBy } from '../baseline/lookup.ts'
import type { MinorUnits } from '../money/currency.ts'
import type { Voice, VoiceFacts } from './facts.ts'
import { grainOf, memberKey, membersOf, type Grain, type Member } from './members.ts'

import { agree, commonGrain } from './signature.ts'
import { netGaps, unprovedNetOf, unprovedOf, type UnprovedMember } from './unproved.ts'

/** In the order in which the headline is chosen (K9). */
export const FACETS = [
  'orphan',
  'missing',
  'duplicate',
  'voided',
  'currency',
  'period',
  'account',
  'rounding',
  'agency',
  'amount',
  'edited',
] as const
export type Facet = (typeof FACETS)[number]

/** Why a unit is not in the ledger. The last three are no fault: they were not to be taken. */
export type MissingWhy =
  'waiting' | 'sending' | 'sent' | 'failed' | 'in-doubt' | 'withdrawn' | 'out-of-range' | 'kind-off' | 'draft'
const NOT_TAKEN: readonly string[] = ['out-of-range', 'kind-off', 'draft']

export interface TieUnitVoices {
  /** Null for an orphan: something booked that no source has. */
  readonly stated: VoiceFacts | null
  readonly expected: VoiceFacts | null
  /** Whether the baseline could work the expected tax out whole. */
  readonly expectedComplete: boolean
  /** What lines come to, in the document's currency, of which nobody can say the tax yet. */
  readonly undecided?: MinorUnits
  /** What a separate tax service keeps of it; null where none computes for its source. A second voice of what was stated. */
  readonly committed?: VoiceFacts | null
  /** Each booking that stands in the ledger's journal; none where it has nothing of the unit. */
  readonly booked: readonly VoiceFacts[]
  /** What bars a proof though the amounts agree: what was read is older than its source, or names who is not there. */
  readonly flaws?: readonly Facet[]
  readonly missingWhy: MissingWhy
  readonly voided: { readonly source: boolean; readonly ledger: boolean }
  /** The ledger's revision moved after we booked. */
  readonly edited: boolean
  /** What the other places of K1 would give, for the facet `rounding`; asked for only where amounts differ. */
  readonly otherRoundings: () => readonly VoiceFacts[]
}

export interface Verdict {
  readonly proved: boolean
  /** Not to be taken, and no fault: counts for nothing. */
  readonly notTaken: boolean
  readonly facets: readonly Facet[]
  readonly headline: Facet | null
  readonly missingWhy: MissingWhy | null
  /** The voice that stands alone, all three where none agrees with another; and a tax service that agrees with neither what was stated nor what is expected. */
  readonly odd: readonly (Voice | 'committed')[]
  readonly splitStated: boolean
  /** In the row where it was expected; adds up to the unit's unproved tax. */
  readonly unproved: readonly UnprovedMember[]
  /** A difference of net total, counted only where no tax differs. */
  readonly unprovedNet: MinorUnits
}

const NOTHING: VoiceFacts = { facts: [], nets: [] }

/** Weighs the three voices of one tie unit (K9). */
export function judge(unit: TieUnitVoices): Verdict {
  const stated = unit.stated ?? NOTHING
  const expected = unit.expected ?? NOTHING
  const booked = together(unit.booked)
  const isBooked = unit.booked.length > 0
  const notTaken = !isBooked && unit.stated !== null && NOT_TAKEN.includes(unit.missingWhy)
  const facets = new Set<Facet>()

  if (unit.stated === null) facets.add('orphan')
  // What is void and was never booked, or is no more, is missing nowhere.
  else if (!isBooked && !unit.voided.source) facets.add('missing')
  if (unit.booked.length > 1) facets.add('duplicate')
  if (isBooked && unit.voided.source !== unit.voided.ledger) facets.add('voided')
  if (unit.edited) facets.add('edited')
  for (const flaw of unit.flaws ?? []) facets.add(flaw)
  // What is void on one side is not compared with what is not there.
  if (unit.stated !== null && !facets.has('voided')) {
    for (const one of unit.booked)
      for (const facet of facetsBetween(expected, one, unit.otherRoundings)) facets.add(facet)
    for (const facet of facetsBetween(expected, stated, unit.otherRoundings)) facets.add(facet)
    if (!unit.expectedComplete) facets.add('amount')
    if (unit.edited && owedMoved(expected, booked)) facets.add('account')
  }

  const committed = unit.committed ?? null
  const apart = committed !== null && !agree(stated, committed)
  const claimed = unit.stated === null ? NOTHING : expected
  const unproved = notTaken
    ? []
    : [
        unprovedOf(unit.stated, claimed, booked),
        ...(apart ? [unprovedOf(committed, claimed, booked)] : []),
      ].reduce(more)
  const currency = [...expected.nets, ...stated.nets, ...booked.nets][0]?.currency ?? ''
  return {
    proved: facets.size === 0,
    notTaken,
    facets: FACETS.filter((facet) => facets.has(facet)),
    headline: FACETS.find((facet) => facets.has(facet)) ?? null,
    missingWhy: facets.has('missing') ? unit.missingWhy : null,
    odd: [
      ...oddOf(stated, expected, booked),
      ...(apart && !agree(expected, committed) ? (['committed'] as const) : []),
    ],
    splitStated: unit.stated !== null && grainOf(stated).agency,
    unproved,
    unprovedNet:
      notTaken || unproved.length > 0
        ? 0n
        : [
            unprovedNetOf(unit.stated, expected, booked, currency),
            unit.edited ? owedMoved(expected, booked) : 0n,
            unit.undecided ?? 0n,
          ].reduce(largest),
  }
}

/** All bookings of a unit as one voice. */
export function together(voices: readonly VoiceFacts[]): VoiceFacts {
  return {
    facts: voices.flatMap((v) => v.facts),
    nets: voices.flatMap((v) => v.nets),
    owed: voices.flatMap((v) => v.owed ?? []),
  }
}

function oddOf(stated: VoiceFacts, expected: VoiceFacts, booked: VoiceFacts): Voice[] {
  const statedHolds = agree(stated, expected)
  const bookedHolds = agree(expected, booked)
  if (statedHolds && bookedHolds) return []
  if (statedHolds) return ['booked']
  if (bookedHolds) return ['stated']
  return agree(stated, booked) ? ['expected'] : ['stated', 'expected', 'booked']
}

/** Every way in which a voice differs from the expected one, at the finest grain that both have. */
function facetsBetween(
  expected: VoiceFacts,
  other: VoiceFacts,
  otherRoundings: () => readonly VoiceFacts[],
): Facet[] {
  if (agree(expected, other)) return []
  const grain = commonGrain(expected, other)
  const facets: Facet[] = []
  const baseMoved = !sameInBase(membersOf(expected, grain), membersOf(other, grain))
  if (baseMoved || !sameSet(currenciesOf(expected), currenciesOf(other))) facets.push('currency')
  if (!sameSet(periodsOf(expected), periodsOf(other))) facets.push('period')
  const differs = (project: (m: Member) => string, at: Grain): boolean =>
    !sameSums(membersOf(expected, at), membersOf(other, at), project)

  const gaps = netGaps(expected, other)
  const total = (by: (gap: (typeof gaps)[number]) => string): [string, bigint][] =>
    [...groupBy(gaps, by)].map(([key, of]) => [key, of.reduce((t, { gap }) => t + gap, 0n)])
  const netDiffers = total(({ currency }) => currency).some(([, gap]) => gap !== 0n)
  const holds = new Set(expected.nets.filter((n) => n.net !== 0n).map((n) => n.account))
  // Moved: all is there, only elsewhere; or something stands where nothing is expected.
  const moved = total((n) => (n.isRounding || n.account === null ? '' : n.account)).some(
    ([account, gap]) => account !== '' && gap !== 0n && (!netDiffers || !holds.has(account)),
  )
  if (moved) facets.push('account')
  if (netDiffers) facets.push('amount')

  const byAgency = (m: Member): string => `${m.agency ?? ''}|${m.currency}`
  if (
    grain.account &&
    differs((m) => `${byAgency(m)}|${m.account ?? ''}`, grain) &&
    accountAstray(expected, other, grain)
  )
    facets.push('account')
  if (differs(byAgency, grain)) {
    if (
      otherRoundings().some((voice) => sameSums(membersOf(voice, grain), membersOf(other, grain), byAgency))
    )
      facets.push('rounding')
    else facets.push(differs((m) => m.currency, grain) ? 'amount' : 'agency')
  }
  if (facets.length === 0) facets.push('amount')
  return facets
}

/** Some agency has its whole amount, only not in its account. */
function accountAstray(expected: VoiceFacts, other: VoiceFacts, grain: Grain): boolean {
  const left = membersOf(expected, grain)
  const right = membersOf(other, grain)
  return [...new Set(left.map((m) => `${m.agency ?? ''}|${m.currency}`))].some((key) => {
    const of = (members: readonly Member[]): Member[] =>
      members.filter((m) => `${m.agency ?? ''}|${m.currency}` === key)
    return sameSums(of(left), of(right), () => '') && !sameSums(of(left), of(right), (m) => m.account ?? '')
  })
}

/** How much of what is owed on the whole stands with others than who should owe it. */
function owedMoved(expected: VoiceFacts, booked: VoiceFacts): MinorUnits {
  const gaps = new Map<string | null, MinorUnits>()
  for (const { account, amount } of expected.owed ?? []) gaps.set(account, (gaps.get(account) ?? 0n) - amount)
  for (const { account, amount } of booked.owed ?? []) gaps.set(account, (gaps.get(account) ?? 0n) + amount)
  if (gaps.has(null)) return 0n
  const over = [...gaps.values()].reduce((t, gap) => (gap > 0n ? t + gap : t), 0n)
  const under = [...gaps.values()].reduce((t, gap) => (gap < 0n ? t - gap : t), 0n)
  return over < under ? over : under
}

/** What more is not proved of: whichever voice of what was stated it is held against. */
function more(a: UnprovedMember[], b: UnprovedMember[]): UnprovedMember[] {
  const [left, right] = [a, b].map((all) => all.reduce((total, { tax }) => total + tax, 0n))
  return (right ?? 0n) > (left ?? 0n) ? b : a
}

function largest(a: MinorUnits, b: MinorUnits): MinorUnits {
  return a > b ? a : b
}

function sameSums(a: readonly Member[], b: readonly Member[], project: (m: Member) => string): boolean {
  const sums = new Map<string, bigint>()
  for (const m of a) sums.set(project(m), (sums.get(project(m)) ?? 0n) + m.tax)
  for (const m of b) sums.set(project(m), (sums.get(project(m)) ?? 0n) - m.tax)
  return [...sums.values()].every((left) => left === 0n)
}

/** Whether amounts that agree in the document's currency agree in the base currency too. */
function sameInBase(a: readonly Member[], b: readonly Member[]): boolean {
  const others = new Map(b.map((m) => [memberKey(m), m]))
  return a.every((m) => {
    const other = others.get(memberKey(m))
    return !m.inBase || !other?.inBase || other.tax !== m.tax || other.inBase.tax === m.inBase.tax
  })
}

function currenciesOf(voice: VoiceFacts): Set<string> {
  return new Set([...voice.facts.filter((f) => f.tax !== 0n), ...voice.nets].map((f) => f.currency))
}

function periodsOf(voice: VoiceFacts): Set<string> {
  return new Set([...voice.facts.filter((f) => f.tax !== 0n), ...voice.nets].map((f) => f.period))
}

function sameSet(a: ReadonlySet<string>, b: ReadonlySet<string>): boolean {
  return a.size === b.size && [...a].every((value) => b.has(value))
}
