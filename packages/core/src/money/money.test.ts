import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { allocate, allocateByRatio } from './allocation.ts'
import { currencyDigits, formatAmount, isCurrency, parseAmount, sum } from './currency.ts'
import {
  add,
  compare,
  divide,
  formatPercent,
  least,
  multiply,
  parseDecimal,
  parsePercent,
  ratio,
  reduced,
  subtract,
  type Ratio,
} from './decimal.ts'
import { combinedPercent } from '../baseline/combined.ts'
import { round, type TieMode } from './rounding.ts'

describe('rounding (K1)', () => {
  test.each<[bigint, bigint, TieMode, bigint]>([
    [5n, 2n, 'half-away', 3n],
    [-5n, 2n, 'half-away', -3n],
    [5n, 2n, 'half-even', 2n],
    [7n, 2n, 'half-even', 4n],
    [-7n, 2n, 'truncate', -3n],
    [249n, 100n, 'half-away', 2n],
    [-251n, 100n, 'half-away', -3n],
  ])('%d / %d, %s, is %d', (n, d, mode, expected) => expect(round(ratio(n, d), mode)).toBe(expected))

  it('makes a credit the mirror of its sale, in every mode', () => {
    fc.assert(
      fc.property(
        fc.bigInt(),
        fc.bigInt({ min: 1n }),
        fc.constantFrom<TieMode>('half-away', 'half-even', 'truncate'),
        (n, d, mode) => {
          expect(round(ratio(-n, d), mode)).toBe(-round(ratio(n, d), mode))
        },
      ),
    )
  })
})

describe('allocation (K2)', () => {
  test.each<[string, bigint, bigint[], bigint[]]>([
    ['the worked example', 220n, [167475n, 38062n, 15225n], [167n, 38n, 15n]],
    ['ties go to the larger weight', 1n, [1n, 1n], [1n, 0n]],
    ['ties of the fraction go to the larger weight', 5n, [1n, 3n, 1n, 5n], [0n, 2n, 0n, 3n]],
    ['a negative whole is the mirror', -220n, [167475n, 38062n, 15225n], [-167n, -38n, -15n]],
    ['negative weights count as their size', 10n, [-1n, -1n], [5n, 5n]],
    ['nothing over nothing', 0n, [0n, 0n], [0n, 0n]],
  ])('%s', (_, whole, weights, parts) => expect(allocate(whole, weights)).toEqual(parts))

  test.each([
    ['no weight at all', 5n, [0n, 0n], 'AXION_ALLOCATION_WITHOUT_WEIGHT'],
    ['weights of both signs', 5n, [1n, -1n], 'AXION_ALLOCATION_OF_BOTH_SIGNS'],
  ])('refuses %s', (_, whole, weights, code) => expect(() => allocate(whole, weights)).toThrow(code))

  it('always adds up, and no part is a unit or more from its share', () => {
    const weights = fc
      .array(fc.bigInt({ min: 0n, max: 10n ** 12n }), { minLength: 1, maxLength: 12 })
      .filter((w) => sum(w) > 0n)
    fc.assert(
      fc.property(fc.bigInt({ min: -(10n ** 15n), max: 10n ** 15n }), weights, (whole, w) => {
        const parts = allocate(whole, w)
        expect(sum(parts)).toBe(whole)
        parts.forEach((part, at) => {
          const off = part * sum(w) - whole * (w[at] ?? 0n)
          expect(off < sum(w) && off > -sum(w)).toBe(true)
        })
      }),
    )
  })

  it('brings ratios to one denominator', () => {
    expect(
      allocateByRatio(221n, [ratio(167475n, 1000n), ratio(380625n, 10000n), ratio(15225n, 1000n)]),
    ).toEqual([168n, 38n, 15n])
  })
})

