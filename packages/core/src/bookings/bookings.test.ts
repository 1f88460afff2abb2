import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { baseline, invoice } from '../../test/baseline.ts'
import { simple } from '../../test/rating.ts'
import type { PostingRule } from '../baseline/postingRule.ts'
import { indexBaseline } from '../baseline/lookup.ts'
import type { TaxDocument } from '../determination/document.ts'
import { determine } from '../determination/determine.ts'
import { parseDecimal, ratio } from '../money/decimal.ts'
import { sum } from '../money/currency.ts'
import { composeJournal, type ChargedTax } from './compose.ts'
import { convertLines, taxesInBase } from './inBase.ts'
import { requireBalance, type Journal } from './journal.ts'

const index = indexBaseline(baseline)
const document = {
  ...invoice([
    [10000n, 'GOODS'],
    [500n, 'FOOD'],
  ]),
}
const shipped = {
  ...document,
  lines: [
    ...document.lines,
    { id: '3', kind: 'shipping' as const, itemTaxCode: 'FOOD', quantity: ratio(1n), amount: 700n },
  ],
}
const charged = (changes: Partial<ChargedTax> = {}): ChargedTax[] => [
  {
    rateName: 'Hollow',
    combinedRateId: 'hollow-rail',
    tax: 745n,
    components: [
      ['state', 550n],
      ['county', 145n],
      ['transit', 50n],
    ].map(([agencyId, tax]) => ({
      agencyId: agencyId as string,
      agencyName: agencyId as string,
      tax: tax as bigint,
    })),
    ...changes,
  },
]
const accounts = (journal: Journal | null): unknown =>
  journal?.lines.map((l) => [l.account, l.debit, l.credit])

