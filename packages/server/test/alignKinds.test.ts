import { NEW_ROW, type Account, type AlignKind, type Item, type TaxRate } from '@axion/contract'
import { parsePercent, type Baseline } from '@axion/core'
import { describe, expect, it, test } from 'vitest'
import { baseline, rule } from '../../core/test/baseline.ts'
import { build, codesOf, exempt, part, STATE, NO_CLAIMS, type Holds } from './aligning.ts'

describe('what is new', () => {
  const agreed = { defaults: { itemTaxCode: 'GOODS', partiesTaxable: true, newItems: 'left-open' as const } }
  test.each<[string, AlignKind, Holds, Partial<Baseline>, [string, string[]] | null]>([
    ['items under the agreed code', 'items', { items: [{}] }, agreed, ['agrees GOODS', []]],
    [
      'items under another code',
      'items',
      { defaultCode: 'FOOD' },
      agreed,
      ['differs FOOD, not GOODS', ['DEFAULT_CODE']],
    ],
    [
      'items under a code that is linked to the agreed one',
      'items',
      { defaultCode: 'STD', items: [{ itemTaxCode: 'STD' }], links: [['item-tax-code', 'STD', 'GOODS']] },
      agreed,
      ['agrees GOODS', []],
    ],
    ['items in a system that does not say', 'items', { defaultCode: null }, agreed, ['none ', []]],
    ['items where nothing is agreed', 'items', { defaultCode: 'FOOD' }, {}, null],
    ['customers as agreed', 'parties', { newTaxable: true }, agreed, ['agrees taxable', []]],
    [
      'customers otherwise',
      'parties',
      { newTaxable: false },
      agreed,
      ['differs exempt, not taxable', ['DEFAULT_PARTY']],
    ],
    ['customers in a system that does not say', 'parties', {}, agreed, ['none ', []]],
  ])('%s', (_, kind, holds, changes, expected) => {
    const row = build(kind, [holds], changes).find((one) => one.id === NEW_ROW)
    expect(
      row ? [row.cells.map((cell) => `${cell.state} ${cell.words}`).join(), codesOf([row])] : null,
    ).toEqual(expected)
  })
})

describe('items', () => {
  test.each<[string, readonly Partial<Item>[], string[], Partial<Holds>?]>([
    ['under its code', [{}], []],
    ['under another code', [{ itemTaxCode: 'FOOD' }], ['ITEM_TAX_CODE']],
    [
      'under a code that is linked to its own',
      [{ itemTaxCode: 'STD' }],
      [],
      { links: [['item-tax-code', 'STD', 'GOODS']] },
    ],
    ['on the default, which is right', [{ itemTaxCode: null }], []],
    ['on the default, which is wrong', [{ itemTaxCode: null }], ['ITEM_ON_DEFAULT'], { defaultCode: 'FOOD' }],
    ['without any code', [{ itemTaxCode: null }], ['ITEM_ON_DEFAULT'], { defaultCode: null }],
    ['flagged against its code', [{ taxable: false }], ['ITEM_FLAG']],
    ['with a trailing space in its name', [{ name: 'Hive ' }], ['ALIGN_NAME']],
    ['with a look-alike dash and another case in its code', [{ code: 'h1' }], ['ALIGN_NOT_LINKED']],
    ['unknown to the baseline', [{ code: 'X9', name: 'Something else' }], ['ALIGN_EXTRA extra']],
    ['twice, by code and by name', [{}, { code: 'X9' }], ['ALIGN_TWICE extra']],
    [
      'linked to what is not there any more',
      [{ code: 'X9', name: 'Something else' }],
      ['ALIGN_STALE_LINK extra'],
      { links: [['item', 'i0', 'GONE']] },
    ],
  ])('%s', (_, items, expected, more = {}) =>
    expect(codesOf(build('items', [{ items, ...more }]))).toEqual(expected),
  )

  it('says what a code is held by, and which items stand on the default', () => {
    const rows = build('codes', [
      { items: [{}, { code: 'H2', itemTaxCode: null }, { code: 'H3', itemTaxCode: 'F00D' }] },
    ])
    expect(rows.map((r) => [r.id, r.cells[0]?.state, r.cells[0]?.words])).toEqual([
      ['GOODS', 'agrees', '1 item, 1 by default'],
      ['FOOD', 'none', ''],
      ['billing F00D', 'differs', '1 item'],
    ])
  })
})

