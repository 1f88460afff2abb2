import type { Ratio } from './decimal.ts'

/** How a tie, and with `truncate` every broken part, is settled (K1). */
export type TieMode = 'half-away' | 'half-even' | 'truncate'

/**
 * Rounds to a whole number of units. The absolute value is rounded and the sign put back,
 * so a credit is the exact mirror of its sale.
 * @example round({ numerator: -5n, denominator: 2n }) // -3n
 */
export function round({ numerator, denominator }: Ratio, mode: TieMode = 'half-away'): bigint {
  const size = numerator < 0n ? -numerator : numerator
  const floor = size / denominator
  const twice = (size % denominator) * 2n
  const up =
    mode !== 'truncate' &&
    (twice > denominator || (twice === denominator && (mode === 'half-away' || floor % 2n === 1n)))
  const rounded = up ? floor + 1n : floor
  return numerator < 0n ? -rounded : rounded
}
