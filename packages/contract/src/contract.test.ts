import { readFileSync } from 'node:fs'
import {
  EVIDENCE,
  FAULT_CODES,
  FAULT_FACTS,
  POSTING_KINDS,
  type Address,
  type LineKind,
  type PostingKind,
} from '@axion/core'
import fc from 'fast-check'
import { describe, expect, expectTypeOf, it, test } from 'vitest'
import type { z } from 'zod'
import {
  Address as WireAddress,
  APPLICATION_CODES,
  APPLICATION_FACTS,
  BankLine,
  BaselineImport,
  CATALOGUE,
  decodeDocument,
  DOCUMENT,
  DOCUMENT_KINDS,
  FINDING_CODES,
  findingsPage,
  GridQuery,
  KINDS_OF,
  LeaveRequest,
  Location,
  parseSelector,
  PaymentMethod,
  say,
  sayCause,
  selectorText,
  Settlement,
  SourceDocument,
  SourceLine,
  TaxRate,
  toTaxDocument,
  wordsOf,
  type Selector,
} from './index.ts'

const document: SourceDocument = {
  number: 'LA-1',
  kind: 'invoice',
  status: 'open',
  documentDate: '2026-09-17',
  supplyDate: '2026-09-16',
  paymentDate: null,
  currency: 'USD',
  exchangeRate: null,
  pricesIncludeTax: false,
  creditsDocumentId: null,
  party: { id: 'p', name: 'Blythe' },
  shipTo: { country: 'XA', region: 'XA-WN', city: 'Fenwick Falls', postalCode: '40217' },
  shipFrom: null,
  lines: [
    {
      id: '1',
      kind: 'goods',
      itemCode: 'HIVE-10',
      description: 'Hive',
      quantity: '2.5',
      unitPrice: '100.00',
      discount: '0.00',
      amount: '250.00',
      taxRateId: 'r',
      creditsLineId: null,
      overridden: null,
      taxableFlag: null,
    },
  ],
  discount: '0.00',
  reimbursed: '0.00',
  taxes: [
    {
      taxRateId: 'r',
      base: '250.00',
      tax: '18.63',
      components: [
        { agencyId: 'a', percent: '5.5', tax: '13.75' },
        { agencyId: 'b', percent: '1.95', tax: '4.88' },
      ],
    },
  ],
  total: '268.63',
  webAddress: null,
  soldAt: null,
  locationId: null,
  channel: null,
  marketplace: null,
  tenders: [],
  enteredBy: null,
  saleKind: null,
}

const context = (itemTaxCodeOf: (code: string) => string | undefined) => ({
  itemTaxCodeOf,
  baseCurrency: 'USD',
  original: null,
})

