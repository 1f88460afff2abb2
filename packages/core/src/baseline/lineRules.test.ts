import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { baseline, invoice } from '../../test/baseline.ts'
import { composeJournal } from '../bookings/compose.ts'
import { determine } from '../determination/determine.ts'
import type { LineRule } from './baseline.ts'
import { decided, decideLine, NO_CONDITIONS, NO_OUTCOMES, type LineFacts } from './lineRules.ts'
import { indexBaseline } from './lookup.ts'

const SINCE = { from: '2026-01-01', to: null }
const ruleOf = (
  id: string,
  when: Partial<LineRule['when']>,
  then: Partial<LineRule['then']>,
  valid = SINCE as LineRule['valid'],
): LineRule => ({
  id,
  name: id,
  when: { ...NO_CONDITIONS, ...when },
  then: { ...NO_OUTCOMES, ...then },
  valid,
})
const FACTS: LineFacts = {
  item: null,
  isInCatalogue: false,
  text: 'Gift  Wrapping – large',
  country: 'XA',
  region: 'XA-NO',
  party: 'farm',
  methods: ['CARD', 'GIFT'],
  channel: 'Own shop',
  system: 'till',
  stated: 'not-taxable',
  saleKind: 'warranty',
}
const dimensionOf = (id: string): string => id.split(':')[0] ?? id
const decide = (...rules: LineRule[]): ReturnType<typeof decideLine> =>
  decideLine(rules, FACTS, '2026-09-17', dimensionOf)

describe('a rule over a line', () => {
  test.each<[string, Partial<LineRule['when']>, boolean]>([
    ['its text, whatever its case, spaces and dashes', { text: 'GIFT wrapping -  large' }, true],
    ['a part of its text', { text: 'WRAP' }, true],
    ['another text', { text: 'deposit' }, false],
    ['its region', { region: 'XA-NO' }, true],
    ['its country', { region: 'XA' }, true],
    ['another region', { region: 'XA-SO' }, false],
    ['its party', { party: 'farm' }, true],
    ['another party', { party: 'shop' }, false],
    ['one of its methods', { method: 'GIFT' }, true],
    ['another method', { method: 'CASH' }, false],
    ['its channel', { channel: 'Own shop' }, true],
    ['another channel', { channel: 'Commonfair' }, false],
    ['its system', { system: 'till' }, true],
    ['another system', { system: 'shop' }, false],
    ['the flag of its source', { stated: 'not-taxable' }, true],
    ['the other flag', { stated: 'taxable' }, false],
    ['what it is sold for', { saleKind: 'warranty' }, true],
    ['what else may be sold', { saleKind: 'own-use' }, false],
    ['an item, where it has none', { item: 'H1' }, false],
    ['all of several', { text: 'wrap', party: 'farm', region: 'XA' }, true],
    ['all but one of several', { text: 'wrap', party: 'shop', region: 'XA' }, false],
  ])('looks at %s', (_, when, meets) => {
    expect(decide(ruleOf('a', when, { account: '4090' })).account).toBe(meets ? '4090' : null)
  })

  it('decides each outcome once, the first that says something', () => {
    expect(
      decide(
        ruleOf('a', { text: 'wrap' }, { account: '4090' }),
        ruleOf('b', { party: 'farm' }, { account: '4095', itemTaxCode: 'FOOD' }),
        ruleOf('c', { region: 'XA' }, { itemTaxCode: 'GOODS' }),
      ),
    ).toEqual({
      ...{ item: null, account: '4090', itemTaxCode: 'FOOD', dimensions: [], rules: ['a', 'b'] },
      ...{ bySource: false, kindAgreed: false },
    })
  })
  it('says what a line counts as that is no item, and later rules find it to be that', () => {
    const rules = [
      ruleOf('early', { item: 'H1' }, { account: '4000' }),
      ruleOf('a', { text: 'wrap' }, { item: 'H1' }),
      ruleOf('b', { text: 'large' }, { item: 'H2' }),
      ruleOf('late', { item: 'H1' }, { dimension: 'Dept:Y' }),
    ]
    expect(decide(...rules)).toMatchObject({
      ...{ item: 'H1', account: null, dimensions: ['Dept:Y'], rules: ['a', 'late'] },
    })
    const known = { ...FACTS, item: 'H3', isInCatalogue: true }
    expect(decideLine(rules, known, '2026-09-17', dimensionOf)).toMatchObject({ item: null, rules: [] })
  })
  test.each<[string, LineRule[], boolean]>([
    ['a code by the flag', [ruleOf('a', { stated: 'not-taxable' }, { itemTaxCode: 'FREE' })], true],
    ['an item by the flag', [ruleOf('a', { stated: 'not-taxable' }, { item: 'H1' })], true],
    ['an account alone by the flag', [ruleOf('a', { stated: 'not-taxable' }, { account: '4090' })], false],
    [
      'a code by its text, before the flag is looked at',
      [
        ruleOf('a', { text: 'wrap' }, { itemTaxCode: 'GOODS' }),
        ruleOf('b', { stated: 'not-taxable' }, { itemTaxCode: 'FREE' }),
      ],
      false,
    ],
    [
      'nothing, as the flag is the other one',
      [ruleOf('a', { stated: 'taxable' }, { itemTaxCode: 'FREE' })],
      false,
    ],
  ])('knows whether its source decides: %s', (_, rules, bySource) => {
    expect(decide(...rules).bySource).toBe(bySource)
  })
  it('gives one value of each dimension', () => {
    expect(
      decide(
        ruleOf('a', { region: 'XA' }, { dimension: 'Dept:Y' }),
        ruleOf('b', { region: 'XA' }, { dimension: 'Dept:Z' }),
        ruleOf('c', { region: 'XA' }, { dimension: 'Fund:1' }),
      ),
    ).toMatchObject({ dimensions: ['Dept:Y', 'Fund:1'], rules: ['a', 'c'] })
  })
  it('holds on its dates alone', () => {
    expect(
      decide(
        ruleOf('a', { region: 'XA' }, { account: '1' }, { from: '2026-01-01', to: '2026-09-16' }),
        ruleOf('b', { region: 'XA' }, { account: '2' }, { from: '2026-09-17', to: null }),
      ).rules,
    ).toEqual(['b'])
  })
  it('changes nothing by a rule put behind one that decides all it does, whatever they ask for', () => {
    const some = <T>(of: readonly T[]): fc.Arbitrary<T | null> => fc.constantFrom(null, ...of)
    const when = fc.record({
      item: some(['H1']),
      text: some(['wrap', 'x']),
      region: some(['XA', 'XA-SO']),
      party: some(['farm', 'shop']),
      method: some(['CARD', 'CASH']),
      channel: some(['Own shop', 'Other']),
    })
    const then = fc.record({
      itemTaxCode: some(['GOODS', 'FOOD']),
      account: some(['1', '2']),
      dimension: some(['D:1', 'D:2', 'E:1']),
    })
    fc.assert(
      fc.property(fc.array(fc.record({ when, then }), { maxLength: 8 }), (drawn) => {
        const rules = drawn.map((one, at) => ruleOf(String(at), one.when, one.then))
        const decision = decideLine(rules, FACTS, '2026-09-17', dimensionOf)
        expect(decideLine([...rules, ...rules], FACTS, '2026-09-17', dimensionOf)).toEqual(decision)
        expect(
          decideLine(
            rules.filter((rule) => decision.rules.includes(rule.id)),
            FACTS,
            '2026-09-17',
            dimensionOf,
          ),
        ).toEqual(decision)
        expect(new Set(decision.dimensions.map(dimensionOf)).size).toBe(decision.dimensions.length)
      }),
    )
  })
})

