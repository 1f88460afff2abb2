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
