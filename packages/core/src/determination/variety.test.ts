import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { baseline, invoice, rule } from '../../test/baseline.ts'
import { codesOf, limit, regionRule, rowsOf, simple, taxOf } from '../../test/rating.ts'
import type { Baseline, LineRule, RegionRule } from '../baseline/baseline.ts'
import { decided, NO_CONDITIONS, NO_OUTCOMES } from '../baseline/lineRules.ts'
import { indexBaseline } from '../baseline/lookup.ts'
import { parseDecimal, parsePercent, ratio } from '../money/decimal.ts'
import { determine } from './determine.ts'
import { recoverableTax } from './recoverable.ts'
import type { DocumentLine, TaxDocument } from './document.ts'

describe('rules of item tax codes (K3, step 3)', () => {
  test.each<[string, Partial<Baseline>, bigint, string, bigint, string]>([
    ['below a threshold', limit(12000n, 'whole', null), 11999n, '1', 0n, 'below-threshold'],
    ['from it, the whole price', limit(12000n, 'whole', null), 12000n, '1', 12000n, 'standard'],
    ['from it, only the excess', limit(12000n, 'excess', null), 15000n, '1', 3000n, 'standard'],
    ['per article', limit(12000n, 'whole', null), 23998n, '2', 0n, 'below-threshold'],
    ['a broken quantity, exactly', limit(12000n, 'whole', null), 17999n, '1.5', 0n, 'below-threshold'],
    ['a cap', limit(null, 'whole', 500000n), 620000n, '1', 500000n, 'standard'],
    ['a cap per article', limit(null, 'whole', 500000n), 1240000n, '2', 1000000n, 'standard'],
    ['the slice between both', limit(12000n, 'excess', 500000n), 620000n, '1', 488000n, 'standard'],
    [
      'a whole-price threshold with a cap',
      limit(12000n, 'whole', 500000n),
      620000n,
      '1',
      500000n,
      'standard',
    ],
    ['a returned article, the mirror', limit(12000n, 'excess', null), -15000n, '1', -3000n, 'standard'],
  ])('%s', (_, changes, net, quantity, base, reason) => {
    const document = invoice([[net, 'GOODS']])
    const line = { ...(document.lines[0] as DocumentLine), quantity: parseDecimal(quantity) }
    expect(
      rowsOf({ ...document, lines: [line] }, simple('7.25', changes)).map(([, , n, b, , r]) => [n, b, r]),
    ).toEqual([[net, base, reason]])
  })

  it('takes a reduced percent, zero, out of scope, and a tax per unit of quantity', () => {
    const on = simple('20', {
      codeRules: [
        rule('a', 'north', 'RED', 'reduced', { percent: parsePercent('5') }),
        rule('b', 'north', 'ZERO', 'zero-rated'),
        rule('c', 'north', 'OUT', 'out-of-scope'),
        rule('d', 'north', 'FUEL', 'per-unit', { perUnit: ratio(525n, 100n), currency: 'USD' }),
      ],
    })
    const document = invoice([
      [10000n, 'RED'],
      [700n, 'ZERO'],
      [100n, 'OUT'],
      [4000n, 'FUEL'],
    ])
    const lines = document.lines.map((line) =>
      line.itemTaxCode === 'FUEL' ? { ...line, quantity: ratio(33n) } : line,
    )
    expect(rowsOf({ ...document, lines }, on)).toEqual([
      ['1', 'north', 10000n, 10000n, 500n, 'reduced'],
      ['2', 'north', 700n, 0n, 0n, 'zero-rated'],
      ['3', 'north', 100n, 0n, 0n, 'out-of-scope'],
      ['4', 'north', 4000n, 4000n, 173n, 'per-unit'],
    ])
    // What comes back takes its tax per unit with it, whichever sign its source gives the quantity.
    for (const quantity of [33n, -33n])
      expect(
        rowsOf(
          {
            ...document,
            lines: lines.slice(3).map((line) => ({ ...line, amount: -4000n, quantity: ratio(quantity) })),
          },
          on,
        ),
      ).toEqual([['4', 'north', -4000n, -4000n, -173n, 'per-unit']])
  })

  it('does not hand a reduced percent down to the places within', () => {
    const on = {
      ...baseline,
      codeRules: [rule('a', 'north', 'RED', 'reduced', { percent: parsePercent('2') })],
    }
    expect(codesOf(invoice([[1000n, 'RED']]), on)).toEqual(['AXION_NO_CODE_RULE', 'AXION_NO_CODE_RULE'])
  })

  it('asks for limits in the document’s currency', () => {
    expect(
      codesOf(invoice([[1000n, 'GOODS']], { currency: 'EUR' }), simple('5', limit(1n, 'whole', null))),
    ).toEqual(['AXION_LIMIT_IN_OTHER_CURRENCY'])
  })
})

