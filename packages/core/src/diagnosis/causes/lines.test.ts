import { two, seen, voiceOf, naming, credited, STATE } from '../../../test/mistaken.ts'
import { describe, expect, it, test } from 'vitest'
import { invoice } from '../../../test/baseline.ts'
import type { TaxDocument } from '../../determination/document.ts'
import type { VoiceFacts } from '../../tieout/facts.ts'
import { diagnose } from '../diagnose.ts'
import { UNCHANGED } from '../recompute.ts'
import { assume, causeKey, CAUSES, type Assumption } from './index.ts'

describe('a default code', () => {
  const onCode = (lineId: string | null): Assumption => ({
    kind: 'default-code',
    systemId: 's',
    itemTaxCode: 'FOOD',
    lineId,
  })
  const codes = (document: TaxDocument, lineId: string | null) => {
    const changed = assume(onCode(lineId), UNCHANGED(document), seen(document))?.document
    const of = (d?: TaxDocument) => d?.lines.map((line) => line.itemTaxCode)
    return [of(changed), of(changed?.original?.document)]
  }
  const shipped = invoice([
    [10000n, 'GOODS'],
    [5000n, 'WORK'],
    [700n, 'SHIP'],
  ])

  test.each<[string, TaxDocument, string | null, unknown]>([
    ['is every line’s, but shipping’s', shipped, null, [['FOOD', 'FOOD', 'SHIP'], undefined]],
    ['is one line’s', shipped, '2', [['GOODS', 'FOOD', 'SHIP'], undefined]],
    [
      'holds for what is credited',
      credited(shipped),
      null,
      [
        ['FOOD', 'FOOD', 'SHIP'],
        ['FOOD', 'FOOD', 'SHIP'],
      ],
    ],
    [
      'for the credited line alone',
      credited(shipped),
      'c1',
      [
        ['FOOD', 'WORK', 'SHIP'],
        ['FOOD', 'WORK', 'SHIP'],
      ],
    ],
    [
      'and for none where the line credits none',
      {
        ...credited(shipped),
        lines: credited(shipped).lines.map((line) => ({ ...line, credits: null })),
      },
      'c1',
      [
        ['FOOD', 'WORK', 'SHIP'],
        ['GOODS', 'WORK', 'SHIP'],
      ],
    ],
  ])('%s', (_, document, lineId, expected) => expect(codes(document, lineId)).toEqual(expected))

  test.each<[string, TaxDocument, readonly string[]]>([
    ['one of two lines is on it', { ...two, shipTo: STATE }, ['2']],
    ['all are', { ...two, shipTo: STATE }, []],
  ])('is found: %s', (_, document, only) => {
    const of = seen(document)
    const made = voiceOf(of, onCode(only[0] ?? null)) as VoiceFacts
    const found = diagnose(of, made, [onCode(null)]).explanations
    expect(found.map((each) => each.map(causeKey))).toEqual([['default-code|s|FOOD']])
  })

  it('that the only line has already explains nothing', () => {
    const of = seen(invoice([[10000n, 'FOOD']], { shipTo: STATE }))
    expect(diagnose(of, of.expected, [onCode(null)])).toEqual({ explanations: [], pairsLeft: 0 })
  })
})

