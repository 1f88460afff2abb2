import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { baseline, invoice } from '../../test/baseline.ts'
import { indexBaseline } from '../baseline/lookup.ts'
import type { RoundingPlace } from '../baseline/baseline.ts'
import { parsePercent, ratio, parseDecimal } from '../money/decimal.ts'
import { sum } from '../money/currency.ts'
import { agencyBase } from './determination.ts'
import { determine } from './determine.ts'
import { placeOf } from './place.ts'
import { taxAt, type TaxedLine } from './taxRounding.ts'

const index = indexBaseline(baseline)
const components = [
  ['state', '5.5'],
  ['county', '1.25'],
  ['city', '0.5'],
].map(([jurisdictionId, p]) => ({
  jurisdictionId: jurisdictionId as string,
  percent: parsePercent(p as string),
}))
const line = (lineId: string, base: bigint, quantity = '1'): TaxedLine => ({
  lineId,
  quantity: parseDecimal(quantity),
  isReturn: base < 0n,
  components: components.map((c) => ({ ...c, base, perUnit: null, onTopOf: [] })),
})
const three = [line('1', 1015n), line('2', 1015n), line('3', 1015n)]

describe('rounding places (K1)', () => {
  test.each<[RoundingPlace['level'], RoundingPlace['unit'], bigint[]]>([
    ['line', 'component', [168n, 39n, 15n]],
    ['line', 'combined', [168n, 39n, 15n]],
    ['document', 'component', [167n, 38n, 15n]],
    ['document', 'combined', [168n, 38n, 15n]],
  ])('three lines of 10.15 by %s and %s', (level, unit, expected) => {
    const tax = taxAt({ level, unit, tie: 'half-away' }, three)
    expect(components.map((_, at) => sum(tax.map((of) => of[at] ?? 0n)))).toEqual(expected)
  })

  it('by unit rounds the single unit, times the quantity, and a broken quantity once more', () => {
    const byUnit = (base: bigint, quantity: string): bigint =>
      sum(taxAt({ level: 'unit', unit: 'combined', tie: 'half-away' }, [line('1', base, quantity)]).flat())
    expect(byUnit(10150n, '10')).toBe(740n)
    expect(byUnit(2538n, '2.5')).toBe(185n)
  })

  it('rounds returns by themselves, as the mirror of sales', () => {
    const place: RoundingPlace = { level: 'document', unit: 'combined', tie: 'half-away' }
    const mixed = taxAt(place, [...three, ...three.map((l) => line(`-${l.lineId}`, -1015n))])
    expect(sum(mixed.flat())).toBe(0n)
  })

  it('adds up: lines of a component to its rounded tax, components to the document, at every place', () => {
    const bases = fc.array(fc.bigInt({ min: -1_000_000n, max: 1_000_000n }), { minLength: 1, maxLength: 8 })
    const level = fc.constantFrom<RoundingPlace['level']>('line', 'document')
    const unit = fc.constantFrom<RoundingPlace['unit']>('component', 'combined')
    fc.assert(
      fc.property(bases, level, unit, (all, l, u) => {
        const tax = sum(
          taxAt(
            { level: l, unit: u, tie: 'half-away' },
            all.map((b, at) => line(String(at), b)),
          ).flat(),
        )
        const exact = sum(all) * 7_250_000n
        const slack = 50_000_000n * BigInt(l === 'line' ? all.length * 3 : 6)
        expect(tax * 100_000_000n - exact <= slack && exact - tax * 100_000_000n <= slack).toBe(true)
      }),
    )
  })
})

describe('place (K3, step 1)', () => {
  const at = (
    postalCode: string | null,
    city: string | null,
    region: string | null = 'XA-NO',
    country = 'XA',
  ) => placeOf({ country, region, city, postalCode }, baseline.jurisdictions)

  test.each([
    ['inside a +4 range', at('10001-0042', 'Hollow'), ['XA', 'north', 'hollow', 'rail']],
    ['at its first', at('10001-0000', 'Hollow'), ['XA', 'north', 'hollow', 'rail']],
    ['at its last', at('10001-4999', 'Hollow'), ['XA', 'north', 'hollow', 'rail']],
    ['just past it', at('10001-5000', 'Hollow'), ['XA', 'north', 'hollow']],
    ['a city by its folded name', at('20000', ' PORT '), ['XA', 'north', 'port']],
    ['the rest of the region', at(null, null), ['XA', 'north']],
  ])('%s', (_, place, ids) => {
    expect(place.jurisdictions.map((j) => j.id)).toEqual(ids)
    expect(place.findings).toEqual([])
  })

  test.each([
    ['an absent +4 that is needed', at('10001', 'Hollow'), 'AXION_PLUS4_NEEDED'],
    ['a region nobody covers', at('10001', null, 'XA-ZZ'), 'AXION_NO_JURISDICTION'],
    ['a country nobody covers', at('10001', null, null, 'XB'), 'AXION_NO_JURISDICTION'],
  ])('%s is a finding, not a guess', (_, place, code) =>
    expect(place.findings.map((f) => f.code)).toContain(code),
  )

  it('two equally narrow covers are a finding', () => {
    const twin = baseline.jurisdictions
      .map((j) => (j.id === 'port' ? { ...j, id: 'port-2' } : j))
      .concat(baseline.jurisdictions.filter((j) => j.id === 'port'))
    const place = placeOf({ country: 'XA', region: 'XA-NO', city: 'Port', postalCode: null }, twin)
    expect(place.findings[0]?.code).toBe('AXION_TWO_JURISDICTIONS')
    expect(place.jurisdictions.map((j) => j.level)).not.toContain('city')
  })
})

