import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { baseline, invoice } from '../../test/baseline.ts'
import { codesOf, rowsOf } from '../../test/rating.ts'
import { indexBaseline } from '../baseline/lookup.ts'
import { sum } from '../money/currency.ts'
import { determine } from './determine.ts'
import type { DocumentLine, TaxDocument } from './document.ts'

describe('credit notes', () => {
  const original = invoice(
    [
      [3333n, 'GOODS'],
      [5000n, 'FOOD'],
      [1250n, 'SHIP'],
    ],
    { id: 'd0', number: 'LA-0', supplyDate: '2026-08-20', documentDate: '2026-08-20', discount: 333n },
  )
  const credit = (
    amounts: readonly bigint[],
    before: readonly bigint[] = [0n, 0n, 0n],
    changes: Partial<TaxDocument> = {},
  ): TaxDocument => ({
    ...original,
    id: 'c1',
    number: 'CR-1',
    kind: 'credit-note',
    documentDate: '2026-09-05',
    supplyDate: '2026-09-05',
    discount: 0n,
    lines: original.lines
      .map((line, at) => ({ ...line, amount: -(amounts[at] ?? 0n), credits: line.id }))
      .filter((line) => line.amount !== 0n),
    original: { document: original, before: new Map(before.map((b, at) => [String(at + 1), b])) },
    ...changes,
  })
  const prices = determine(original, indexBaseline(baseline)).lines.map((l) => l.net)
  const whole = rowsOf(original)

  it('takes the original’s rates and dates, as its mirror', () => {
    expect(rowsOf(credit(prices))).toEqual(
      whole.map(([id, j, net, base, tax, reason]) => [
        id,
        j,
        -(net as bigint),
        -(base as bigint),
        -(tax as bigint),
        reason,
      ]),
    )
    expect(rowsOf(credit(prices)).find(([, j]) => j === 'hollow')?.[4]).toBe(
      -(whole.find(([, j]) => j === 'hollow')?.[4] as bigint),
    )
  })

  it('credited in parts adds up to the original, row by row and base by base, in every way of cutting it', () => {
    const cut = fc.tuple(...prices.map((price) => fc.bigInt({ min: 0n, max: price })))
    const place = fc.constantFrom<'line' | 'document'>('line', 'document')
    fc.assert(
      fc.property(
        cut,
        fc.boolean(),
        place,
        fc.constantFrom<'component' | 'combined'>('component', 'combined'),
        (first, pricesIncludeTax, level, unit) => {
          const on = indexBaseline({
            ...baseline,
            roundings: baseline.roundings.map((r) => ({ ...r, place: { level, unit, tie: 'half-away' } })),
          })
          const basis = { ...original, pricesIncludeTax }
          const part = (amounts: readonly bigint[], before: readonly bigint[]) =>
            determine(
              credit(amounts, before, {
                pricesIncludeTax,
                original: { document: basis, before: new Map(before.map((b, at) => [String(at + 1), b])) },
              }),
              on,
            )
          const parts = [
            part(first, [0n, 0n, 0n]),
            part(
              prices.map((p, at) => p - (first[at] ?? 0n)),
              first,
            ),
          ]
          const all = determine(basis, on)
          for (const jurisdiction of ['north', 'hollow', 'rail']) {
            const taxOn = (d: typeof all): bigint =>
              sum(d.rows.filter((r) => r.jurisdictionId === jurisdiction).map((r) => r.tax))
            const baseOn = (d: typeof all): bigint =>
              sum(d.rows.filter((r) => r.jurisdictionId === jurisdiction).map((r) => r.base))
            expect([sum(parts.map(taxOn)), sum(parts.map(baseOn))]).toEqual([-taxOn(all), -baseOn(all)])
          }
        },
      ),
      { numRuns: 300 },
    )
  })

  it('remarks on a line that the original lacks, on more than the original, and on an original nobody knows', () => {
    const stranger = {
      ...credit(prices),
      lines: [{ ...(original.lines[0] as DocumentLine), id: '9', amount: -1000n, credits: null }],
    }
    expect([codesOf(stranger), rowsOf(stranger).find(([, j]) => j === 'hollow')?.[4]]).toEqual([
      ['AXION_LINE_NOT_ON_ORIGINAL'],
      -13n,
    ])
    expect(codesOf(credit(prices.map((p) => p + 1n)))).toEqual(['AXION_CREDITED_BEYOND'])
    expect(codesOf({ ...credit(prices), original: null })).toEqual(['AXION_ORIGINAL_UNKNOWN'])
  })
})
