import { add, multiply, ratio, type Percent, type Ratio } from '../money/decimal.ts'
import { round } from '../money/rounding.ts'

/**
 * What the components of a rate come to together, in a percent of the base to six places: tax on tax included.
 * @param parts each with the places of earlier parts whose tax it stands on; a percent that is not known counts as none
 * @example 5 % and 8 % on top of it come to 13.4 %
 */
export function combinedPercent(
  parts: readonly { readonly percent: Percent | null; readonly onTopOf: readonly number[] }[],
): Percent {
  const whole: Ratio[] = []
  for (const [at, { percent, onTopOf }] of parts.entries()) {
    const earlier = onTopOf
      .filter((place) => place < at)
      .reduce((sum, place) => add(sum, whole[place] ?? ratio(0n)), ratio(1n))
    whole.push(multiply(earlier, ratio(percent ?? 0n, 100_000_000n)))
  }
  return round(multiply(whole.reduce(add, ratio(0n)), ratio(100_000_000n)))
}