describe('the wire and the core', () => {
  it('have the same types', () => {
    expectTypeOf<z.infer<typeof WireAddress>>().toEqualTypeOf<{
      -readonly [K in keyof Address]: Address[K]
    }>()
    expectTypeOf<z.infer<typeof SourceLine>['kind']>().toEqualTypeOf<LineKind>()
    expectTypeOf<BaselineImport['postingRules'][number]['kind']>().toEqualTypeOf<PostingKind>()
    expect(POSTING_KINDS.length).toBe(18)
  })

  it('reads a document exactly, with the item’s code from the baseline', () => {
    const decoded = decodeDocument(SourceDocument.parse(document))
    expect([decoded.total, decoded.taxes[0]?.components?.map((c) => c.tax)]).toEqual([26863n, [1375n, 488n]])
    const forTax = toTaxDocument(
      'd',
      decoded,
      context((code) => (code === 'HIVE-10' ? 'GOODS' : undefined)),
    )
    expect(forTax.lines[0]).toMatchObject({
      itemTaxCode: 'GOODS',
      amount: 25000n,
      quantity: { numerator: 25n, denominator: 10n },
    })
    expect(
      toTaxDocument(
        'd',
        decoded,
        context(() => undefined),
      ).lines[0]?.itemTaxCode,
    ).toBeNull()
  })

  it('reads a credit note as negative, prices with tax inside, and a rate between currencies of other digits', () => {
    const credit = decodeDocument({ ...document, kind: 'credit-note' })
    expect([credit.total, credit.net, credit.lines[0]?.amount, credit.taxes[0]?.tax]).toEqual([
      -26863n,
      -25000n,
      -25000n,
      -1863n,
    ])
    const inside = decodeDocument({ ...document, pricesIncludeTax: true, discount: '10.00', total: '240.00' })
    expect([inside.total, inside.net]).toEqual([24000n, 22137n])
    const yen = {
      ...document,
      currency: 'JPY',
      exchangeRate: '0.0068',
      lines: document.lines.map((l) => ({ ...l, amount: '250', discount: '0' })),
      taxes: [],
      total: '250',
      discount: '0',
      reimbursed: '0',
    }
    expect(
      toTaxDocument(
        'd',
        decodeDocument(yen),
        context(() => undefined),
      ).exchange,
    ).toEqual({ currency: 'USD', rate: { numerator: 6800n, denominator: 10000n } })
    expect(
      toTaxDocument(
        'd',
        decodeDocument(document),
        context(() => undefined),
      ).exchange,
    ).toBeNull()
  })

  test.each<[string, Partial<SourceDocument>, string]>([
    ['a total that is not the sum', { total: '268.64' }, 'AXION_JOURNAL_OUT_OF_BALANCE'],
    [
      'components that are not the tax',
      {
        taxes: [
          {
            ...document.taxes[0],
            taxRateId: 'r',
            base: '250.00',
            tax: '18.63',
            components: [{ agencyId: 'a', percent: '5.5', tax: '13.75' }],
          },
        ],
      },
      'AXION_JOURNAL_OUT_OF_BALANCE',
    ],
    ['more digits than the currency has', { currency: 'JPY' }, 'AXION_NOT_AN_AMOUNT'],
  ])('refuses %s', (_, change, code) =>
    expect(() => decodeDocument({ ...document, ...change })).toThrow(code),
  )

  const outlet = {
    code: null,
    name: 'Quay',
    timeZone: 'America/Chicago',
    cutOff: '03:00',
    address: document.shipTo,
  }
  const charge = {
    number: 'C-1',
    kind: 'charge',
    at: '2026-09-03T12:00:00-05:00',
    paymentMethodId: null,
    currency: 'USD',
    amount: '84.20',
    fee: '2.29',
    documentNumber: null,
    payoutId: null,
  }
  test.each<[string, z.ZodType, unknown]>([
    ['an outlet', Location, outlet],
    ['a charge', Settlement, charge],
    [
      'a masked card',
      PaymentMethod,
      { code: null, name: 'Card', kind: 'card', maskedNumber: '****4417', active: true },
    ],
    [
      'a document without what only tills state',
      SourceDocument,
      Object.fromEntries(
        Object.entries(document).filter(
          ([field]) => !['soldAt', 'locationId', 'channel', 'marketplace', 'tenders'].includes(field),
        ),
      ),
    ],
  ])('takes %s', (_, shape, value) => expect(shape.safeParse(value).error).toBeUndefined())

  test.each(DOCUMENT_KINDS.map((kind) => [kind, DOCUMENT[kind].returns] as const))(
    'counts a %s the other way: %s',
    (kind, returning) => {
      const { total, net } = decodeDocument({ ...document, kind })
      expect([total < 0n, net < 0n]).toEqual([returning, returning])
      expect(
        Object.values(KINDS_OF)
          .flat()
          .filter((of) => of === kind),
      ).toHaveLength(1)
    },
  )

  test.each<[string, z.ZodType, unknown]>([
    ['a currency that is none', SourceDocument, { ...document, currency: 'XQQ' }],
    ['a date that is none', SourceDocument, { ...document, documentDate: '2026-02-29' }],
    ['an amount in floats', SourceDocument, { ...document, total: 268.63 }],
    ['a document without lines', SourceDocument, { ...document, lines: [] }],
    ['a country that is none', WireAddress, { ...document.shipTo, country: 'Aldermark' }],
    [
      'a rate over 100 %',
      TaxRate,
      { code: null, name: 'x', percent: '100.01', components: null, active: true },
    ],
    [
      'a card’s whole number',
      PaymentMethod,
      { code: null, name: 'Card', kind: 'card', maskedNumber: '4417123456789113', active: true },
    ],
    [
      'a way of payment that is none',
      PaymentMethod,
      { code: null, name: 'Shells', kind: 'shells', maskedNumber: null, active: true },
    ],
    ['a time of day that is none', Location, { ...outlet, cutOff: '24:00' }],
    ['a time zone that is none', Location, { ...outlet, timeZone: 'America/Quillby' }],
    ['an instant without its offset', Settlement, { ...charge, at: '2026-09-03T12:00:00' }],
    ['a settlement of no kind', Settlement, { ...charge, kind: 'tip' }],
    [
      'a bank line without a day',
      BankLine,
      {
        number: '1',
        account: '****1',
        bookedOn: 'yesterday',
        currency: 'USD',
        amount: '1.00',
        text: '',
        counterparty: null,
      },
    ],
    [
      'a reason that says nothing',
      LeaveRequest,
      { kind: 'items', rowId: 'x', code: 'AXION_ITEM_FLAG', systemId: null, reason: ' x ' },
    ],
    ['more rows than a page has', GridQuery, { limit: '501' }],
    [
      'a rate with seven places',
      TaxRate,
      { code: null, name: 'x', percent: '1.0000001', components: null, active: true },
    ],
  ])('refuses %s at the edge', (_, shape, value) => expect(shape.safeParse(value).success).toBe(false))
})

