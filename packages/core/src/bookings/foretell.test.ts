import { describe, expect, it } from 'vitest'
import { parsePercent, ratio } from '../money/decimal.ts'
import { foretell, sameTaxes, type HeldComponent, type LineToTax } from './foretell.ts'

const part = (percent: string, changes: Partial<HeldComponent> = {}): HeldComponent => ({
  agencyId: `A${percent}`,
  account: `2${percent}`,
  percent: parsePercent(percent),
  perUnit: null,
  onTopOf: [],
  ...changes,
})
const line = (changes: Partial<LineToTax>): LineToTax => ({
  id: '1',
  rateId: 'r',
  components: [],
  quantity: ratio(1n),
  taxable: 0n,
  gross: null,
  ...changes,
})
const place = (level: 'document' | 'line' | 'unit', unit: 'component' | 'combined') =>
  ({ level, unit, tie: 'half-away' }) as const

describe('what a ledger that computes would book', () => {
  it.each<[string, LineToTax[], ReturnType<typeof place>, readonly bigint[] | null]>([
    [
      'one percent',
      [line({ components: [part('7.45')], taxable: 433n })],
      place('document', 'component'),
      [32n],
    ],
    [
      'by document, each component once; by line, each time',
      [1, 2].map((id) => line({ id: String(id), components: [part('5'), part('1.5')], taxable: 110n })),
      place('document', 'component'),
      [11n, 3n],
    ],
    [
      'by line',
      [1, 2].map((id) => line({ id: String(id), components: [part('5'), part('1.5')], taxable: 110n })),
      place('line', 'component'),
      [12n, 4n],
    ],
    [
      'a return is rounded by itself',
      [
        line({ id: '1', components: [part('5')], taxable: 110n }),
        line({ id: '2', components: [part('5')], taxable: -110n }),
      ],
      place('document', 'component'),
      [],
    ],
    [
      'tax on tax takes the first as rounded',
      [line({ components: [part('5'), part('8', { onTopOf: [0] })], taxable: 10_000n })],
      place('document', 'component'),
      [500n, 840n],
    ],
    [
      'by the unit',
      [line({ components: [part('0', { perUnit: ratio(12n) })], quantity: ratio(7n), taxable: 5_000n })],
      place('document', 'component'),
      [84n],
    ],
    [
      'two rates of one agency come together on its account',
      [
        line({
          id: '1',
          rateId: 'a',
          components: [part('5', { agencyId: 'X', account: '2' })],
          taxable: 100n,
        }),
        line({
          id: '2',
          rateId: 'b',
          components: [part('7', { agencyId: 'X', account: '2' })],
          taxable: 100n,
        }),
      ],
      place('document', 'component'),
      [12n],
    ],
    [
      'inside prices',
      [line({ components: [part('20')], taxable: 1_000n, gross: 1_200n })],
      place('document', 'combined'),
      [200n],
    ],
    [
      'inside prices, one on top of the other: 100 + 5 + 8.40',
      [line({ components: [part('5'), part('8', { onTopOf: [0] })], gross: 11_340n })],
      place('document', 'combined'),
      [500n, 840n],
    ],
    [
      'inside prices, by the unit: 10.50 with 0.35 and 1.5 %',
      [line({ components: [part('0', { perUnit: ratio(35n) }), part('1.5')], gross: 1_050n })],
      place('document', 'combined'),
      [35n, 15n],
    ],
    [
      'a tax on a tax by the unit inside a price is not told',
      [
        line({
          components: [part('0', { perUnit: ratio(35n) }), part('8', { onTopOf: [0] })],
          gross: 1_050n,
        }),
      ],
      place('document', 'combined'),
      null,
    ],
    [
      'levies by the unit of more than the price are not told',
      [line({ components: [part('0', { perUnit: ratio(35n) })], quantity: ratio(4n), gross: 99n })],
      place('document', 'combined'),
      null,
    ],
    [
      'nor of a return',
      [line({ components: [part('0', { perUnit: ratio(35n) })], quantity: ratio(-4n), gross: -99n })],
      place('document', 'combined'),
      null,
    ],
    [
      'of just the price they are all of it',
      [line({ components: [part('0', { perUnit: ratio(35n) })], quantity: ratio(4n), gross: 140n })],
      place('document', 'combined'),
      [140n],
    ],
  ])('%s', (_, lines, at, taxes) => {
    expect(foretell(lines, at)?.map(({ tax }) => tax) ?? null).toEqual(taxes)
  })

  it('two sets are the same by agency and account, in whatever order and however often', () => {
    const one = { agencyId: 'A', account: '1', tax: 3n }
    expect(sameTaxes([one, { ...one, tax: 4n }], [{ ...one, tax: 7n }])).toBe(true)
    expect(sameTaxes([one], [{ ...one, account: '2' }])).toBe(false)
    expect(sameTaxes([one], [])).toBe(false)
    const [two, swapped] = [
      [one, { agencyId: 'B', account: '2', tax: 4n }],
      [
        { ...one, tax: 4n },
        { agencyId: 'B', account: '2', tax: 3n },
      ],
    ]
    expect(sameTaxes(two, [...two].reverse())).toBe(true)
    expect(sameTaxes(two, swapped)).toBe(false)
    // Nobody’s is not somebody’s, nor is no account the first one.
    const nobodys = { agencyId: null, account: null, tax: 3n }
    expect(sameTaxes([nobodys], [nobodys])).toBe(true)
    expect(sameTaxes([nobodys], [{ ...nobodys, agencyId: 'A' }])).toBe(false)
    expect(sameTaxes([nobodys], [{ ...nobodys, account: '1' }])).toBe(false)
  })
})