describe('place, dates and discounts (K3, steps 1 and 2)', () => {
  const port = { country: 'XA', region: 'XA-NO', city: 'Port', postalCode: '20000' }
  const away = { country: 'XA', region: 'XA-SO', city: null, postalCode: null }
  test.each<[string, Partial<TaxDocument>, string[]]>([
    [
      'within the region, by the origin where the level says so',
      { shipFrom: port },
      ['north', 'port', 'rail'],
    ],
    ['without a ship-from, by the destination', {}, ['north', 'hollow', 'rail']],
    ['from outside the region, by the destination', { shipFrom: away }, ['north', 'hollow', 'rail']],
    [
      'over the counter, by the outlet, wherever it was sent from',
      { shipFrom: port, shipTo: away, outlet: invoice([]).shipTo },
      ['north', 'hollow', 'rail'],
    ],
  ])('%s', (_, changes, ids) => {
    const on = { ...baseline, ...regionRule({ originLevels: ['county', 'city'] }) }
    expect(rowsOf(invoice([[1000n, 'GOODS']], changes), on).map(([, id]) => id)).toEqual(ids)
  })

  it('goes by the region’s rule of the day of supply', () => {
    const rule = baseline.regionRules[0] as RegionRule
    const on = {
      ...baseline,
      regionRules: [
        { ...rule, valid: { from: '2020-01-01', to: '2026-08-31' } },
        { ...rule, id: 'later', originLevels: ['city'] as const, valid: { from: '2026-09-01', to: null } },
      ],
    }
    const places = (supplyDate: string) =>
      rowsOf(invoice([[1000n, 'GOODS']], { shipFrom: port, supplyDate }), on).map(([, id]) => id)
    expect([places('2026-08-31'), places('2026-09-01')]).toEqual([
      ['north', 'hollow', 'rail'],
      ['north', 'hollow', 'port', 'rail'],
    ])
  })

  test.each<[RegionRule['taxedBy'], bigint[]]>([
    ['supply-date', [1250n, 1450n]],
    ['document-date', [1450n, 1450n]],
    ['payment-date', [1250n, 1250n]],
  ])('rates go by the %s', (taxedBy, county) => {
    const on = { ...baseline, ...regionRule({ taxedBy }) }
    const tax = (supplyDate: string) =>
      rowsOf(invoice([[100000n, 'GOODS']], { supplyDate, paymentDate: '2026-08-31' }), on)[1]?.[4]
    expect([tax('2026-08-31'), tax('2026-09-01')]).toEqual(county)
    expect(
      codesOf(invoice([[1n, 'GOODS']]), { ...baseline, ...regionRule({ taxedBy: 'payment-date' }) }),
    ).toEqual(['AXION_NO_PAYMENT_DATE'])
  })

  it('spreads a document discount over goods and services, over shipping only if there is nothing else', () => {
    const goods = invoice(
      [
        [6000n, 'GOODS'],
        [3000n, 'FOOD'],
        [1000n, 'SHIP'],
      ],
      { discount: 900n },
    )
    expect(determine(goods, indexBaseline(baseline)).lines).toEqual([
      { lineId: '1', net: 5400n, discount: 600n },
      { lineId: '2', net: 2700n, discount: 300n },
      { lineId: '3', net: 1000n, discount: 0n },
    ])
    expect(
      determine(invoice([[1000n, 'SHIP']], { discount: 100n }), indexBaseline(baseline)).lines[0]?.net,
    ).toBe(900n)
  })

  it('taxes the undiscounted price where the region does', () => {
    const document = invoice([[10000n, 'GOODS']], { discount: 1000n })
    expect([
      taxOf(document, simple('10')),
      taxOf(document, simple('10', regionRule({ taxedBeforeDiscount: true }))),
    ]).toEqual([900n, 1000n])
    expect(rowsOf(document, simple('10', regionRule({ taxedBeforeDiscount: true })))[0]?.slice(2, 4)).toEqual(
      [9000n, 10000n],
    )
  })
})

