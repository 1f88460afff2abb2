/** The generator's own arithmetic, in minor units; nothing of it is shared with what it checks. */

const DIGITS: Readonly<Record<string, number>> = { JPY: 0, KWD: 3 }

export function digitsOf(currency: string): number {
  return DIGITS[currency] ?? 2
}

/** Minor units as a decimal of a currency. */
export function money(units: bigint, currency = 'USD'): string {
  const digits = digitsOf(currency)
  const text = (units < 0n ? -units : units).toString().padStart(digits + 1, '0')
  return `${units < 0n ? '-' : ''}${digits === 0 ? text : `${text.slice(0, -digits)}.${text.slice(-digits)}`}`
}

/** A percent in millionths of a percent. */
export function millionths(percent: string): bigint {
  const [whole = '0', fraction = ''] = percent.split('.')
  return BigInt(whole) * 1_000_000n + BigInt(fraction.padEnd(6, '0'))
}

/** Half away from nil. */
export function halfUp(numerator: bigint, denominator: bigint): bigint {
  const negative = numerator < 0n
  const size = negative ? -numerator : numerator
  const rounded = (2n * size + denominator) / (2n * denominator)
  return negative ? -rounded : rounded
}

/** Shares of a whole by weights, the left-over units to the largest fractions, then to the larger weight, then to the earlier. */
export function spread(whole: bigint, weights: readonly bigint[]): bigint[] {
  const total = weights.reduce((sum, w) => sum + w, 0n)
  if (total === 0n) return weights.map(() => 0n)
  const shares = weights.map((w) => (whole * w) / total)
  let left = whole - shares.reduce((sum, s) => sum + s, 0n)
  const order = weights
    .map((w, at) => ({ at, w, rest: (whole * w) % total }))
    .sort((a, b) =>
      a.rest !== b.rest ? (b.rest > a.rest ? 1 : -1) : a.w !== b.w ? (b.w > a.w ? 1 : -1) : a.at - b.at,
    )
  for (const { at } of order) {
    if (left <= 0n) break
    shares[at] = (shares[at] ?? 0n) + 1n
    left--
  }
  return shares
}
