import type { SaleView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../../test/mounting.ts'
import SalePage from './SalePage.vue'

afterEach(() => vi.unstubAllGlobals())

const SYSTEM = { id: 'billing', name: 'Billing', rate: 'Fenwick, 7.45 %', tax: '7.45', gap: '0.00', says: [] }
const VIEW: SaleView = {
  currency: 'USD',
  item: { id: 'HIVE-10', name: 'Cedar hive' },
  party: null,
  places: ['Wendover', 'Hollis County'],
  itemTaxCode: 'GOODS',
  rules: [],
  passedOver: [],
  net: '100.00',
  tax: '7.45',
  total: '107.45',
  rows: [
    {
      jurisdiction: 'Hollis County',
      agency: 'Hollis County Treasurer',
      account: '2212',
      rate: '1.45 %',
      base: '100.00',
      tax: '1.45',
      taxed: true,
      reason: 'at its rate',
      from: ['the rate since 2026-07-01'],
    },
    {
      jurisdiction: 'Plover Flats',
      agency: 'Plover',
      account: null,
      rate: null,
      base: '100.00',
      tax: '0.00',
      taxed: false,
      reason: 'not registered',
      from: [],
    },
  ],
  rounding: 'each line',
  findings: [],
  systems: [SYSTEM],
}
const at = { path: '/larkspur/2026-09/sale' }
const query = { country: 'XA', date: '2026-09-15', amount: '100.00' }

describe('a sale', () => {
  it('is asked by what was filled in, and stands in the address', async () => {
    const asked = answers({ '/sale': VIEW, '/path': PATH, '/names': { names: [] } })
    const { page, router } = await mountIn(SalePage, at)
    expect(page.find('[data-verdict]').text()).toContain('Ask.')
    await page.find('[name=country]').setValue('XA')
    await page.find('[name=amount]').setValue(' 100.00 ')
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(router.currentRoute.value.query).toMatchObject({ country: 'XA', amount: '100.00', kind: 'goods' })
    expect(asked.find((a) => a.path.includes('/sale?'))?.path).toContain('country=XA')
    expect(page.findAll('[data-component]').map((row) => row.text())).toEqual([
      expect.stringContaining('1.45 %'),
      expect.stringContaining('not registered'),
    ])
  })

  it('says which rules it could not ask, and leads to them', async () => {
    answers({ '/sale': { ...VIEW, passedOver: ['As it is flagged'] }, '/path': PATH })
    const { page } = await mountIn(SalePage, { ...at, query })
    expect(page.find('[data-passed-over]').text()).toMatch(/^Passed over.*: As it is flagged$/s)
    expect(page.find('[data-passed-over] a').attributes('href')).toMatch(/\/rules$/)
  })

  test.each<[string, Partial<SaleView>, string]>([
    ['all alike', {}, '7.45 USD on 100.00, 107.45 in all; every set-up comes to the same'],
    [
      'one apart',
      { systems: [{ ...SYSTEM, tax: '8.00', gap: '0.55' }, SYSTEM] },
      '1 of 2 set-ups would come to something else',
    ],
    [
      'one that does not say',
      { systems: [{ ...SYSTEM, tax: null, gap: null }, SYSTEM] },
      'every set-up that says comes to the same, 1 does not say',
    ],
    [
      'left open',
      { tax: null, net: null, total: null, systems: [] },
      'Not known. The baseline leaves it open',
    ],
  ])('says in a sentence what it comes to: %s', async (_, other, verdict) => {
    answers({ '/sale': { ...VIEW, ...other }, '/path': PATH })
    const { page } = await mountIn(SalePage, { ...at, query: { ...query, item: 'HIVE-10' } })
    expect(page.find('[data-verdict]').text()).toContain(verdict)
    // What the address names is named in the form.
    expect((page.find('[aria-label=Item]').element as HTMLInputElement).value).toBe('Cedar hive (HIVE-10)')
  })

  it('that cannot be read says so', async () => {
    answers({ '/sale': { status: 400, title: 'amount is no amount.', detail: 'Correct it.' }, '/path': PATH })
    const { page } = await mountIn(SalePage, { ...at, query })
    expect(page.find('[role=alert]').text()).toBe('amount is no amount. Correct it.')
    expect(page.find('[data-verdict]').text()).toContain('Not known.')
  })
})