describe('kinds of sale (C6)', () => {
  const always = { from: '2020-01-01', to: null }
  const [when, then] = [NO_CONDITIONS, NO_OUTCOMES]
  const over = (id: string, changes: Partial<LineRule>): LineRule => ({
    ...{ id, name: id, when, then, valid: always },
    ...changes,
  })
  test.each<[string, Partial<TaxDocument>, LineRule[], string[]]>([
    ['an ordinary sale needs no rule', {}, [], []],
    [
      'another is open until a rule says what it stands under',
      { saleKind: 'own-use' },
      [],
      ['AXION_SALE_KIND_OPEN'],
    ],
    [
      'a rule for another kind says nothing of it',
      { saleKind: 'own-use' },
      [over('a', { when: { ...when, saleKind: 'warranty' }, then: { ...then, itemTaxCode: 'FOOD' } })],
      ['AXION_SALE_KIND_OPEN'],
    ],
    [
      'nor does one that only books it elsewhere',
      { saleKind: 'own-use' },
      [over('a', { when: { ...when, saleKind: 'own-use' }, then: { ...then, account: '6100' } })],
      ['AXION_SALE_KIND_OPEN'],
    ],
    [
      'one that gives it a code does',
      { saleKind: 'own-use' },
      [over('a', { when: { ...when, saleKind: 'own-use' }, then: { ...then, itemTaxCode: 'FOOD' } })],
      [],
    ],
    ['a purchase is the supplier’s sale', { saleKind: 'own-use', purchase: true }, [], []],
  ])('%s', (_, changes, lineRules, codes) => {
    const index = indexBaseline({ ...baseline, lineRules })
    const of = decided(invoice([[1000n, 'GOODS']], changes), index)
    const { findings, complete } = determine(of, index)
    expect([[...new Set(findings.map((f) => f.code))], complete]).toEqual([codes, codes.length === 0])
  })
  it('rates what takes it back as the sale was', () => {
    const index = indexBaseline(baseline)
    const original = invoice([[1000n, 'GOODS']], { saleKind: 'internal' })
    const credit = {
      ...invoice([[-1000n, 'GOODS']]),
      kind: 'credit-note' as const,
      original: { document: original, before: new Map() },
    }
    expect(determine(credit, index).findings.map((f) => f.code)).toContain('AXION_SALE_KIND_OPEN')
  })
})

describe('certificates (K3, step 4)', () => {
  test.each<[string, Partial<TaxDocument>, string, string[]]>([
    ['valid', { partyId: 'shop' }, 'certificate', []],
    ['expired', { partyId: 'farm' }, 'standard', ['AXION_EXEMPTION_WITHOUT_CERTIFICATE']],
    ['late, but covering the date', { partyId: 'farm', supplyDate: '2026-08-31' }, 'certificate', []],
    [
      'for another region',
      { partyId: 'shop', shipTo: { country: 'XA', region: 'XA-SO', city: null, postalCode: null } },
      'not-registered',
      ['AXION_EXEMPTION_WITHOUT_CERTIFICATE'],
    ],
    [
      'a reason that the region does not accept',
      { partyId: 'abbey' },
      'standard',
      ['AXION_REASON_NOT_ACCEPTED'],
    ],
    ['a catch-all customer', { partyId: 'anybody' }, 'standard', ['AXION_CATCH_ALL_CLAIMS']],
    ['nobody known', { partyId: 'new' }, 'standard', []],
  ])('%s', (_, changes, reason, codes) => {
    const document = invoice([[1000n, 'GOODS']], changes)
    const { rows, findings, complete } = determine(document, indexBaseline(baseline))
    expect([rows[0]?.reason, findings.map((f) => f.code), complete]).toEqual([reason, codes, true])
  })

  it('is not needed for a line that nothing taxes', () =>
    expect(codesOf(invoice([[1000n, 'FOOD']], { partyId: 'farm' }))).toEqual([]))
  it('is named by the row that it frees', () => {
    const [row] = determine(invoice([[1000n, 'GOODS']], { partyId: 'shop' }), indexBaseline(baseline)).rows
    expect([row?.source.certificate, row?.base, row?.net]).toEqual(['c2', 0n, 1000n])
  })
})

describe('shipping (K3, step 7)', () => {
  const on = simple('8', {
    codeRules: [
      rule('a', 'north', 'GOODS', 'standard'),
      rule('b', 'north', 'FOOD', 'exempt'),
      rule('c', 'north', 'SHIP', 'follows-goods'),
      rule('d', 'north', 'RED', 'reduced', { percent: parsePercent('2') }),
    ],
  })
  it('follows the goods: 340.00 of 500.00 taxable give 17.00 of 25.00', () => {
    expect(
      rowsOf(
        invoice([
          [34000n, 'GOODS'],
          [16000n, 'FOOD'],
          [2500n, 'SHIP'],
        ]),
        on,
      ).slice(2),
    ).toEqual([
      ['3', 'north', 1700n, 1700n, 136n, 'standard'],
      ['3', 'north', 800n, 0n, 0n, 'exempt'],
    ])
  })
  it('follows no service: that is not shipped', () => {
    const document = invoice([
      [34000n, 'GOODS'],
      [16000n, 'FOOD'],
      [2500n, 'SHIP'],
    ])
    const lines = document.lines.map((line) =>
      line.itemTaxCode === 'FOOD' ? { ...line, kind: 'service' as const } : line,
    )
    expect(rowsOf({ ...document, lines }, on).slice(2)).toEqual([
      ['3', 'north', 2500n, 2500n, 200n, 'standard'],
    ])
  })
  it('goes by each percent of the goods', () => {
    expect(
      rowsOf(
        invoice([
          [30000n, 'GOODS'],
          [10000n, 'RED'],
          [4000n, 'SHIP'],
        ]),
        on,
      ).slice(2),
    ).toEqual([
      ['3', 'north', 3000n, 3000n, 240n, 'standard'],
      ['3', 'north', 1000n, 1000n, 20n, 'reduced'],
    ])
  })
  test.each<[string, [bigint, string][]]>([
    ['without goods', [[2500n, 'SHIP']]],
    [
      'with returned goods alone',
      [
        [-1000n, 'GOODS'],
        [2500n, 'SHIP'],
      ],
    ],
  ])('is taxable %s, with a remark', (_, lines) => {
    const document = invoice(lines)
    expect([rowsOf(document, on).at(-1)?.slice(3), codesOf(document, on)]).toEqual([
      [2500n, 200n, 'standard'],
      ['AXION_SHIPPING_WITHOUT_GOODS'],
    ])
  })
})

