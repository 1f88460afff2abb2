import { describe, expect, test } from 'vitest'
import { baseline, invoice, rule } from '../../test/baseline.ts'
import { rate } from '../../test/mistaken.ts'
import { determine, diagnose, expectedVoice, indexBaseline, parsePercent, statedVoice } from '../index.ts'
import type { TaxDocument } from '../index.ts'
import { assume } from './causes/index.ts'
import { UNCHANGED } from './recompute.ts'

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

describe('a line whose tax somebody overrode', () => {
  const overriding = (document: TaxDocument, by: string | null, untaxed = false): TaxDocument => ({
    ...document,
    lines: document.lines.map(({ names, ...line }) => ({
      ...line,
      ...(untaxed || !names ? {} : { names }),
      overridden: { by, why: 'school order', untaxed },
    })),
  })
  test.each<[string, TaxDocument, bigint, boolean]>([
    ['another place’s rate', overriding(sale('STATE', 'GOODS', 'RAIL'), 'Mara'), 745n, true],
    ['the reduced rate', overriding(sale('STATE', 'GOODS', 'RED'), 'Mara'), 200n, true],
    ['a rate on what is exempt', overriding(sale('STATE', 'BOOK', 'STD'), null), 550n, true],
    ['none at all', overriding(sale('STATE', 'GOODS', 'STD'), 'Mara', true), 0n, true],
    [
      'what was chosen is not what was charged',
      overriding(sale('STATE', 'GOODS', 'RED'), 'Mara'),
      745n,
      false,
    ],
    ['nobody overrode it', sale('STATE', 'GOODS', 'RAIL'), 745n, false],
  ])('is told first: %s', (_, document, tax, isTold) => {
    const determination = determine(document, index)
    const expected = expectedVoice(document, determination, index)
    const taxes = tax === 0n ? [] : [{ rateId: 'their', agency: null, base: null, tax }]
    const found = diagnose(
      { document, determination, expected, index },
      statedVoice(document, taxes, 10000n),
      [],
    ).explanations
    const told = found.flat().filter(({ kind }) => kind === 'override')
    expect(told.length > 0).toBe(isTold)
    if (isTold)
      expect(told[0]).toEqual({
        ...{ kind: 'override', why: 'school order' },
        by: document.lines[0]?.overridden?.by ?? null,
      })
  })
  test('is no explanation where the chosen rate is linked to none', () => {
    const { lines, ...rest } = sale('STATE', 'GOODS', 'RAIL')
    const document = {
      ...rest,
      lines: lines.map(({ names: _, ...line }) => ({
        ...line,
        overridden: { by: null, why: null, untaxed: false },
      })),
    }
    const determination = determine(document, index)
    const of = { document, determination, expected: expectedVoice(document, determination, index), index }
    expect(assume({ kind: 'override', by: null, why: null }, UNCHANGED(document), of)).toBeNull()
  })
})
