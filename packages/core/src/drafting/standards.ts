import { covers, dayBefore, type DateRange, type IsoDate } from '../baseline/dates.ts'
import { groupBy } from '../baseline/lookup.ts'
import type { Observation } from './observed.ts'
import { percentOn, type RateMet } from './rates.ts'

/** The first day of all. */
export const BEGINNING = '0001-01-01'

/** The rate that holds in a cell for what has no treatment of its own, over a span of days. */
export interface CellRate {
  readonly rate: RateMet
  readonly valid: DateRange
}

/** What the sales of a region say of its standard rates. */
export interface RegionSeen {
  readonly region: string
  readonly observations: readonly Observation[]
  /** Item tax codes that are taxed at the standard rate, the one that it was read from first. */
  readonly standard: readonly string[]
  /** By cell; a cell in which none of these was taxed has none. */
  readonly rates: ReadonlyMap<string, readonly CellRate[]>
  /** Lines of standard codes that bear another rate than their cell's. */
  readonly against: readonly Observation[]
}

export function readRegion(
  region: string,
  observations: readonly Observation[],
  defaults: ReadonlySet<string>,
): RegionSeen {
  const standard = standardCodes(observations, defaults)
  const rates = new Map<string, readonly CellRate[]>()
  const against: Observation[] = []
  const own = observations.filter(
    (o) => o.kind !== 'shipping' && standard.includes(o.code) && o.rate !== null,
  )
  for (const [cell, of] of groupBy(own, (o) => o.cell.key)) {
    const held = ratesInTime(of)
    rates.set(cell, held)
    against.push(...of.filter((o) => rateOn(held, o.date)?.id !== o.rate?.id))
  }
  return { region, observations, standard, rates, against }
}

/** The standard rate of a cell on a day. */
export function rateOn(rates: readonly CellRate[] | undefined, date: IsoDate): RateMet | undefined {
  return rates?.find(({ valid }) => covers(valid, date))?.rate
}

/**
 * The codes that are taxed alike in most places where both were sold: one that is wrong somewhere is so against the others. They are read from a system's default, else from the code that
 * shares its rates with most others, else from the one that is taxed highest.
 */
function standardCodes(observations: readonly Observation[], defaults: ReadonlySet<string>): string[] {
  const taxed = observations.filter((o) => o.kind !== 'shipping' && o.rate !== null)
  const usual = new Map(
    [...groupBy(taxed, (o) => o.code)].map(
      ([code, of]) =>
        [
          code,
          new Map([...groupBy(of, (o) => o.cell.key)].map(([cell, here]) => [cell, usualRate(here)])),
        ] as const,
    ),
  )
  const like = (a: string, b: string): 'same' | 'other' | 'unknown' => {
    const [left, right] = [usual.get(a), usual.get(b)]
    const shared = [...(left?.keys() ?? [])].filter((cell) => right?.has(cell))
    if (shared.length === 0) return 'unknown'
    const same = shared.filter((cell) => left?.get(cell)?.id === right?.get(cell)?.id).length
    return same * 2 > shared.length ? 'same' : 'other'
  }
  const codes = [...usual.keys()].sort()
  const weigh = (code: string): readonly bigint[] => [
    defaults.has(code) ? 1n : 0n,
    BigInt(codes.filter((other) => like(code, other) === 'same').length),
    highest([...(usual.get(code)?.values() ?? [])], taxed[0]?.date ?? ''),
    BigInt(taxed.filter((o) => o.code === code).length),
  ]
  const [anchor] = codes
    .map((code) => ({ code, weight: weigh(code) }))
    .sort((a, b) => firstNotNil(b.weight.map((one, at) => one - (a.weight[at] ?? 0n))))
  if (!anchor) return []
  return [anchor.code, ...codes.filter((code) => code !== anchor.code && like(anchor.code, code) === 'same')]
}

function firstNotNil(differences: readonly bigint[]): number {
  const found = differences.find((one) => one !== 0n) ?? 0n
  return found > 0n ? 1 : found < 0n ? -1 : 0
}

function highest(rates: readonly RateMet[], date: IsoDate): bigint {
  return rates
    .map((rate) => percentOn(rate.leading, date))
    .reduce((most, one) => (one > most ? one : most), 0n)
}

/** The rate that most of these lines bear; each of them bears one. */
export function usualRate(of: readonly Observation[]): RateMet {
  const [most] = [...groupBy(of, (o) => o.rate?.id ?? '').values()].sort((a, b) => b.length - a.length)
  return (most?.[0] as Observation).rate as RateMet
}

/**
 * The rates of a cell one after another. One that is used only before, or only after, the usual one, and on more than one document, took its
 * turn with it; any other stands against it.
 */
function ratesInTime(of: readonly Observation[]): CellRate[] {
  const usual = usualRate(of)
  const spans = [...groupBy(of, (o) => o.rate?.id ?? '').values()].map((own) => {
    const days = own.map(({ date }) => date).sort()
    return {
      rate: (own[0] as Observation).rate as RateMet,
      first: days[0] ?? '',
      last: days.at(-1) ?? '',
      documents: new Set(own.map(({ sale }) => sale.id)).size,
    }
  })
  const main = spans.find(({ rate }) => rate.id === usual.id)
  if (!main) return []
  const turns = spans
    .filter(
      (one) =>
        one === main ||
        (one.documents > 1 && sameParts(one.rate, usual) && (one.last < main.first || one.first > main.last)),
    )
    .sort((a, b) => (a.first < b.first ? -1 : 1))
    .filter((one, at, all) => at === 0 || one.first > (all[at - 1]?.last ?? ''))
  return turns.map(({ rate, first }, at) => ({
    rate,
    valid: {
      from: at === 0 ? BEGINNING : first,
      to: at + 1 < turns.length ? dayBefore(turns[at + 1]?.first ?? '') : null,
    },
  }))
}

/** Whether two rates are owed to the same agencies under the same names: one may be the other of another time. */
function sameParts(a: RateMet, b: RateMet): boolean {
  const text = ({ leading }: RateMet): string | null =>
    leading.parts &&
    leading.parts
      .map(({ agency }) => agency)
      .sort()
      .join('\n')
  return text(a) !== null && text(a) === text(b)
}