describe('a line left out', () => {
  const shipped = (discount: bigint, ...codes: readonly [bigint, string][]) =>
    invoice([...codes, [700n, 'SHIP']], { discount })
  const left = (document: TaxDocument, lineId: string) => {
    const changed = assume({ kind: 'line-left-out', lineId }, UNCHANGED(document), seen(document))
    return changed?.document.lines.map((line) => [line.id, line.amount, line.discountShare])
  }

  test.each<[string, TaxDocument, string, unknown]>([
    [
      'takes its shares of the discount and of shipping along',
      shipped(300n, [10000n, 'GOODS'], [5000n, 'GOODS']),
      '2',
      [
        ['1', 10000n, 200n],
        ['3', 467n, 0n],
      ],
    ],
    [
      'that is shipping takes nothing along',
      shipped(300n, [10000n, 'GOODS'], [5000n, 'GOODS']),
      '3',
      [
        ['1', 10000n, 200n],
        ['2', 5000n, 100n],
      ],
    ],
    [
      'that was given back shares with what was given back',
      shipped(0n, [10000n, 'GOODS'], [-5000n, 'GOODS']),
      '1',
      [
        ['2', -5000n, 0n],
        ['3', 0n, 0n],
      ],
    ],
    [
      'among lines of nothing leaves shipping as it is',
      shipped(0n, [0n, 'GOODS'], [0n, 'GOODS']),
      '1',
      [
        ['2', 0n, 0n],
        ['3', 700n, 0n],
      ],
    ],
    [
      'of nothing, among others, takes nothing along',
      shipped(0n, [0n, 'GOODS'], [5000n, 'GOODS']),
      '1',
      [
        ['2', 5000n, 0n],
        ['3', 700n, 0n],
      ],
    ],
  ])('%s', (_, document, lineId, expected) => expect(left(document, lineId)).toEqual(expected))

  it('leaves shipping that has a code of its own, or none, as it is', () => {
    for (const code of ['GOODS', null]) {
      const document = shipped(0n, [10000n, 'GOODS'], [5000n, 'GOODS'])
      const lines = document.lines.map((line) => (line.id === '3' ? { ...line, itemTaxCode: code } : line))
      expect(left({ ...document, lines }, '2')?.map((of) => of[1])).toEqual([10000n, 700n])
    }
  })
})

describe('a rate that is named', () => {
  const named = (document: TaxDocument) =>
    CAUSES['named-rate'].candidates(seen(document)).map(({ within, enteredBy }) => [within, enteredBy])

  it('is within the document’s own places where all of its are', () => {
    const of = invoice([
      [1n, 'GOODS'],
      [2n, 'GOODS'],
      [3n, 'GOODS'],
    ])
    expect(named(naming(of, 'LESS', 'SOUTH', 'ALL'))).toEqual([
      [true, null],
      [false, null],
      [true, null],
    ])
    expect(named(naming(of, 'none'))).toEqual([[false, null]])
    expect(named(naming({ ...of, enteredBy: 'Ida' }, 'STD'))).toEqual([[true, 'Ida']])
  })

  test.each<[string, TaxDocument, string, readonly string[] | null]>([
    ['by one line is that line’s', naming(two, 'STD'), 'their-STD', ['1 XA north']],
    ['by both is both’s', naming(two, 'STD', 'STD'), 'their-STD', ['1 XA north', '2 XA north']],
    ['beside another is its own lines’', naming(two, 'STD', 'LESS'), 'their-LESS', ['2 north hollow']],
    ['of their place and items concerns nothing', naming(two, 'ALL'), 'their-ALL', null],
    ['by nobody', two, 'their-ALL', null],
    ['and unknown', naming(two, 'none'), 'their-none', null],
    [
      'of its place, whose country levies nothing',
      naming({ ...two, shipTo: STATE }, 'STD'),
      'their-STD',
      null,
    ],
    ['for other items', naming({ ...two, shipTo: STATE }, 'RED'), 'their-RED', ['1 north for FOOD']],
    [
      'for all items where this one is reduced',
      naming(invoice([[1n, 'FOOD']], { shipTo: STATE }), 'STD'),
      'their-STD',
      ['1 XA north'],
    ],
    ['on what is on no code', naming(invoice([[1n, null]], { shipTo: STATE }), 'STD'), 'their-STD', null],
    ['by what is credited', credited(naming(two, 'STD')), 'their-STD', ['1 XA north']],
  ])('%s', (_, document, systemRateId, expected) => {
    const of = seen(document)
    const [any] = [
      { kind: 'named-rate', systemRateId, combinedRateId: '', within: false, enteredBy: null },
    ] as const
    const ratedAs = assume(any, UNCHANGED(document), of)?.assumed.ratedAs
    expect(
      ratedAs
        ? [...ratedAs].map(([line, { jurisdictions, itemTaxCode }]) =>
            [line, ...jurisdictions.map((j) => j.id), ...(itemTaxCode ? ['for', itemTaxCode] : [])].join(' '),
          )
        : null,
    ).toEqual(expected)
  })
})