describe('parties', () => {
  test.each<[string, Holds['parties'], string[], Partial<Baseline>]>([
    [
      'exempt in both',
      [['shop', { exemption: exempt('resale') }]],
      [],
      { parties: baseline.parties.filter((p) => p.id === 'shop') },
    ],
    [
      'taxed in a system in spite of a certificate',
      [['shop', {}]],
      ['PARTY_CLAIMS'],
      { parties: baseline.parties.filter((p) => p.id === 'shop') },
    ],
    ['exempt in a system only', [['shop', { exemption: exempt('resale') }]], ['PARTY_CLAIMS'], NO_CLAIMS],
    ['ordinary and unknown', [['new', { name: 'Somebody new' }]], [], NO_CLAIMS],
    [
      'exempt and unknown',
      [['new', { name: 'Somebody new', exemption: exempt('resale') }]],
      ['ALIGN_EXTRA extra'],
      NO_CLAIMS,
    ],
    [
      'a catch-all that is exempt',
      [['anybody', { name: 'Walk-in', exemption: exempt('resale') }]],
      ['CATCH_ALL'],
      NO_CLAIMS,
    ],
    [
      'twice under one name',
      [
        ['shop', { exemption: exempt('resale') }],
        ['shop2', { name: 'a  Shop' }],
      ],
      ['PARTY_TWICE'],
      { parties: baseline.parties.filter((p) => p.id === 'shop') },
    ],
    [
      'claiming without, with an expired, and with a certificate that ends soon',
      [['none', { name: 'Nobody at all' }]],
      ['CERTIFICATE_EXPIRED', 'CERTIFICATE_EXPIRING', 'CERTIFICATE_MISSING'],
      {
        parties: [
          ...baseline.parties.filter((p) => ['farm', 'shop'].includes(p.id)),
          { id: 'mill', name: 'A mill', claims: 'resale', catchAll: false, address: null },
        ],
        certificates: baseline.certificates.map((c) =>
          c.id === 'c2' ? { ...c, valid: { from: '2026-01-01', to: '2026-11-15' } } : c,
        ),
      },
    ],
  ])('%s', (_, parties, expected, changes) =>
    expect(codesOf(build('parties', [{ parties: parties ?? [] }], changes))).toEqual(expected),
  )
})

describe('accounts', () => {
  const right = baseline.postingRules.map((r): readonly [string, Account['type']] => [
    r.account,
    r.kind === 'receivable' ? 'receivable' : r.kind === 'tax' ? 'current-liability' : 'income',
  ])
  const owedOn = (account: string): Partial<Baseline> => ({
    postingRules: [
      ...baseline.postingRules,
      {
        id: 'owed',
        kind: 'revenue',
        agencyId: null,
        only: { by: 'item-tax-code', id: 'FOOD' },
        account,
        valid: { from: '2020-01-01', to: null },
      },
    ],
  })
  test.each<[string, Holds['accounts'], string[], Partial<Baseline>?]>([
    ['all there and of the right type', right, []],
    ['one not in the ledger', right.filter(([number]) => number !== '2212'), ['ACCOUNT_ABSENT']],
    [
      'tax in income',
      right.map(([number, type]) => (number === '2212' ? [number, 'income'] : [number, type])),
      ['ACCOUNT_TYPE'],
    ],
    [
      'two agencies in one',
      right,
      ['ACCOUNT_SHARED'],
      {
        postingRules: baseline.postingRules.map((r) =>
          r.agencyId === 'city' ? { ...r, account: '2212' } : r,
        ),
      },
    ],
    [
      'an agency, and revenue, without a rule',
      right,
      ['NO_RULE', 'NO_RULE'],
      { postingRules: baseline.postingRules.filter((r) => r.agencyId !== 'city' && r.kind !== 'revenue') },
    ],
    ['what is owed on for one code, in a liability', [...right, ['2400', 'liability']], [], owedOn('2400')],
    ['the same in an account of tax', right, ['ACCOUNT_TYPE'], owedOn('2212')],
    [
      'revenue of everything in a liability',
      right.map(([number, type]) => (number === '4000' ? [number, 'liability'] : [number, type])),
      ['ACCOUNT_TYPE'],
    ],
  ])('%s', (_, accounts, expected, changes) =>
    expect(codesOf(build('accounts', [{ role: 'ledger', accounts: accounts ?? [] }, {}], changes))).toEqual(
      expected,
    ),
  )

  it('are wanted for stock where somebody keeps it', () => {
    expect(
      build('accounts', [{ role: 'ledger', accounts: right }, { stock: true }])
        .filter((row) => row.findings.length > 0)
        .map((row) => [row.id, row.findings.map((f) => f.code)]),
    ).toEqual([
      ['cost-of-sales', ['AXION_NO_RULE']],
      ['inventory', ['AXION_NO_RULE']],
    ])
  })
})

