import { describe, expect, it, test } from 'vitest'
import { charged } from './billing/charges.ts'
import { escape } from './shared/desk.ts'
import { divideRounded, millionths, percentOf, toText, toUnits } from './shared/exact.ts'

describe('the stand-ins’ own arithmetic', () => {
  test.each([
    ['1284.16', 'USD', 128416n], ['-0.05', 'USD', -5n], ['980', 'JPY', 980n], ['1.005', 'KWD', 1005n],
  ])('%s %s', (text, currency, units) => {
    expect(toUnits(text, currency)).toBe(units)
    expect(toText(units, currency)).toBe(text)
  })

  test.each([[3045n, '7.25', 221n], [1015n, '5.5', 56n], [-3045n, '7.25', -221n], [1000n, '0', 0n], [50n, '1', 1n]])('%d at %s percent is %d', (units, percent, tax) =>
    expect(percentOf(units, percent)).toBe(tax))

  it('rounds half away from nil', () => {
    expect([divideRounded(5n, 2n), divideRounded(-5n, 2n), divideRounded(4n, 3n)]).toEqual([3n, -3n, 1n])
    expect(millionths('1.45')).toBe(1_450_000n)
  })
})

describe('billing', () => {
  const line = (net: string, taxRateId: string | null): object => ({ id: net, kind: 'goods', itemCode: 'A', description: '', quantity: '1', unitPrice: net, net, taxRateId })
  const invoice = { number: '1', kind: 'invoice', status: 'open', documentDate: '', supplyDate: '', currency: 'USD', party: { id: '', name: '' }, shipTo: {}, shipFrom: null, webAddress: null, lines: [line('10.15', 'r'), line('20.30', 'r'), line('5.00', null)] } as unknown as Parameters<typeof charged>[0]
  const rate = (components: object[] | null): Parameters<typeof charged>[1] => new Map([['r', { code: null, name: '', percent: '7.25', active: true, components } as never]])
  const component = (agencyId: string, percent: string): object => ({ agencyId, name: '', percent, from: null, to: null })

  it('charges by document and component, and a flat rate as a total alone', () => {
    expect(charged(invoice, rate([component('a', '5.5'), component('b', '1.25'), component('c', '0.5')]))).toMatchObject({ taxes: [{ tax: '2.20', components: [{ tax: '1.67' }, { tax: '0.38' }, { tax: '0.15' }] }], total: '37.65' })
    expect(charged(invoice, rate(null))).toMatchObject({ taxes: [{ tax: '2.21', components: null }], total: '37.66' })
    expect(() => charged(invoice, new Map())).toThrow('unknown rate')
  })
})

it('lets nothing through into a desk page', () => {
  expect(escape('<script>"&')).toBe('&#60;script&#62;&#34;&#38;')
})
