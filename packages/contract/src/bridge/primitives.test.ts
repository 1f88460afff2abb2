import { describe, expect, test } from 'vitest'
import { z } from 'zod'
import {
  amount,
  boundedText,
  date,
  decimal,
  instant,
  lastDate,
  locale,
  sequence,
  timeZone,
} from './primitives.ts'
import { TaxRate } from './setUp.ts'

describe('what is kept', () => {
  test.each<[string, z.ZodType, readonly string[], readonly string[]]>([
    ['a date', date, ['1900-01-01', '2199-12-31'], ['1899-12-31', '2200-01-01', '0000-01-01', '2026-02-30']],
    [
      'the last day of a span',
      lastDate,
      ['9999-12-31', '1900-01-01'],
      ['1899-12-31', '0000-01-01', '9999-02-30'],
    ],
    [
      'a time',
      instant,
      ['2026-09-17T14:03:00Z'],
      ['0000-01-01T00:00:00Z', '9999-12-31T00:00:00Z', '2026-09-17'],
    ],
    ['an amount', amount, ['999999999999999.9999', '-0.01'], ['1000000000000000', '1e3', '1,000', '0.00001']],
    ['a decimal', decimal, ['999999999.123456789012'], ['1000000000', '0.1234567890123']],
    ['a sequence', sequence, ['0', '9223372036854775807'], ['9223372036854775808', '-1', '1.0']],
    ['text', boundedText(5), ['', 'a🐝b'], ['a\u0000b', '\ud800', 'longer']],
    ['a time zone', timeZone, ['America/Chicago', 'UTC'], ['Mars/Olympus', '']],
    ['a locale', locale, ['en', 'de-CH', 'en-US'], ['zz-ZZ', 'no locale', '']],
  ])('%s', (_, shape, good, bad) => {
    expect(good.filter((one) => !shape.safeParse(one).success)).toEqual([])
    expect(bad.filter((one) => shape.safeParse(one).success)).toEqual([])
  })

  test('a rate that ends in the year 9999, as systems write that it never does', () => {
    const part = { agencyId: 'a', name: 'A', percent: '5', perUnit: null, onTopOf: [], from: '2020-01-01' }
    const rate = {
      code: null,
      name: 'R',
      percent: '5',
      active: true,
      components: [{ ...part, to: '9999-12-31' }],
    }
    expect(TaxRate.safeParse(rate).success).toBe(true)
  })
})
