import type { Threshold } from '../baseline/baseline.ts'
import { absolute, type MinorUnits } from '../money/currency.ts'
import { compare, divide, ratio, type Ratio } from '../money/decimal.ts'
import type { Observation } from './observed.ts'

/** Prices of one article between which tax begins. */
export interface Between {
  readonly above: MinorUnits
  readonly upTo: MinorUnits
}

/**
 * The price of one article below which nothing is charged: where most of the untaxed lie below it and most of the taxed do not. A line or two
 * that somebody left untaxed by mistake make no limit.
 */
export function thresholdOf(
  taxed: readonly Observation[],
  untaxed: readonly Observation[],
): {
  readonly threshold: Threshold
  readonly between: Between | null
  readonly against: readonly Observation[]
} | null {
  if (taxed.length === 0 || untaxed.length === 0) return null
  const prices = [...taxed.map((o) => ({ o, taxed: true })), ...untaxed.map((o) => ({ o, taxed: false }))]
    .map((one) => ({ ...one, price: priceOf(one.o) }))
    .sort((a, b) => signOf(compare(a.price, b.price)))
  // From the first that is taxed on: how many stand on the wrong side.
  let wrong = untaxed.length
  let best = { at: 0, wrong }
  prices.forEach((one, at) => {
    wrong += one.taxed ? 1 : -1
    const next = prices[at + 1]
    if (wrong < best.wrong && (!next || compare(next.price, one.price) > 0n)) best = { at: at + 1, wrong }
  })
  const [below, from] = [prices.slice(0, best.at), prices.slice(best.at)]
  const documents = new Set(below.filter((one) => !one.taxed).map(({ o }) => o.sale.id)).size
  const [last, first] = [below.at(-1)?.price, from[0]?.price]
  if (documents < 3 || best.wrong * 5 > documents || !last || !first) return null
  const against = [...below.filter((one) => one.taxed), ...from.filter((one) => !one.taxed)].map(({ o }) => o)
  const excess = excessOf(taxed)
  if (excess.threshold) return { threshold: excess.threshold, between: null, against }
  const [above, upTo] = [last.numerator / last.denominator, first.numerator / first.denominator]
  return {
    threshold: { limit: roundest(above + 1n, upTo), taxes: 'whole' },
    between: { above, upTo },
    against,
  }
}

function signOf(of: bigint): number {
  return of > 0n ? 1 : of < 0n ? -1 : 0
}

const priceOf = ({ amount, quantity }: Observation): Ratio =>
  divide(ratio(absolute(amount)), positive(quantity))

function positive({ numerator, denominator }: Ratio): Ratio {
  return ratio(numerator < 0n ? -numerator : numerator === 0n ? 1n : numerator, denominator)
}

/** Of all amounts between two, the one with the most noughts at its end. */
function roundest(from: MinorUnits, to: MinorUnits): MinorUnits {
  for (let step = 10n ** 12n; step > 1n; step /= 10n) {
    for (const unit of [step * 5n, step]) {
      const least = ((from + unit - 1n) / unit) * unit
      if (least <= to && least > 0n) return least
    }
  }
  return to
}

/** What is taxed of each article is its price less always the same, or never more than the same. */
export function excessOf(taxed: readonly Observation[]): {
  readonly threshold: Threshold | null
  readonly cap: MinorUnits | null
} {
  const parts = taxed.filter((o) => o.base !== null && absolute(o.base) < absolute(o.amount))
  const less = theSame(
    parts.map((o) => divide(ratio(absolute(o.amount) - absolute(o.base ?? 0n)), positive(o.quantity))),
  )
  const most = capOf(taxed)
  if (most !== null && (parts.length > 1 || less === null)) return { threshold: null, cap: most }
  return { threshold: less === null || parts.length < 2 ? null : { limit: less, taxes: 'excess' }, cap: most }
}

/** Of each article no more than the same is ever taxed. */
export function capOf(taxed: readonly Observation[]): MinorUnits | null {
  const parts = taxed.filter((o) => o.base !== null && absolute(o.base) < absolute(o.amount))
  return theSame(parts.map((o) => divide(ratio(absolute(o.base ?? 0n)), positive(o.quantity))))
}

/** A whole amount that all of these are; null where they differ. */
function theSame(all: readonly Ratio[]): MinorUnits | null {
  const [first] = all
  if (!first || !all.every((one) => compare(one, first) === 0n) || first.numerator % first.denominator !== 0n)
    return null
  return first.numerator / first.denominator
}
