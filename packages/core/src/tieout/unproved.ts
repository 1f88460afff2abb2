import { groupBy } from '../baseline/lookup.ts'
import { absolute, sum, type MinorUnits } from '../money/currency.ts'
import type { VoiceFacts } from './facts.ts'
import { memberKey, membersOf, netMembersOf, type Grain, type Member } from './members.ts'

import { commonGrain } from './signature.ts'

/** Tax of one row of the close sheet that is not proved: a positive amount. */
export interface UnprovedMember {
  readonly agency: string | null
  readonly account: string | null
  readonly currency: string
  readonly period: string
  readonly tax: MinorUnits
}

type Place = Omit<UnprovedMember, 'tax'>
type Put = (place: Place, tax: MinorUnits) => void

/**
 * Unproved tax of a unit (K9): the largest pairwise difference of each member's tax, added up, in the row where it was expected.
 * What stands in a wrong place (account, agency, period) counts once: too much and too little are summed apart over all members
 * and voices, and the larger counts. Voices are weighed at the finest grain that all of them have; within its members, what two
 * of them put in different places at a finer grain counts once more.
 */
export function unprovedOf(
  stated: VoiceFacts | null,
  expected: VoiceFacts,
  booked: VoiceFacts,
): UnprovedMember[] {
  const rows = new Map<string, UnprovedMember>()
  const put: Put = ({ agency, account, currency, period }, tax) => {
    if (tax === 0n) return
    const key = memberKey({ agency, account, currency, period })
    rows.set(key, { agency, account, currency, period, tax: (rows.get(key)?.tax ?? 0n) + tax })
  }
  for (const { place, tax } of astrayInBase(expected, booked)) put(place, tax)
  const weighed = weigh(stated, expected, booked)
  for (const currency of new Set(weighed.buckets.map((b) => b.place.currency)))
    putCurrency(weighed, currency, put)
  return [...rows.values()].sort((a, b) => (memberKey(a) < memberKey(b) ? -1 : 1))
}

/** Too much and too little of one member, between expected and booked, or expected and stated. */
interface Cell {
  readonly place: Place
  readonly over: MinorUnits
  readonly under: MinorUnits
}

/** A member at the grain of all three voices, with what stands within it at a finer one. */
interface Bucket {
  readonly place: Place
  readonly stated: MinorUnits
  readonly expected: MinorUnits
  readonly booked: MinorUnits
  readonly finer: readonly (readonly Cell[])[]
}

interface Weighed {
  readonly buckets: readonly Bucket[]
  /** Rows where tax was expected, the largest first. */
  readonly homes: readonly Member[]
  readonly keyOf: (place: Place) => string
}

function weigh(stated: VoiceFacts | null, expected: VoiceFacts, booked: VoiceFacts): Weighed {
  const bookedGrain = commonGrain(expected, booked)
  const statedGrain = stated ? { ...commonGrain(expected, stated), account: false } : bookedGrain
  const coarse: Grain = {
    ...bookedGrain,
    agency: bookedGrain.agency && statedGrain.agency,
    account: bookedGrain.account && statedGrain.account,
  }
  const keyOf = ({ agency, account, currency, period }: Place): string =>
    memberKey({
      agency: coarse.agency ? agency : null,
      account: coarse.account ? account : null,
      currency,
      period,
    })
  const ofBooked = groupBy(cellsOf(expected, booked, bookedGrain), ({ place }) => keyOf(place))
  const ofStated = groupBy(stated ? cellsOf(expected, stated, statedGrain) : [], ({ place }) => keyOf(place))
  const at = (voice: VoiceFacts | null): ReadonlyMap<string, Member> =>
    new Map((voice ? membersOf(voice, coarse) : []).map((m) => [memberKey(m), m]))
  const [says, expects, books] = [at(stated ?? expected), at(expected), at(booked)]
  const keys = new Set([
    ...says.keys(),
    ...expects.keys(),
    ...books.keys(),
    ...ofBooked.keys(),
    ...ofStated.keys(),
  ])
  const buckets = [...keys].map((key): Bucket => {
    const finer = [ofBooked.get(key) ?? [], ofStated.get(key) ?? []]
    const place = (expects.get(key) ?? books.get(key) ?? says.get(key) ?? finer.flat()[0]?.place) as Place
    const tax = (of: ReadonlyMap<string, Member>): MinorUnits => of.get(key)?.tax ?? 0n
    return { place, stated: tax(says), expected: tax(expects), booked: tax(books), finer }
  })
  const homes = [...membersOf(expected, bookedGrain)].sort((a, b) =>
    absolute(a.tax) > absolute(b.tax) ? -1 : 1,
  )
  return { buckets, homes, keyOf }
}

function cellsOf(expected: VoiceFacts, other: VoiceFacts, grain: Grain): Cell[] {
  const cells = new Map<string, { place: Place; gap: MinorUnits }>()
  const add = (m: Member, sign: 1n | -1n): void => {
    const { agency, account, currency, period } = m
    const known = cells.get(memberKey(m)) ?? { place: { agency, account, currency, period }, gap: 0n }
    cells.set(memberKey(m), { ...known, gap: known.gap + sign * m.tax })
  }
  for (const m of membersOf(expected, grain)) add(m, -1n)
  for (const m of membersOf(other, grain)) add(m, 1n)
  return [...cells.values()].map(({ place, gap }) => ({
    place,
    over: gap > 0n ? gap : 0n,
    under: gap < 0n ? -gap : 0n,
  }))
}