describe('agencies and rates', () => {
  const rates = (theirs: Partial<TaxRate>, changes: Partial<Baseline> = {}): string[] =>
    codesOf(
      build('rates', [{ ...STATE, rates: [theirs] }], {
        combinedRates: baseline.combinedRates.slice(1),
        ...changes,
      }),
    )
  const coming = {
    rateVersions: [
      ...baseline.rateVersions.filter((v) => v.jurisdictionId !== 'north'),
      {
        id: 'n1',
        jurisdictionId: 'north',
        percent: parsePercent('5.5'),
        onTopOf: [],
        valid: { from: '2020-01-01', to: '2026-12-31' },
      },
      {
        id: 'n2',
        jurisdictionId: 'north',
        percent: parsePercent('5.75'),
        onTopOf: [],
        valid: { from: '2027-01-01', to: null },
      },
    ],
  }
  test.each<[string, string[], string[]]>([
    ['agreeing', rates({ components: [part('5.5')] }), []],
    ['at another percent', rates({ components: [part('5.6')] }), ['RATE_PERCENT']],
    ['split otherwise', rates({ components: [part('5.0'), part('0.5')] }), ['RATE_SPLIT']],
    ['in one step', rates({ components: null }), ['RATE_FLAT']],
    ['computed otherwise', rates({ components: [part('5.5', { perUnit: '0.10' })] }), ['RATE_LEVY']],
    ['switched off', rates({ components: [part('5.5')], active: false }), ['RATE_OFF']],
    ['not ready for a change', rates({ components: [part('5.5')] }, coming), ['RATE_COMING']],
    [
      'ready for it',
      rates(
        { components: [part('5.5', { to: '2026-12-31' }), part('5.75', { from: '2027-01-01' })] },
        coming,
      ),
      [],
    ],
    [
      'under nearly the same name',
      rates({ name: 'Rest of stale', components: [part('5.5')] }),
      ['ALIGN_NAME'],
    ],
    [
      'linked, and gone from the system',
      codesOf(
        build(
          'rates',
          [
            {
              ...STATE,
              rates: [{ components: [part('5.5')] }],
              links: [...(STATE.links ?? []), ['combined-rate', 'gone', 'state-only']],
            },
          ],
          { combinedRates: baseline.combinedRates.slice(1) },
        ),
      ),
      ['ALIGN_STALE_LINK'],
    ],
    [
      'linked to something that is gone, and nothing else there',
      codesOf(
        build(
          'rates',
          [
            {
              ...STATE,
              rates: [{ name: 'Another', components: [part('9', { agencyId: 'unknown' })] }],
              links: [
                ['agency', 's', 'state'],
                ['combined-rate', 'gone', 'state-only'],
              ],
            },
          ],
          { combinedRates: baseline.combinedRates.slice(1) },
        ),
      ),
      ['ALIGN_STALE_LINK', 'ALIGN_EXTRA extra'],
    ],
    [
      'held by nobody, where the entity is registered',
      codesOf(build('agencies', [{ ...STATE }])),
      ['ALIGN_ABSENT', 'ALIGN_ABSENT', 'ALIGN_ABSENT'],
    ],
    [
      'two that could be one',
      codesOf(
        build('agencies', [{ agencies: [['x', 'twin']] }], {
          agencies: [
            { id: 't1', code: 'T1', name: 'Twin' },
            { id: 't2', code: 'T2', name: 'TWIN' },
          ],
          registrations: [],
        }),
      ),
      ['ALIGN_UNDECIDED extra'],
    ],
  ])('%s', (_, found, expected) => expect(found).toEqual(expected))

  it('puts every finding of a row under the key that its tax at stake is kept by', () => {
    const [row] = build('rates', [{ ...STATE, rates: [{ components: [part('5.6')] }] }], {
      combinedRates: baseline.combinedRates.slice(1),
      codeRules: [rule('r', 'north', 'GOODS', 'standard')],
    })
    expect(row?.findings.map((f) => [f.key, f.severity])).toEqual([['billing|combined-rate|r0', 'costs']])
  })
})