describe('determination (K3)', () => {
  it('taxes goods by the version of the supply date, and gives every row its source', () => {
    const { rows, findings } = determine(invoice([[3045n, 'GOODS']]), index)
    expect(findings).toEqual([])
    expect(
      rows.map((r) => [r.jurisdictionId, r.percent, r.base, r.tax, r.reason, r.source.rateVersion]),
    ).toEqual([
      ['north', 5_500_000n, 3045n, 167n, 'standard', 'v0'],
      ['hollow', 1_450_000n, 3045n, 44n, 'standard', 'v2'],
      ['rail', 500_000n, 3045n, 15n, 'standard', 'v4'],
    ])
  })

  it('takes both ends of a range of dates', () => {
    const county = (supplyDate: string) =>
      determine(invoice([[10000n, 'GOODS']], { supplyDate }), index).rows.find(
        (r) => r.jurisdictionId === 'hollow',
      )?.tax
    expect([county('2026-08-31'), county('2026-09-01')]).toEqual([125n, 145n])
  })

  it('leaves exempt and unregistered lines untaxed, each with its reason on the net', () => {
    const food = determine(invoice([[3045n, 'FOOD']]), index).rows[0]
    const south = { shipTo: { country: 'XA', region: 'XA-SO', city: null, postalCode: null } }
    const away = determine(invoice([[3045n, 'GOODS']], south), index).rows[0]
    expect([food?.reason, food?.net, food?.base, food?.tax]).toEqual(['exempt', 3045n, 0n, 0n])
    // A rule frees it, whoever buys: no certificate and no registration decided anything.
    const bought = determine(invoice([[3045n, 'FOOD']], { partyId: 'shop' }), index).rows[0]?.source
    expect(bought).toMatchObject({ codeRule: 'r2', certificate: null, registration: null })
    expect([away?.reason, away?.percent, away?.base]).toEqual(['not-registered', 0n, 0n])
  })

  it('lets a city have a rule of its own', () => {
    const port = { shipTo: { country: 'XA', region: 'XA-NO', city: 'Port', postalCode: '20000' } }
    const { rows } = determine(invoice([[1000n, 'FOOD']], port), index)
    expect(rows.map((r) => [r.jurisdictionId, r.reason, r.tax])).toEqual([
      ['north', 'exempt', 0n],
      ['port', 'standard', 20n],
    ])
  })

  test.each([
    ['no item tax code', invoice([[1n, null]]), 'AXION_NO_ITEM_TAX_CODE'],
    ['a code without a rule', invoice([[1n, 'ODD']]), 'AXION_NO_CODE_RULE'],
    [
      'a date before any rate',
      invoice([[1n, 'GOODS']], { supplyDate: '2020-01-01', documentDate: '2020-01-01' }),
      null,
    ],
  ])('%s', (_, document, code) => {
    const result = determine(document, index)
    expect(result.findings[0]?.code ?? null).toBe(code)
    expect(result.complete).toBe(code === null)
  })

  it('claims nothing where no rounding place is agreed', () => {
    const bare = indexBaseline({ ...baseline, roundings: [] })
    const result = determine(invoice([[1000n, 'GOODS']]), bare)
    expect([result.complete, result.findings[0]?.code]).toEqual([false, 'AXION_NO_ROUNDING_PLACE'])
    expect(sum(result.rows.map((r) => r.tax))).toBe(0n)
  })

  it('assumes another percent only where asked', () => {
    const assumed = determine(invoice([[10000n, 'GOODS']]), index, {
      percentOf: (id) => (id === 'hollow' ? 1_250_000n : undefined),
    })
    expect(assumed.rows.map((r) => r.tax)).toEqual([550n, 125n, 50n])
    expect(ratio(1n, -2n)).toEqual({ numerator: -1n, denominator: 2n })
  })
})

