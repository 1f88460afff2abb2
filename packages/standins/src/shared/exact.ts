/** The stand-ins' own arithmetic. It shares nothing with Axion's core, or a shared mistake would prove itself. */

const DIGITS: Readonly<Record<string, number>> = { JPY: 0, KRW: 0, CLP: 0, KWD: 3, BHD: 3, TND: 3 }

export function toUnits(text: string, currency: string): bigint {
  const digits = DIGITS[currency] ?? 2
  const [whole = '0', fraction = ''] = text.replace('-', '').split('.')
  const units = BigInt(whole + fraction.slice(0, digits).padEnd(digits, '0'))
  return text.startsWith('-') ? -units : units
}

export function toText(units: bigint, currency: string): string {
  const digits = DIGITS[currency] ?? 2
  const text = String(units < 0n ? -units : units).padStart(digits + 1, '0')
  const sign = units < 0n ? '-' : ''
  return digits === 0 ? sign + text : `${sign}${text.slice(0, -digits)}.${text.slice(-digits)}`
}

/** A decimal as an integer of millionths. */
export function millionths(text: string): bigint {
  const [whole = '0', fraction = ''] = text.replace('-', '').split('.')
  const value = BigInt(whole) * 1_000_000n + BigInt(fraction.slice(0, 6).padEnd(6, '0'))
  return text.startsWith('-') ? -value : value
}

/** Rounds half up on the size, keeping the sign. */
export function divideRounded(dividend: bigint, divisor: bigint): bigint {
  const size = dividend < 0n ? -dividend : dividend
  const quotient = (size * 2n + divisor) / (divisor * 2n)
  return dividend < 0n ? -quotient : quotient
}

/** Percent of an amount in minor units: the percent is text, up to six places. */
export function percentOf(units: bigint, percent: string): bigint {
  return divideRounded(units * millionths(percent), 100n * 1_000_000n)
}

/** Splits a whole over sizes: floors first, then a unit each to the largest fractions, the larger size and the earlier first. */
export function largestRemainder(whole: bigint, sizes: readonly bigint[]): bigint[] {
  const total = sizes.reduce((sum, size) => sum + size, 0n)
  if (total === 0n) return sizes.map(() => 0n)
  const [sign, amount] = whole < 0n ? [-1n, -whole] : [1n, whole]
  const parts = sizes.map((size) => (amount * size) / total)
  const order = sizes
    .map((size, at) => ({ at, size, left: (amount * size) % total }))
    .sort(
      (a, b) =>
        Number(b.left > a.left) - Number(b.left < a.left) ||
        Number(b.size > a.size) - Number(b.size < a.size) ||
        a.at - b.at,
    )
  let left = amount - parts.reduce((sum, part) => sum + part, 0n)
  for (const { at } of order) {
    if (left === 0n) break
    parts[at] = (parts[at] ?? 0n) + 1n
    left -= 1n
  }
  return parts.map((part) => part * sign)
}

/** How many digits a currency has here. */
export function digitsOf(currency: string): number {
  return DIGITS[currency] ?? 2
}