describe('selectors', () => {
  it('stand in an address and come back the same', () => {
    const text = fc.string({ unit: 'grapheme', maxLength: 30 })
    const selector = fc.record(
      {
        of: fc.constantFrom('tax', 'unproved', 'net') as fc.Arbitrary<Selector['of']>,
        agency: text,
        account: text,
        unit: text,
      },
      { requiredKeys: ['of'] },
    ) as fc.Arbitrary<Selector>
    fc.assert(
      fc.property(selector, (s) => {
        expect(parseSelector(selectorText(s))).toEqual(s)
      }),
    )
  })
})

describe('findings of Align', () => {
  it('stand in the docs as the grid says them, each with all its words', () => {
    expect(readFileSync(new URL('../../../docs/findings.md', import.meta.url), 'utf8')).toBe(findingsPage())
    for (const code of FINDING_CODES) {
      const { title, says, means, mend } = wordsOf(code)
      const facts = new Proxy({}, { get: () => 'Hollis' }) as Readonly<Record<string, string>>
      expect(
        [title, says(facts), means, mend].every((text) => /^["“A-Z]/.test(text) && !/undefined|!/.test(text)),
        code,
      ).toBe(true)
    }
  })
})

describe('sentences', () => {
  it('exist for every code, once', () => {
    const codes = [...FAULT_CODES, ...APPLICATION_CODES]
    expect(new Set(codes).size).toBe(codes.length)
    expect(Object.keys(CATALOGUE).sort()).toEqual([...codes].sort())
    for (const code of codes) {
      const { says, mend } = say(code, {})
      // With the facts that it always has, and no other, it names them all.
      const needed = Object.entries({ ...FAULT_FACTS, ...APPLICATION_FACTS }[code]).filter(
        ([, always]) => always,
      )
      expect(say(code, Object.fromEntries(needed.map(([name]) => [name, 'Hollis']))).says, code).not.toMatch(
        /undefined/,
      )
      expect([says, mend].every((text) => /^[A-Z"“0-9u].*[.:]?/.test(text) && !text.includes('!'))).toBe(true)
    }
  })

  it('name a cause by its values', () => {
    const facts = {
      kind: 'component-percent',
      system: 'Ledger',
      rate: 'Fenwick',
      jurisdiction: 'Hollis',
      theirs: '1.25',
      ours: '1.45',
      since: '2026-09-01',
    } as const
    expect(sayCause(facts, (iso) => iso)).toBe(
      'Ledger holds Hollis at 1.25\u00a0% in “Fenwick”. The baseline has 1.45\u00a0% since 2026-09-01.',
    )
    expect(sayCause({ kind: 'missing', why: 'in-doubt' }, String)).toContain('Nobody knows')
    expect(sayCause({ kind: 'unexplained', headline: 'amount', odd: ['booked'] }, String)).toContain(
      'booked stands alone',
    )
    expect(EVIDENCE[0]).toBe('same-code')
  })
})