describe('an invoice (K7)', () => {
  it('books receivable against revenue, shipping and each agency', () => {
    const { journal, warnings } = composeJournal(shipped, charged(), determine(shipped, index), index)
    expect(warnings).toEqual([])
    expect(accounts(journal)).toEqual([
      ['1100', 11945n, 0n],
      ['4000', 0n, 10000n],
      ['4000', 0n, 500n],
      ['4100', 0n, 700n],
      ['2210', 0n, 550n],
      ['2212', 0n, 145n],
      ['2216', 0n, 50n],
    ])
  })

  test.each<[string, PostingRule['only'], Partial<TaxDocument>, string]>([
    ['its party', { by: 'party', id: 'farm' }, {}, '4900'],
    ['another party', { by: 'party', id: 'shop' }, {}, '4000'],
    ['the item of its first line', { by: 'item', id: 'HIVE' }, {}, '4900'],
    ['the item tax code of its first line', { by: 'item-tax-code', id: 'GOODS' }, {}, '4900'],
    ['its channel', { by: 'channel', id: 'web' }, { channel: 'web' }, '4900'],
    ['a channel that it has not', { by: 'channel', id: 'web' }, {}, '4000'],
  ])('goes by the narrowest posting rule: one for %s', (_, only, changes, account) => {
    const rule: PostingRule = {
      id: 'n',
      kind: 'revenue',
      agencyId: null,
      only,
      account: '4900',
      valid: { from: '2020-01-01', to: null },
    }
    const narrowed = indexBaseline({
      ...baseline,
      parties: [],
      postingRules: [...baseline.postingRules, rule],
    })
    const sale = {
      ...document,
      partyId: 'farm',
      lines: document.lines.map((line, at) => ({ ...line, itemId: at === 0 ? 'HIVE' : 'JAM' })),
      ...changes,
    }
    expect(
      composeJournal(sale, charged(), determine(sale, narrowed), narrowed).journal?.lines.find(
        (l) => l.role === 'revenue',
      )?.account,
    ).toBe(account)
  })

  it('lets a rule for a party win over one for an item, and that over one for its code', () => {
    const rules = (['item-tax-code', 'item', 'party'] as const).map((by): PostingRule => ({
      id: by,
      kind: 'revenue',
      agencyId: null,
      only: { by, id: { 'item-tax-code': 'GOODS', item: 'HIVE', party: 'farm' }[by] },
      account: by,
      valid: { from: '2020-01-01', to: null },
    }))
    const won = rules.map(
      (_, many) =>
        indexBaseline({ ...baseline, postingRules: rules.slice(0, many + 1) }).postingRuleFor(
          'revenue',
          { party: 'farm', item: 'HIVE', 'item-tax-code': 'GOODS' },
          '2026-09-17',
        )?.account,
    )
    expect(won).toEqual(['item-tax-code', 'item', 'party'])
  })

  it('spreads a split that the source does not state over the expected components', () => {
    const { journal, warnings } = composeJournal(
      document,
      charged({ combinedRateId: null, components: null, tax: 746n }),
      determine(document, index),
      index,
    )
    expect(journal?.lines.filter((l) => l.role === 'tax').map((l) => l.credit)).toEqual([551n, 145n, 50n])
    expect(warnings.map((w) => w.code)).toEqual([
      'AXION_RATE_NOT_LINKED',
      'AXION_SPLIT_NOT_STATED',
      'AXION_STATED_NOT_EXPECTED',
    ])
  })

  test.each([
    [
      'an agency that is not linked',
      charged({ components: [{ agencyId: null, agencyName: 'Somebody', tax: 745n }] }),
      index,
      'AXION_AGENCY_NOT_LINKED',
    ],
    [
      'an agency without a posting rule',
      charged(),
      indexBaseline({ ...baseline, postingRules: baseline.postingRules.slice(0, 4) }),
      'AXION_NO_POSTING_RULE',
    ],
  ])('is blocked by %s', (_, taxes, at, code) => {
    const composed = composeJournal(document, taxes, determine(document, at), at)
    expect([composed.journal, composed.blocked[0]?.code]).toEqual([null, code])
  })

  it('balances whatever is charged, in its own currency and in another', () => {
    const amount = fc.bigInt({ min: 1n, max: 10n ** 10n })
    fc.assert(
      fc.property(
        amount,
        amount,
        fc.bigInt({ min: 0n, max: 10n ** 6n }),
        fc.integer({ min: 1, max: 10 ** 6 }),
        (goods, food, tax, rate) => {
          const sale = invoice([
            [goods, 'GOODS'],
            [food, 'FOOD'],
          ])
          const { journal } = composeJournal(
            sale,
            charged({ components: null, tax }),
            determine(sale, index),
            index,
          )
          expect(journal === null).toBe(
            tax > 0n && determine(sale, index).rows.every((row) => row.tax === 0n),
          )
          const lines = (journal?.lines ?? []).map((line) => ({
            credit: line.credit - line.debit,
            isTax: line.role === 'tax',
          }))
          expect(sum(lines.map(({ credit }) => credit))).toBe(0n)
          expect(sum(convertLines(lines, { rate: parseDecimal(`0.${rate}`) }))).toBe(0n)
        },
      ),
    )
  })

  test.each<[string, [bigint, boolean][], string, bigint[]]>([
    [
      'a discount in an account of its own',
      [
        [-8520n, false],
        [-1000n, false],
        [9000n, false],
        [400n, true],
        [120n, true],
      ],
      '1.0837',
      [-9233n, -1084n, 9754n, 433n, 130n],
    ],
    [
      'nothing but tax on a side',
      [
        [-520n, false],
        [400n, true],
        [120n, true],
      ],
      '1.0837',
      [-564n, 434n, 130n],
    ],
    [
      'a credit, the mirror',
      [
        [9520n, false],
        [-9000n, false],
        [-400n, true],
        [-120n, true],
      ],
      '1.0837',
      [10317n, -9754n, -433n, -130n],
    ],
    [
      'nil',
      [
        [0n, false],
        [0n, true],
      ],
      '1.0837',
      [0n, 0n],
    ],
  ])(
    'converts each tax line by itself and the rest of the total over the others: %s',
    (_, lines, rate, converted) => {
      expect(
        convertLines(
          lines.map(([credit, isTax]) => ({ credit, isTax })),
          { rate: parseDecimal(rate) },
        ),
      ).toEqual(converted)
    },
  )

  it('gives what an agency is owed of sales and returns together to its first row', () => {
    const document = invoice(
      [
        [10000n, 'GOODS'],
        [-3000n, 'GOODS'],
      ],
      { currency: 'EUR', exchange: { currency: 'USD', rate: parseDecimal('1.0837') } },
    )
    const on = indexBaseline(simple('8'))
    const determination = determine(document, on)
    expect(determination.rows.map((row) => row.tax)).toEqual([800n, -240n])
    // 5.60 at 1.0837 is 6.07, whole; of one sign, it would be shared out.
    expect(taxesInBase(document, determination, on)).toEqual([607n, 0n])
  })

  it('refuses a journal that does not balance', () => {
    const line = { role: 'revenue' as const, account: '1', agencyId: null, lineId: null, components: [] }
    expect(() => requireBalance({ currency: 'USD', lines: [{ ...line, debit: 1n, credit: 0n }] })).toThrow(
      'AXION_JOURNAL_OUT_OF_BALANCE',
    )
  })
})