describe('sales that are no invoice (K3)', () => {
  const port = { country: 'XA', region: 'XA-NO', city: 'Port', postalCode: '20000' }
  const rowsOf = (changes: Parameters<typeof invoice>[1]): unknown =>
    determine(invoice([[10000n, 'GOODS']], changes), index).rows.map((row) => [
      row.jurisdictionId,
      row.reason,
      row.tax,
    ])
  it('taxes a counter sale where its outlet is, wherever the buyer lives', () => {
    expect(rowsOf({ outlet: port })).toEqual(rowsOf({ shipTo: port }))
    expect(rowsOf({ outlet: port })).not.toEqual(rowsOf({}))
  })
  it('leaves a marketplace sale untaxed to the entity, registered or not, after rule and certificate', () => {
    expect(
      determine(
        invoice(
          [
            [10000n, 'GOODS'],
            [500n, 'FOOD'],
          ],
          { marketplace: 'Fair' },
        ),
        index,
      ).rows.map((row) => [row.lineId, row.reason, row.tax]),
    ).toEqual(
      determine(
        invoice([
          [10000n, 'GOODS'],
          [500n, 'FOOD'],
        ]),
        index,
      ).rows.map((row) => [row.lineId, row.tax === 0n ? row.reason : 'marketplace', 0n]),
    )
    const unregistered = indexBaseline({ ...baseline, registrations: [] })
    expect(
      determine(invoice([[10000n, 'GOODS']], { marketplace: 'Fair' }), unregistered).rows.every(
        (row) => row.reason === 'marketplace',
      ),
    ).toBe(true)
  })
  it('taxes a purchase by the supplier’s duty: no registration and no certificate of one’s own counts', () => {
    const unregistered = indexBaseline({ ...baseline, registrations: [] })
    const bill = invoice([[10000n, 'GOODS']], { purchase: true, partyId: 'shop' })
    expect(determine(bill, unregistered).rows.map((row) => row.tax)).toEqual(
      determine(invoice([[10000n, 'GOODS']]), index).rows.map((row) => row.tax),
    )
  })
})

describe('a line that the baseline cannot answer for', () => {
  const index = indexBaseline(baseline)
  const known = determine(
    invoice([
      [10000n, 'GOODS'],
      [500n, 'FOOD'],
    ]),
    index,
  )
  test.each<[string, [bigint, string | null][], string[]]>([
    [
      'without a code',
      [
        [10000n, 'GOODS'],
        [500n, 'FOOD'],
        [300n, null],
      ],
      ['3'],
    ],
    [
      'with a code that has no rule',
      [
        [10000n, 'GOODS'],
        [500n, 'FOOD'],
        [300n, 'NOTHING'],
      ],
      ['3'],
    ],
    [
      'that shipping follows',
      [
        [10000n, 'GOODS'],
        [500n, 'FOOD'],
        [300n, null],
        [700n, 'SHIP'],
      ],
      ['3', '4'],
    ],
  ])('%s leaves the others as they are', (_, lines, open) => {
    const determined = determine(invoice(lines), index)
    expect([determined.complete, determined.open]).toEqual([false, open])
    expect(determined.rows.filter((row) => !open.includes(row.lineId))).toEqual(known.rows)
    expect(determined.rows.some((row) => open.includes(row.lineId))).toBe(false)
  })
  it('of the document itself leaves all lines open', () => {
    const nowhere = invoice([[10000n, 'GOODS']], {
      shipTo: { country: 'XQ', region: null, city: null, postalCode: null },
    })
    expect(determine(nowhere, index).open).toEqual(['1'])
  })
})

describe('what stands under an agency’s tax (K9)', () => {
  type Row = readonly [line: string, jurisdiction: string, base: bigint]
  test.each<[string, readonly Row[], bigint]>([
    [
      'each line once, at the largest base among its jurisdictions',
      [
        ['1', 'county', 10000n],
        ['1', 'city', 6000n],
        ['2', 'county', 5000n],
        ['2', 'city', 9000n],
      ],
      19000n,
    ],
    [
      'what is given back, too',
      [
        ['1', 'county', -10000n],
        ['1', 'city', -6000n],
      ],
      -10000n,
    ],
    [
      'parts of one jurisdiction beside each other',
      [
        ['1', 'county', 4000n],
        ['1', 'county', 3000n],
        ['1', 'city', 6000n],
      ],
      7000n,
    ],
  ])('%s', (_, rows, base) =>
    expect(
      agencyBase(rows.map(([lineId, jurisdictionId, of]) => ({ lineId, jurisdictionId, base: of }))),
    ).toBe(base),
  )
})
