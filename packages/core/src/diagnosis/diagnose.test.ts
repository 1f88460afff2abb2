import { two, seen, voiceOf, percent, STATE, index, rate } from '../../test/mistaken.ts'
import { describe, expect, it } from 'vitest'
import { invoice } from '../../test/baseline.ts'
import { indexBaseline } from '../baseline/lookup.ts'
import { determine } from '../determination/determine.ts'
import type { TaxDocument } from '../determination/document.ts'
import { parsePercent } from '../money/decimal.ts'
import { statedVoice, type VoiceFacts } from '../tieout/facts.ts'
import { combinedRatesOf } from './combinedRates.ts'
import { diagnose, explanationKey } from './diagnose.ts'
import { otherRoundings } from './recompute.ts'
import type { Assumption } from './causes/index.ts'

describe('two mistakes at once', () => {
  const of = seen({ ...two, discount: 1000n })
  const first: Assumption = { kind: 'discount', beforeTax: false }
  const made = voiceOf(of, percent('hollow', 'ALL'), first) as VoiceFacts
  const tried = (most?: number) => diagnose(of, made, [percent('hollow', 'ALL')], most)
  const found = (most?: number) => tried(most).explanations.map((one) => explanationKey(one))
  const both = 'component-percent|s|r|hollow|1000000 + discount|false'

  it('are found by a bounded search', () => {
    expect(found()).toEqual([both])
    expect(found(0)).toEqual([])
  })

  it('are named in one order', () => {
    const pair = [first, percent('hollow', 'ALL')]
    expect(explanationKey(pair)).toBe(explanationKey([...pair].reverse()))
  })

  it('within as many pairs as it takes, and not one less', () => {
    const least = Array.from({ length: 200 }, (_, at) => at).find((most) => found(most).length > 0) ?? -1
    expect(least).toBeGreaterThan(0)
    expect([found(least - 1), found(least)]).toEqual([[], [both]])
    // However few are tried, as many as there are are accounted for.
    const [none, all] = [tried(0).pairsLeft, tried().pairsLeft]
    expect([none > least, all]).toEqual([true, 0])
    for (const most of [1, least, none - 1, none, none + 1])
      expect(tried(most).pairsLeft).toBe(Math.max(none - most, 0))
  })

  it('explain nothing that shows its agencies by what has none', () => {
    const flat: Assumption = {
      kind: 'flat-rate',
      systemId: 's',
      systemRateId: 'r',
      percent: parsePercent('7.45'),
    }
    const plain = seen(two)
    const shown = statedVoice(two, [{ rateId: 'x', agency: 'state', base: null, tax: 1118n }], 15000n)
    const kinds = (odd: VoiceFacts) =>
      diagnose(plain, odd, [flat]).explanations.flatMap((one) => one.map(({ kind }) => kind))
    expect(kinds(shown)).not.toContain('flat-rate')
  })
})

it('combined rates are those of each taxed line, once', () => {
  const document = invoice(
    [
      [10000n, 'GOODS'],
      [5000n, 'FOOD'],
      [1n, 'BOOK'],
      [7n, 'GOODS'],
    ],
    { shipTo: STATE },
  )
  const rates = indexBaseline({
    ...index.baseline,
    combinedRates: [rate('ONE', ['north']), rate('RED', ['north'], 'FOOD')],
  })
  const of = (d: TaxDocument) => combinedRatesOf(d, determine(d, rates), rates)
  expect(of(document)).toEqual(['ONE', 'RED'])
  expect(of(invoice([[1n, 'BOOK']], { shipTo: STATE }))).toEqual([])
})

it('other roundings are of what was rounded somewhere, and complete', () => {
  const of = seen(two)
  expect(otherRoundings(of).length).toBeGreaterThan(3)
  expect(otherRoundings({ ...of, determination: { ...of.determination, rounding: null } })).toEqual([])
  expect(otherRoundings({ ...of, determination: { ...of.determination, complete: false } })).toEqual([])
})
