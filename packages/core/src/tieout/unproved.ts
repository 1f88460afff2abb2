import { absolute, type MinorUnits } from '../money/currency.ts'
import { FINEST, grainOf, memberKey, membersOf, type Grain, type Member, type VoiceFacts } from './facts.ts'
import { commonGrain } from './signature.ts'

/** Tax of one row of the close sheet that is not proved: a positive amount. */
export interface UnprovedMember {
  readonly agency: string | null
  readonly account: string | null
  readonly currency: string
  readonly period: string
  readonly tax: MinorUnits
}

interface Cell extends Omit<UnprovedMember, 'tax'> {
  readonly expected: MinorUnits
  readonly booked: MinorUnits
}

/**
 * Unproved tax of a unit (K9): the largest pairwise difference of each member, too much and too little summed apart and
 * the larger counted, in the row where it was expected. Voices are weighed at the finest grain that both have.
 */
export function unprovedOf(
  stated: VoiceFacts | null,
  expected: VoiceFacts,
  booked: VoiceFacts,
): UnprovedMember[] {
  const cells = cellsOf(expected, booked)
  const rows = new Map<string, UnprovedMember>()
  const put = (cell: Omit<UnprovedMember, 'tax'>, tax: MinorUnits): void => {
    if (tax === 0n) return
    const { agency, account, currency, period } = cell
    const key = memberKey(cell)
    rows.set(key, { agency, account, currency, period, tax: (rows.get(key)?.tax ?? 0n) + tax })
  }

  for (const { cell, tax } of astrayInBase(expected, booked)) put(cell, tax)
  for (const currency of new Set(cells.map((c) => c.currency)))
    spread(
      cells.filter((c) => c.currency === currency),
      put,
    )
  if (stated) addStated(stated, expected, booked, rows, put)
  return [...rows.values()].sort((a, b) => (memberKey(a) < memberKey(b) ? -1 : 1))
}

function cellsOf(expected: VoiceFacts, booked: VoiceFacts): Cell[] {
  const cells = new Map<string, Cell>()
  const at = (m: Member): Cell =>
    cells.get(memberKey(m)) ?? {
      agency: m.agency,
      account: m.account,
      currency: m.currency,
      period: m.period,
      expected: 0n,
      booked: 0n,
    }
  const grain = commonGrain(expected, booked)
  for (const m of membersOf(expected, grain)) cells.set(memberKey(m), { ...at(m), expected: m.tax })
  for (const m of membersOf(booked, grain)) cells.set(memberKey(m), { ...at(m), booked: m.tax })
  return [...cells.values()]
}

/** Amounts that agree in the document's currency and not in the base currency: the difference, in the latter. */
function astrayInBase(
  expected: VoiceFacts,
  booked: VoiceFacts,
): { cell: Omit<UnprovedMember, 'tax'>; tax: MinorUnits }[] {
  const grain = commonGrain(expected, booked)
  if (!grain.inBase) return []
  const others = new Map(membersOf(booked, grain).map((m) => [memberKey(m), m]))
  return membersOf(expected, grain).flatMap((m) => {
    const other = others.get(memberKey(m))
    if (!m.inBase || !other?.inBase || other.tax !== m.tax || other.inBase.tax === m.inBase.tax) return []
    return [{ cell: { ...m, currency: m.inBase.currency }, tax: absolute(other.inBase.tax - m.inBase.tax) }]
  })
}

/** Too little counts where it was expected; only what is too much beyond that counts where it was booked. */
function spread(cells: readonly Cell[], put: (cell: Cell, tax: MinorUnits) => void): void {
  const short = cells.filter((c) => c.booked < c.expected)
  const over = cells.filter((c) => c.booked > c.expected)
  const missing = short.reduce((total, c) => total + c.expected - c.booked, 0n)
  let excess = over.reduce((total, c) => total + c.booked - c.expected, 0n) - missing
  for (const cell of short) put(cell, cell.expected - cell.booked)
  for (const cell of over) {
    if (excess <= 0n) return
    const part = cell.booked - cell.expected < excess ? cell.booked - cell.expected : excess
    put(cell, part)
    excess -= part
  }
}

/** Where what the source states is further off than the two others from each other, the rest is added to the largest row. */
function addStated(
  stated: VoiceFacts,
  expected: VoiceFacts,
  booked: VoiceFacts,
  rows: ReadonlyMap<string, UnprovedMember>,
  put: (cell: Omit<UnprovedMember, 'tax'>, tax: MinorUnits) => void,
): void {
  const grain: Grain = { agency: grainOf(stated).agency, account: false, bases: false, inBase: false }
  const bookedAnswers = !grain.agency || grainOf(booked).agency
  const bucketOf = (m: Omit<UnprovedMember, 'tax'>): string =>
    memberKey({ ...m, agency: grain.agency ? m.agency : null, account: null })
  const says = sums(membersOf(stated, grain))
  const expects = sums(membersOf(expected, grain))
  const books = bookedAnswers ? sums(membersOf(booked, grain)) : expects
  const homes = [...membersOf(expected, FINEST)]
    .sort((a, b) => (absolute(a.tax) > absolute(b.tax) ? -1 : 1))
    .concat(membersOf(stated, grain))

  const gaps = [...new Set([...says.keys(), ...expects.keys(), ...books.keys()])].flatMap((bucket) => {
    const [claim, expectedTax, bookedTax] = [says, expects, books].map((of) => of.get(bucket) ?? 0n) as [
      bigint,
      bigint,
      bigint,
    ]
    const gap = [absolute(claim - expectedTax), absolute(claim - bookedTax)].reduce((a, b) => (a > b ? a : b))
    const counted = [...rows.values()]
      .filter((row) => bucketOf(row) === bucket)
      .reduce((total, row) => total + row.tax, 0n)
    const home = homes.find((m) => bucketOf(m) === bucket)
    return home && claim !== expectedTax && gap > counted
      ? [{ over: claim > expectedTax, extra: gap - counted, home }]
      : []
  })
  const sumOf = (over: boolean): MinorUnits =>
    gaps.filter((g) => g.over === over).reduce((total, g) => total + g.extra, 0n)
  const overIsLarger = sumOf(true) > sumOf(false)
  for (const gap of gaps) if (gap.over === overIsLarger) put(gap.home, gap.extra)
}

function sums(members: readonly Member[]): Map<string, MinorUnits> {
  return new Map(members.map((m) => [memberKey(m), m.tax]))
}