describe('tax on tax (K3, step 8)', () => {
  const on = (unit: 'component' | 'combined', level: 'line' | 'document' = 'line'): Baseline => ({
    ...baseline,
    jurisdictions: baseline.jurisdictions.filter((j) => ['XA', 'north'].includes(j.id)),
    rateVersions: [
      {
        id: 'f',
        jurisdictionId: 'XA',
        percent: parsePercent('5'),
        onTopOf: [],
        valid: { from: '2020-01-01', to: null },
      },
      {
        id: 'r',
        jurisdictionId: 'north',
        percent: parsePercent('8'),
        onTopOf: ['XA'],
        valid: { from: '2020-01-01', to: null },
      },
    ],
    codeRules: [rule('x', 'XA', 'GOODS', 'standard')],
    roundings: baseline.roundings.map((r) => ({ ...r, place: { level, unit, tie: 'half-away' } })),
  })
  it('puts 8 % on 210.00: 10.00 and 16.80, on a base of 200.00', () => {
    expect(rowsOf(invoice([[20000n, 'GOODS']]), on('component')).map((r) => r.slice(3, 5))).toEqual([
      [20000n, 1000n],
      [20000n, 1680n],
    ])
  })
  it('goes by the earlier tax as rounded, unrounded in the combined unit', () => {
    const document = invoice([
      [130n, 'GOODS'],
      [130n, 'GOODS'],
      [130n, 'GOODS'],
    ])
    expect([
      taxOf(document, on('component')),
      taxOf(document, on('component', 'document')),
      taxOf(document, on('combined')),
    ]).toEqual([54n, 53n, 51n])
  })
})

describe('tax on purchases (K7)', () => {
  const on = indexBaseline(
    simple('20', {
      codeRules: [
        rule('a', 'north', 'ALL', 'standard', { recoverable: parsePercent('100') }),
        rule('b', 'north', 'HALF', 'standard', { recoverable: parsePercent('50') }),
        rule('c', 'north', 'NONE', 'standard'),
        rule('d', 'north', 'ZERO', 'zero-rated', { recoverable: parsePercent('100') }),
      ],
    }),
  )
  const backOf = (document: TaxDocument) =>
    recoverableTax(document, determine(document, on), on).map((one) => [
      one.agencyId,
      one.tax,
      one.recoverable,
    ])

  test.each<[string, [bigint, string][], [bigint, bigint] | null]>([
    [
      'wholly',
      [
        [1003n, 'ALL'],
        [998n, 'ALL'],
      ],
      [401n, 401n],
    ],
    [
      'by half, rounded once',
      [
        [1003n, 'HALF'],
        [1003n, 'HALF'],
      ],
      [402n, 201n],
    ],
    ['by half, half a cent counting as one', [[2015n, 'HALF']], [403n, 202n]],
    ['not at all', [[1000n, 'NONE']], [200n, 0n]],
    [
      'each by its own share',
      [
        [1000n, 'ALL'],
        [999n, 'HALF'],
        [500n, 'NONE'],
      ],
      [500n, 300n],
    ],
    ['nothing of nothing', [[1000n, 'ZERO']], null],
  ])('can be had back %s', (_, lines, back) => {
    expect(backOf(invoice(lines, { purchase: true }))).toEqual(back === null ? [] : [['state', ...back]])
    expect(backOf(invoice(lines))).toEqual([])
  })

  it('never comes to more than the tax, nor less than nothing', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.bigInt({ min: 1n, max: 10n ** 9n }), fc.constantFrom('ALL', 'HALF', 'NONE')), {
          minLength: 1,
          maxLength: 6,
        }),
        (lines) => {
          for (const [, tax, back] of backOf(invoice(lines, { purchase: true })))
            expect((back as bigint) >= 0n && (back as bigint) <= (tax as bigint)).toBe(true)
        },
      ),
    )
  })
})