function putCurrency({ buckets, homes, keyOf }: Weighed, currency: string, put: Put): void {
  const own = buckets.filter((b) => b.place.currency === currency)
  // A source states no account: its amount stands in the row where the agency's tax is expected.
  const rowOf = (place: Place): Place =>
    (place.account === null
      ? homes.find(
          (m) => m.agency === place.agency && m.currency === place.currency && m.period === place.period,
        )
      : undefined) ?? place
  const within = own.map(({ finer }) =>
    finer.map((cells) => {
      const [over, under] = [sum(cells.map((c) => c.over)), sum(cells.map((c) => c.under))]
      return takeFrom(over < under ? over : under, cells, rowOf, put)
    }),
  )
  const over = own.map((b) => largest(0n, b.stated - b.expected, b.booked - b.expected))
  const under = own.map((b) => largest(0n, b.expected - b.stated, b.expected - b.booked))
  const apart = own.map((b) => b.stated - b.booked)
  let left = largest(
    sum(over),
    sum(under),
    sum(apart.filter((gap) => gap > 0n)),
    -sum(apart.filter((gap) => gap < 0n)),
  )
  // Too little counts where it was expected; what is too much beyond that, where it was expected, else where it was put.
  own.forEach((bucket, at) => {
    const short = least(under[at] ?? 0n, left)
    left -= short
    const home = homes.find((m) => keyOf(m) === keyOf(bucket.place)) ?? bucket.place
    const cells = (within[at] ?? []).flatMap((of) => of.map(({ place, under: most }) => ({ place, most })))
    fill(short, [...cells.map((c) => ({ ...c, place: rowOf(c.place) })), { place: home, most: short }], put)
  })
  own.forEach((bucket, at) => {
    const excess = least(over[at] ?? 0n, left)
    left -= excess
    const home = homes.find((m) => keyOf(m) === keyOf(bucket.place))
    const cells = (within[at] ?? []).flatMap((of) => of.map(({ place, over: most }) => ({ place, most })))
    const places = home ? [] : cells.map((c) => ({ ...c, place: rowOf(c.place) }))
    fill(excess, [...places, { place: home ?? bucket.place, most: excess }], put)
  })
  if (own[0]) put(homes.find((m) => m.currency === currency) ?? own[0].place, left)
}

/** Puts so much of what is too little where it is, and takes it off both sides. */
function takeFrom(
  misplaced: MinorUnits,
  cells: readonly Cell[],
  rowOf: (place: Place) => Place,
  put: Put,
): Cell[] {
  let [short, over] = [misplaced, misplaced]
  return cells.map((cell) => {
    const [under, beyond] = [least(cell.under, short), least(cell.over, over)]
    put(rowOf(cell.place), under)
    short -= under
    over -= beyond
    return { ...cell, under: cell.under - under, over: cell.over - beyond }
  })
}

function least(a: MinorUnits, b: MinorUnits): MinorUnits {
  return a < b ? a : b
}

/** Puts an amount on places, on each at most so much, in their order. */
function fill(
  amount: MinorUnits,
  places: readonly { readonly place: Place; readonly most: MinorUnits }[],
  put: Put,
): void {
  let left = amount
  for (const { place, most } of places) {
    const part = least(most, left)
    put(place, part)
    left -= part
  }
}

function largest(...amounts: readonly MinorUnits[]): MinorUnits {
  return amounts.reduce((most, amount) => (amount > most ? amount : most))
}

/** Amounts that agree in the document's currency and not in the base currency: the difference, in the latter. */
function astrayInBase(
  expected: VoiceFacts,
  booked: VoiceFacts,
): { readonly place: Place; readonly tax: MinorUnits }[] {
  const grain = commonGrain(expected, booked)
  if (!grain.inBase) return []
  const others = new Map(membersOf(booked, grain).map((m) => [memberKey(m), m]))
  return membersOf(expected, grain).flatMap((m) => {
    const other = others.get(memberKey(m))
    if (!m.inBase || !other?.inBase || other.tax !== m.tax || other.inBase.tax === m.inBase.tax) return []
    return [{ place: { ...m, currency: m.inBase.currency }, tax: absolute(other.inBase.tax - m.inBase.tax) }]
  })
}

/**
 * What is net of tax and not proved, by itself: the largest pairwise difference of totals, or what expected and booked put in
 * different accounts, whichever is more. Counted where no tax differs.
 */
export function unprovedNetOf(
  stated: VoiceFacts | null,
  expected: VoiceFacts,
  booked: VoiceFacts,
  currency: string,
): MinorUnits {
  const pair = (a: VoiceFacts, b: VoiceFacts): MinorUnits => {
    const gaps = netGaps(a, b).filter((gap) => gap.currency === currency)
    return largest(
      sum(gaps.map(({ gap }) => (gap > 0n ? gap : 0n))),
      sum(gaps.map(({ gap }) => (gap < 0n ? -gap : 0n))),
    )
  }
  return largest(pair(expected, booked), ...(stated ? [pair(expected, stated), pair(stated, booked)] : []))
}

/** By how much a second voice's net amounts differ from a first's, at the finest grain that both have. */
export function netGaps(
  a: VoiceFacts,
  b: VoiceFacts,
): {
  readonly account: string | null
  readonly currency: string
  readonly period: string
  readonly gap: MinorUnits
  readonly isRounding: boolean
}[] {
  const grain = { nets: commonGrain(a, b).nets }
  const all = [...netMembersOf(a, grain).map((n) => ({ ...n, net: -n.net })), ...netMembersOf(b, grain)]
  return [...groupBy(all, (n) => `${n.account ?? ''}|${n.currency}|${n.period}`).values()]
    .map((of) => ({
      account: of[0]?.account ?? null,
      currency: of[0]?.currency ?? '',
      period: of[0]?.period ?? '',
      gap: sum(of.map(({ net }) => net)),
      isRounding: of.some((n) => n.isRounding === true),
    }))
    .filter(({ gap }) => gap !== 0n)
}
