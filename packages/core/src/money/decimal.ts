import { fault } from '../faults.ts'

/** An exact quotient of two integers; the denominator is positive. */
export interface Ratio {
  readonly numerator: bigint
  readonly denominator: bigint
}

/**
 * A rate in millionths of a percent: 8.25 % is 8_250_000n.
 * Six places of a percent is the finest that any system may state.
 */
export type Percent = bigint

/** Base × percent ÷ PERCENT_SCALE is the tax: a hundred per cent of a million millionths. */
export const PERCENT_SCALE = 100n * 1_000_000n

const PLAIN_DECIMAL = /^(-?)(\d{1,30})(?:\.(\d{1,12}))?$/

/**
 * Reads a plain decimal string ("-12.50") as an exact ratio.
 * @throws AXION_NOT_A_DECIMAL for exponents, signs other than a leading minus, spaces, or more than 12 places.
 */
export function parseDecimal(text: string): Ratio {
  const match = PLAIN_DECIMAL.exec(text)
  if (!match) throw fault('AXION_NOT_A_DECIMAL', { text })
  const [, sign, whole = '', fraction = ''] = match
  const digits = BigInt(whole + fraction)
  return ratio(sign ? -digits : digits, 10n ** BigInt(fraction.length))
}

/**
 * Reads a percent such as "7.45" into millionths of a percent.
 * @throws AXION_NOT_A_DECIMAL, or AXION_RATE_OUT_OF_RANGE below 0 %, above 100 %, or past six places.
 */
export function parsePercent(text: string): Percent {
  const { numerator, denominator } = parseDecimal(text)
  const scaled = numerator * 1_000_000n
  const percent = scaled / denominator
  if (scaled % denominator !== 0n || percent < 0n || percent > PERCENT_SCALE) {
    throw fault('AXION_RATE_OUT_OF_RANGE', { percent: text })
  }
  return percent
}

/** Writes a percent with at least two places and no idle zeros beyond: 7_450_000n is "7.45", 125_000n is "0.125". */
export function formatPercent(percent: Percent): string {
  const whole = percent / 1_000_000n
  const fraction = (percent % 1_000_000n)
    .toString()
    .padStart(6, '0')
    .replace(/0{1,4}$/, '')
  return `${whole}.${fraction}`
}

/** A ratio with its sign in the numerator. */
export function ratio(numerator: bigint, denominator = 1n): Ratio {
  if (denominator === 0n) throw fault('AXION_DIVISION_BY_NIL', { numerator: numerator.toString() })
  return denominator < 0n ? { numerator: -numerator, denominator: -denominator } : { numerator, denominator }
}

export function multiply(a: Ratio, b: Ratio): Ratio {
  return { numerator: a.numerator * b.numerator, denominator: a.denominator * b.denominator }
}

export function add(a: Ratio, b: Ratio): Ratio {
  return a.denominator === b.denominator
    ? { numerator: a.numerator + b.numerator, denominator: a.denominator }
    : {
        numerator: a.numerator * b.denominator + b.numerator * a.denominator,
        denominator: a.denominator * b.denominator,
      }
}

/** base × percent as an unrounded ratio of minor units. */
export function unroundedTax(base: bigint, percent: Percent): Ratio {
  return { numerator: base * percent, denominator: PERCENT_SCALE }
}

export function subtract(a: Ratio, b: Ratio): Ratio {
  return add(a, { numerator: -b.numerator, denominator: b.denominator })
}

/** @throws AXION_DIVISION_BY_NIL */
export function divide(a: Ratio, b: Ratio): Ratio {
  return reduced(ratio(a.numerator * b.denominator, a.denominator * b.numerator))
}

/** Negative, nil or positive, as a is below, equal to or above b. */
export function compare(a: Ratio, b: Ratio): bigint {
  return a.numerator * b.denominator - b.numerator * a.denominator
}

export function least(a: Ratio, b: Ratio): Ratio {
  return compare(a, b) <= 0n ? a : b
}

/** The same ratio in lowest terms. */
export function reduced({ numerator, denominator }: Ratio): Ratio {
  let [a, b] = [numerator < 0n ? -numerator : numerator, denominator]
  while (b !== 0n) [a, b] = [b, a % b]
  return a > 1n ? { numerator: numerator / a, denominator: denominator / a } : { numerator, denominator }
}
