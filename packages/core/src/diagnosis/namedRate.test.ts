import { describe, expect, test } from 'vitest'
import { baseline, invoice, rule } from '../../test/baseline.ts'
import { rate } from '../../test/mistaken.ts'
import { determine, diagnose, expectedVoice, indexBaseline, parsePercent, statedVoice } from '../index.ts'
import type { TaxDocument } from '../index.ts'

/** The state alone, 5.5 %, with a reduced rate of 2 % for food; beside it the rate of a place with more to levy. */
const index = indexBaseline({
  ...baseline,
  combinedRates: [
    rate('STD', ['north'], null),
    rate('RED', ['north'], 'FOOD'),
    rate('RAIL', ['north', 'hollow', 'rail'], null),
  ],
  codeRules: [
    rule('r1', 'north', 'GOODS', 'standard'),
    rule('r2', 'north', 'FOOD', 'reduced', { percent: parsePercent('2') }),
    rule('r3', 'north', 'BOOK', 'exempt'),
  ],
})
type Place = 'STATE' | 'RAIL'
const sale = (place: Place, code: string, named: string): TaxDocument => {
  const document = invoice([[10000n, code]], {
    shipTo: {
      country: 'XA',
      region: 'XA-NO',
      city: 'Elsewhere',
      postalCode: place === 'RAIL' ? '10001-0100' : '30000',
    },
  })
  return {
    ...document,
    lines: document.lines.map((line) => ({
      ...line,
      names: { systemRateId: `their-${named}`, combinedRateId: named },
    })),
  }
}

describe('a rate that the line itself names (K10)', () => {
  test.each<[string, Place, string, string, bigint, readonly string[]]>([
    ['the reduced rate on what is not reduced', 'STATE', 'GOODS', 'RED', 200n, ['named-rate']],
    ['the standard rate on what is reduced', 'STATE', 'FOOD', 'STD', 550n, ['named-rate']],
    ['another place’s', 'STATE', 'GOODS', 'RAIL', 745n, ['named-rate']],
    ['one that lacks parts of its own', 'RAIL', 'GOODS', 'STD', 550n, ['named-rate']],
    ['its own, and something else is wrong', 'STATE', 'GOODS', 'STD', 745n, []],
    ['its own, reduced as it should be', 'STATE', 'FOOD', 'RED', 200n, []],
    [
      'the standard rate on what is exempt says nothing of why it was taxed',
      'STATE',
      'BOOK',
      'STD',
      550n,
      [],
    ],
  ])('%s', (_, place, code, named, tax, kinds) => {
    const document = sale(place, code, named)
    const determination = determine(document, index)
    const expected = expectedVoice(document, determination, index)
    const stated = statedVoice(document, [{ rateId: 'their', agency: null, base: null, tax }], 10000n)
    const found = diagnose({ document, determination, expected, index }, stated, []).explanations
    expect(
      found.map((each) => each.map(({ kind }) => kind)).filter((of) => of.includes('named-rate')),
    ).toEqual(kinds.map((kind) => [kind]))
  })
})
