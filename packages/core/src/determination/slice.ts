import type { Threshold } from '../baseline/baseline.ts'
import type { MinorUnits } from '../money/currency.ts'
import { compare, least, multiply, ratio, subtract, type Ratio } from '../money/decimal.ts'

/** The part of a line's price that a rule taxes: between a threshold and a cap, and of that a share. */
export interface Slice {
  readonly threshold: Threshold | null
  readonly cap: MinorUnits | null
  /** Of followed shipping, and of what a credit scales: the exact part that is taxed. */
  readonly share: Ratio
}

export const WHOLE: Slice = { threshold: null, cap: null, share: ratio(1n) }

/** Where a slice begins or ends for this quantity, ascending from nil. */
export function breaksOf({ threshold, cap }: Slice, quantity: Ratio): Ratio[] {
  return [threshold?.limit, cap].flatMap((limit) =>
    limit == null ? [] : [multiply(ratio(limit), size(quantity))],
  )
}

/**
 * The taxed part of a price, exactly (K3, step 3); a negative price is the mirror. Limits count per article, times the quantity.
 * @param decidedAt the price that decides whether a threshold is reached; the price itself where it is known
 */
export function taxedPart(slice: Slice, price: Ratio, quantity: Ratio, decidedAt: Ratio = price): Ratio {
  if (price.numerator < 0n) return negated(taxedPart(slice, negated(price), quantity, negated(decidedAt)))
  const { threshold, cap, share } = slice
  const limit = threshold && multiply(ratio(threshold.limit), size(quantity))
  if (limit && compare(decidedAt, limit) < 0n) return ratio(0n)
  const from = threshold?.taxes === 'excess' && limit ? limit : ratio(0n)
  const to = cap === null ? price : least(price, multiply(ratio(cap), size(quantity)))
  return compare(to, from) <= 0n ? ratio(0n) : multiply(subtract(to, from), share)
}

function size({ numerator, denominator }: Ratio): Ratio {
  return { numerator: numerator < 0n ? -numerator : numerator, denominator }
}

export function negated({ numerator, denominator }: Ratio): Ratio {
  return { numerator: -numerator, denominator }
}
