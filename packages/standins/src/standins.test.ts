import { describe, expect, it, test } from 'vitest'
import { charged } from './billing/charges.ts'
import { escape } from './shared/desk.ts'
import { divideRounded, largestRemainder, millionths, percentOf, toText, toUnits } from './shared/exact.ts'

describe('the stand-ins’ own arithmetic', () => {
  test.each([
    ['1284.16', 'USD', 128416n],
    ['-0.05', 'USD', -5n],
    ['980', 'JPY', 980n],
    ['1.005', 'KWD', 1005n],
  ])('%s %s', (text, currency, units) => {
    expect(toUnits(text, currency)).toBe(units)
    expect(toText(units, currency)).toBe(text)
  })

  test.each([
    [3045n, '7.25', 221n],
    [1015n, '5.5', 56n],
    [-3045n, '7.25', -221n],
    [1000n, '0', 0n],
    [50n, '1', 1n],
  ])('%d at %s percent is %d', (units, percent, tax) => expect(percentOf(units, percent)).toBe(tax))

  it('rounds half away from nil', () => {
    expect([divideRounded(5n, 2n), divideRounded(-5n, 2n), divideRounded(4n, 3n)]).toEqual([3n, -3n, 1n])
    expect(millionths('1.45')).toBe(1_450_000n)
    expect([largestRemainder(220n, [167475n, 38062n, 15225n]), largestRemainder(-5n, [1n, 1n])]).toEqual([
      [167n, 38n, 15n],
      [-3n, -2n],
    ])
  })
})

describe('billing', () => {
  const line = (amount: string, taxRateId: string | null): object => ({
    id: amount,
    kind: 'goods',
    itemCode: 'A',
    description: '',
    quantity: '1',
    unitPrice: amount,
    discount: '0.00',
    amount,
    taxRateId,
    creditsLineId: null,
  })
  const invoice = {
    number: '1',
    kind: 'invoice',
    status: 'open',
    documentDate: '',
    supplyDate: '',
    currency: 'USD',
    exchangeRate: null,
    pricesIncludeTax: false,
    creditsDocumentId: null,
    discount: '0.00',
    reimbursed: '0.00',
    party: { id: '', name: '' },
    shipTo: {},
    shipFrom: null,
    webAddress: null,
    lines: [line('10.15', 'r'), line('20.30', 'r'), line('5.00', null)],
  } as unknown as Parameters<typeof charged>[0]
  const rate = (components: object[] | null): Parameters<typeof charged>[1] =>
    new Map([['r', { code: null, name: '', percent: '7.25', active: true, components } as never]])
  const component = (agencyId: string, percent: string): object => ({
    agencyId,
    name: '',
    percent,
    perUnit: null,
    onTopOf: [],
    from: null,
    to: null,
  })

  it('charges by document and component, and a flat rate as a total alone', () => {
    expect(
      charged(invoice, rate([component('a', '5.5'), component('b', '1.25'), component('c', '0.5')])),
    ).toMatchObject({
      taxes: [{ tax: '2.20', components: [{ tax: '1.67' }, { tax: '0.38' }, { tax: '0.15' }] }],
      total: '37.65',
    })
    expect(charged(invoice, rate(null))).toMatchObject({
      taxes: [{ tax: '2.21', components: null }],
      total: '37.66',
    })
    expect(() => charged(invoice, new Map())).toThrow('unknown rate')
  })

  it('spreads a discount, takes tax out of prices, and puts tax on tax', () => {
    const one = rate([component('a', '20')])
    expect(charged({ ...invoice, discount: '5.00' }, one)).toMatchObject({
      taxes: [{ base: '26.16', tax: '5.23' }],
      total: '35.68',
    })
    expect(charged({ ...invoice, pricesIncludeTax: true }, one)).toMatchObject({
      taxes: [{ base: '25.38', tax: '5.07' }],
      total: '35.45',
    })
    expect(
      charged(
        { ...invoice, lines: [line('200.00', 'r')] as never },
        rate([component('a', '5'), { ...component('b', '8'), onTopOf: [0] }]),
      ),
    ).toMatchObject({ taxes: [{ components: [{ tax: '10.00' }, { tax: '16.80' }] }] })
  })

  it('credits in parts what adds up to the original', () => {
    const rates = rate([component('a', '5.5'), component('b', '1.25'), component('c', '0.5')])
    const credit = (amounts: [string, string][]): Parameters<typeof charged>[0] => ({
      ...invoice,
      kind: 'credit-note',
      creditsDocumentId: 'x',
      lines: amounts.map(([id, amount]) => ({
        ...(line(amount, 'r') as object),
        id,
        creditsLineId: id,
      })) as never,
    })
    const taxOf = (answer: object): bigint =>
      toUnits((answer as { taxes: { tax: string }[] }).taxes[0]?.tax ?? '0', 'USD')
    const first = charged(
      credit([
        ['10.15', '3.33'],
        ['20.30', '11.11'],
      ]),
      rates,
      { original: invoice, before: new Map() },
    )
    const rest = charged(
      credit([
        ['10.15', '6.82'],
        ['20.30', '9.19'],
      ]),
      rates,
      {
        original: invoice,
        before: new Map([
          ['10.15', 333n],
          ['20.30', 1111n],
        ]),
      },
    )
    expect(taxOf(first) + taxOf(rest)).toBe(220n)
  })
})

it('lets nothing through into a desk page', () => {
  expect(escape('<script>"&')).toBe('&#60;script&#62;&#34;&#38;')
})
