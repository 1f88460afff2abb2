import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { baseline, invoice, rule } from '../../test/baseline.ts'
import { limit, rowsOf, simple, taxOf } from '../../test/rating.ts'
import type { Baseline } from '../baseline/baseline.ts'
import { indexBaseline } from '../baseline/lookup.ts'
import { sum } from '../money/currency.ts'
import { parsePercent, ratio } from '../money/decimal.ts'
import { determine } from './determine.ts'
import type { DocumentLine, TaxDocument } from './document.ts'

describe('prices that include tax (K4)', () => {
  const three = {
    ...baseline,
    rateVersions: [
      ['north', '5.5'],
      ['hollow', '1.25'],
      ['rail', '0.5'],
    ].map(([jurisdictionId, percent], at) => ({
      id: `i${at}`,
      jurisdictionId: jurisdictionId as string,
      percent: parsePercent(percent as string),
      onTopOf: [],
      valid: { from: '2020-01-01', to: null },
    })),
  }
  const gross = (amount: bigint, changes: Partial<TaxDocument> = {}) =>
    invoice([[amount, 'GOODS']], { pricesIncludeTax: true, ...changes })
  it('takes 21.50 out of 129.00 at 20 %, and 2.57 + 0.58 + 0.23 out of 49.95 at 7.25 %', () => {
    expect(rowsOf(gross(12900n), simple('20'))).toEqual([['1', 'north', 10750n, 10750n, 2150n, 'standard']])
    expect(rowsOf(gross(4995n), three).map(([, , net, , tax]) => [net, tax])).toEqual([
      [4657n, 257n],
      [4657n, 58n],
      [4657n, 23n],
    ])
  })
  test.each<[bigint, bigint]>([
    [12869n, 0n],
    [12870n, 870n],
    [11999n, 0n],
    [15000n, 1014n],
  ])('with a whole-price threshold of 120.00 at 7.25 %%, %d has %d in it', (amount, tax) => {
    expect(taxOf(gross(amount), simple('7.25', limit(12000n, 'whole', null)))).toBe(tax)
  })
  it('spreads a discount before the extraction, and frees the whole price by a certificate', () => {
    expect(taxOf(gross(13900n, { discount: 1000n }), simple('20'))).toBe(2150n)
    expect(determine(gross(12900n, { partyId: 'shop' }), indexBaseline(simple('20'))).lines[0]?.net).toBe(
      12900n,
    )
  })
  it('always adds up to the gross, whatever the limits, and to the base again', () => {
    const money = fc.bigInt({ min: 1n, max: 10_000_000n })
    fc.assert(
      fc.property(
        money,
        money,
        fc.bigInt({ min: 1n, max: 900_000n }),
        fc.constantFrom<'whole' | 'excess'>('whole', 'excess'),
        fc.boolean(),
        (amount, ship, threshold, taxes, capped) => {
          const on = simple('7.25', {
            codeRules: [
              ...(limit(threshold, taxes, capped ? threshold * 3n : null).codeRules ?? []),
              rule('c', 'north', 'SHIP', 'follows-goods'),
            ],
          })
          const { lines, rows, complete } = determine(
            invoice(
              [
                [amount, 'GOODS'],
                [ship, 'SHIP'],
              ],
              { pricesIncludeTax: true },
            ),
            indexBaseline(on),
          )
          expect(complete).toBe(true)
          expect(sum(lines.map((l) => l.net)) + sum(rows.map((r) => r.tax))).toBe(amount + ship)
        },
      ),
    )
  })

  it('knows a levy that levies nothing on a line as no part of its rate set', () => {
    const on: Baseline = {
      ...baseline,
      rateVersions: [
        ['north', '5'],
        ['hollow', '1.5'],
      ].map(([jurisdictionId, percent], at) => ({
        id: `t${at}`,
        jurisdictionId: jurisdictionId as string,
        percent: parsePercent(percent as string),
        onTopOf: [],
        valid: { from: '2020-01-01', to: null },
      })),
      codeRules: [
        rule('a', 'north', 'GOODS', 'standard', {
          threshold: { limit: 1200n, taxes: 'whole' },
          currency: 'USD',
        }),
        rule('b', 'hollow', 'GOODS', 'standard'),
      ],
    }
    const lines: [bigint, string][] = [
      [1000n, 'GOODS'],
      [1500n, 'GOODS'],
    ]
    const { rows } = determine(invoice(lines, { pricesIncludeTax: true }), indexBaseline(on))
    const of = (id: string): bigint => sum(rows.filter((r) => r.jurisdictionId === id).map((r) => r.tax))
    expect([of('north'), of('hollow')]).toEqual([71n, 36n])
  })

  test.each<[string, bigint, bigint, bigint | null]>([
    ['one unit', 1050n, 1n, 1000n],
    ['three units', 3150n, 3n, 3000n],
    ['a returned unit', -1050n, 1n, -1000n],
    ['nothing at all', 0n, 1n, 0n],
    ['a price that the tax alone exceeds', 20n, 1n, null],
  ])('solves a tax per unit inside: 0.35 a unit and 1.5 %%, %s', (_, amount, quantity, net) => {
    const on = simple('1.5', {
      jurisdictions: baseline.jurisdictions.filter((j) => ['XA', 'north', 'hollow'].includes(j.id)),
      codeRules: [
        rule('a', 'north', 'FUEL', 'standard'),
        rule('b', 'hollow', 'FUEL', 'per-unit', { perUnit: ratio(35n), currency: 'USD' }),
      ],
    })
    const document = invoice([[amount, 'FUEL']], { pricesIncludeTax: true })
    const line = { ...(document.lines[0] as DocumentLine), quantity: ratio(quantity) }
    const { lines, complete, open } = determine({ ...document, lines: [line] }, indexBaseline(on))
    expect(net === null ? [complete, open] : lines[0]?.net).toEqual(net === null ? [false, ['1']] : net)
  })

  it('gives a part of followed shipping its exact net times its exact share, rounded once', () => {
    const on = simple('20', {
      codeRules: [
        rule('a', 'north', 'GOODS', 'standard'),
        rule('b', 'north', 'FOOD', 'exempt'),
        rule('c', 'north', 'SHIP', 'follows-goods'),
      ],
    })
    // Exact nets 10.00 and 20.00: a third of the shipping's net is taxed, 3.125 of 9.375; its tax is 0.625.
    const rows = rowsOf(
      invoice(
        [
          [1200n, 'GOODS'],
          [2000n, 'FOOD'],
          [1000n, 'SHIP'],
        ],
        { pricesIncludeTax: true },
      ),
      on,
    )
    expect(rows.filter(([id]) => id === '3').map((r) => r.slice(2))).toEqual([
      [313n, 313n, 62n, 'standard'],
      [625n, 0n, 0n, 'exempt'],
    ])
  })
})