describe('a document under rules', () => {
  const under = (...lineRules: LineRule[]) =>
    indexBaseline({
      ...baseline,
      lineRules,
      dimensions: [{ id: 'Dept:Y', dimension: 'Dept', code: 'Y', name: 'Yard' }],
    })
  const typed = {
    ...invoice([
      [10000n, 'GOODS'],
      [500n, null],
    ]),
  }
  const document = {
    ...typed,
    lines: typed.lines.map((line, at) => (at === 1 ? { ...line, text: 'Gift wrapping' } : line)),
  }

  it('is taxed by the code that a rule gives a line without one, and booked where the rule says', () => {
    expect(determine(document, under()).complete).toBe(false)
    const index = under(
      ruleOf(
        'wrap',
        { text: 'gift wrapping' },
        { itemTaxCode: 'GOODS', account: '4090', dimension: 'Dept:Y' },
      ),
    )
    const ruled = decided(document, index)
    const determination = determine(ruled, index)
    expect([determination.complete, new Set(determination.rows.map((row) => row.lineId)).size]).toEqual([
      true,
      2,
    ])
    const { journal } = composeJournal(ruled, [], determination, index)
    expect(
      journal?.lines
        .filter((line) => line.role === 'revenue')
        .map((line) => [line.account, line.credit, line.dimensions]),
    ).toEqual([
      ['4000', 10000n, undefined],
      ['4090', 500n, ['Dept:Y']],
    ])
  })
  it('stays the very same where no rule is there, and keeps its lines that none decides', () => {
    expect(decided(document, under())).toBe(document)
    const index = under(ruleOf('other', { text: 'deposit' }, { account: '2600' }))
    expect(decided(document, index).lines).toEqual(document.lines)
  })
})
