import { divideRounded, largestRemainder, millionths } from './exact.ts'

export interface RatePart {
  readonly agencyId: string
  readonly name: string
  readonly percent: string
  readonly perUnit: string | null
  readonly onTopOf: readonly number[]
  readonly from: string | null
  readonly to: string | null
}
export interface Rate {
  readonly code: string | null
  readonly name: string
  readonly percent: string
  readonly active: boolean
  readonly components: readonly RatePart[] | null
}

const HUNDRED = 100n * 1_000_000n

/** A rate's parts on a date, in their order; a flat rate is one part without an agency. */
export function partsOn(rate: Rate, date: string): RatePart[] {
  const flat: RatePart = {
    agencyId: '',
    name: rate.name,
    percent: rate.percent,
    perUnit: null,
    onTopOf: [],
    from: null,
    to: null,
  }
  return (rate.components ?? [flat]).filter(
    (part) => (part.from === null || date >= part.from) && (part.to === null || date <= part.to),
  )
}

/** Taxes on a base before tax, part by part, each rounded half up; a part on top of others takes them as rounded. */
export function taxesOn(
  parts: readonly RatePart[],
  all: readonly RatePart[],
  { base, quantity, unit }: { readonly base: bigint; readonly quantity: bigint; readonly unit: bigint },
): bigint[] {
  const taxes: bigint[] = []
  for (const part of parts) {
    const below = part.onTopOf.reduce(
      (sum, place) => sum + (taxes[parts.indexOf(all[place] as RatePart)] ?? 0n),
      0n,
    )
    // A quantity and an amount per unit are both in millionths; `unit` is how many minor units one whole unit of currency has.
    taxes.push(
      part.perUnit === null
        ? divideRounded((base + below) * millionths(part.percent), HUNDRED)
        : divideRounded(quantity * millionths(part.perUnit) * unit, 1_000_000n * 1_000_000n),
    )
  }
  return taxes
}

/** What is inside a gross amount: the net, rounded once, and each part's share of the rest by its percent. */
export function taxesWithin(parts: readonly RatePart[], gross: bigint): bigint[] {
  const percents = parts.map((part) => millionths(part.percent))
  const total = percents.reduce((sum, percent) => sum + percent, 0n)
  const net = divideRounded(gross * HUNDRED, HUNDRED + total)
  return largestRemainder(gross - net, percents)
}