describe('amounts and decimals', () => {
  test.each([
    ['USD', '1284.16', 128416n],
    ['USD', '-0.05', -5n],
    ['USD', '3', 300n],
    ['JPY', '980', 980n],
    ['KWD', '1.005', 1005n],
  ])('%s %s is %d minor units', (currency, text, units) => {
    expect(parseAmount(text, currency)).toBe(units)
    expect(parseAmount(formatAmount(units, currency), currency)).toBe(units)
  })

  test.each([
    ['USD', '1.005', 'AXION_NOT_AN_AMOUNT'],
    ['JPY', '1.5', 'AXION_NOT_AN_AMOUNT'],
    ['USD', '1e3', 'AXION_NOT_AN_AMOUNT'],
    ['USD', '', 'AXION_NOT_AN_AMOUNT'],
    ['XQQ', '1', 'AXION_UNKNOWN_CURRENCY'],
  ])('refuses %s "%s"', (currency, text, code) => expect(() => parseAmount(text, currency)).toThrow(code))

  test.each([
    ['8.25', 8_250_000n, '8.25'],
    ['100', 100_000_000n, '100.00'],
    ['0', 0n, '0.00'],
    ['0.125', 125_000n, '0.125'],
    ['6.000001', 6_000_001n, '6.000001'],
  ])('reads percent %s', (text, percent, written) => {
    expect(parsePercent(text)).toBe(percent)
    expect(formatPercent(percent)).toBe(written)
  })

  test.each([['100.01'], ['-1'], ['1.0000001']])('refuses %s percent', (text) =>
    expect(() => parsePercent(text)).toThrow('AXION_RATE_OUT_OF_RANGE'),
  )

  it('reads decimals exactly', () => {
    expect(parseDecimal('-12.50')).toEqual({ numerator: -1250n, denominator: 100n })
    expect(() => parseDecimal('1 000')).toThrow('AXION_NOT_A_DECIMAL')
    expect(currencyDigits('KWD')).toBe(3)
    expect(['USD', 'XQQ', ''].map(isCurrency)).toEqual([true, false, false])
  })
})

describe('ratios', () => {
  test.each<[string, () => Ratio, bigint, bigint]>([
    ['a negative denominator gives its sign up', () => ratio(3n, -4n), -3n, 4n],
    ['nil over a negative too', () => ratio(0n, -4n), 0n, 4n],
    ['one denominator is kept', () => add(ratio(1n, 4n), ratio(2n, 4n)), 3n, 4n],
    ['two are multiplied', () => subtract(ratio(1n, 4n), ratio(1n, 6n)), 2n, 24n],
    ['a product', () => multiply(ratio(2n, 3n), ratio(5n, 7n)), 10n, 21n],
    ['a quotient is in lowest terms', () => divide(ratio(-6n, 4n), ratio(3n)), -1n, 2n],
    ['lowest terms of what has them', () => reduced(ratio(7n, 9n)), 7n, 9n],
    ['lowest terms of a whole number', () => reduced(ratio(12n, 4n)), 3n, 1n],
    ['lowest terms of nil', () => reduced(ratio(0n, 4n)), 0n, 1n],
    ['lowest terms below nil', () => reduced(ratio(-4n, 6n)), -2n, 3n],
    ['the lesser', () => least(ratio(1n, 3n), ratio(1n, 2n)), 1n, 3n],
    ['the lesser, the other way about', () => least(ratio(1n, 2n), ratio(1n, 3n)), 1n, 3n],
    ['the lesser below nil', () => least(ratio(-1n, 3n), ratio(-1n, 2n)), -1n, 2n],
  ])('%s', (_, made, numerator, denominator) => expect(made()).toEqual({ numerator, denominator }))

  it('have an order, and none by nil', () => {
    expect(compare(ratio(1n, 3n), ratio(1n, 2n)) < 0n).toBe(true)
    expect(compare(ratio(5n, 3n), ratio(3n, 2n)) > 0n).toBe(true)
    expect(compare(ratio(2n, 4n), ratio(1n, 2n))).toBe(0n)
    expect(() => ratio(1n, 0n)).toThrow('AXION_DIVISION_BY_NIL')
    expect(() => divide(ratio(1n), ratio(0n))).toThrow('AXION_DIVISION_BY_NIL')
  })
})

describe('a combined rate', () => {
  const micro = (percent: string): bigint => parsePercent(percent)
  test.each<[string, [string | null, number[]][], string]>([
    [
      'side by side',
      [
        ['5', []],
        ['8', []],
      ],
      '13.00',
    ],
    [
      '8 on top of 5',
      [
        ['5', []],
        ['8', [0]],
      ],
      '13.40',
    ],
    [
      'on top of two, one on top of the other',
      [
        ['5', []],
        ['8', [0]],
        ['1', [0, 1]],
      ],
      '14.534',
    ],
    [
      'with a percent that is not known',
      [
        ['5', []],
        [null, [0]],
      ],
      '5.00',
    ],
  ])('comes to what it is of the base: %s', (_, parts, total) => {
    const given = parts.map(([percent, onTopOf]) => ({
      percent: percent === null ? null : micro(percent),
      onTopOf,
    }))
    expect(formatPercent(combinedPercent(given))).toBe(total)
  })
})
