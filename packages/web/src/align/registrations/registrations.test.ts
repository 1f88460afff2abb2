import type { CollectingView, RegistrationsView } from '@axion/contract'
import { flushPromises, type VueWrapper } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../../test/mounting.ts'
import RegistrationsPage from './RegistrationsPage.vue'

afterEach(() => vi.unstubAllGlobals())

const held = { number: 'W-1', basis: 'accrual', frequency: 'month', from: '2024-01-01', to: null } as const
const VIEW: RegistrationsView = {
  known: true,
  currency: 'USD',
  agencies: [
    {
      id: 'WRO',
      name: 'Wendover Revenue',
      regions: ['Wendover'],
      versions: [held],
      holds: true,
      charged: '120.00',
    },
    {
      id: 'PTC',
      name: 'Palisade Commission',
      regions: ['Palisade'],
      versions: [],
      holds: false,
      charged: '0.00',
    },
  ],
  regions: [
    {
      id: 'PL',
      name: 'Palisade',
      agency: 'Palisade Commission',
      versions: [{ sales: '100000.00', transactions: 200, currency: 'USD', from: '2024-01-01', to: null }],
    },
  ],
}

type Place = CollectingView['rows'][number]
const place = (changes: Partial<Place> = {}): Place => ({
  ...{
    id: 'WN',
    name: 'Wendover',
    own: 12,
    marketplace: 0,
    net: '2400.00',
    charged: '120.00',
    registered: true,
  },
  ...{ answer: 'we', by: null, standing: 'agrees' },
  versions: [{ answer: 'we', why: null, from: '2024-01-01', to: null }],
  ...changes,
})
const PALISADE = place({
  ...{ id: 'PL', name: 'Palisade', own: 3, marketplace: 2, charged: '0.00', registered: false },
  ...{ answer: null, standing: 'unsaid', versions: [] },
})

async function opened(
  view: RegistrationsView = VIEW,
  role: 'preparer' | 'viewer' = 'preparer',
  rows: readonly Place[] = [place()],
): Promise<{ page: VueWrapper; asked: ReturnType<typeof answers> }> {
  const asked = answers({
    '/registrations': view,
    '/registrations/PTC': {},
    '/thresholds/PL': {},
    '/collecting/PL': {},
    '/collecting': { currency: 'USD', rows, unsplit: '0.00', nowhere: { documents: 2, net: '80.00' } },
    '/path': PATH,
  })
  return {
    page: (await mountIn(RegistrationsPage, { path: '/larkspur/2026-09/registrations', role })).page,
    asked,
  }
}
const words = (page: VueWrapper): string => page.text().replace(/\s+/g, ' ')

describe('registrations', () => {
  it('say at once whether tax was charged without one', async () => {
    expect((await opened()).page.find('[data-verdict]').text()).toMatch(/^Yes\. 1 registration of 2 agencies/)
    const without = await opened({
      ...VIEW,
      agencies: VIEW.agencies.map((one) => ({ ...one, holds: false, charged: '7.00' })),
    })
    expect(without.page.find('[data-verdict]').text()).toMatch(
      /^No\. Tax was charged for 2 agencies without a registration: Wendover Revenue, Palisade Commission/,
    )
  })

  it('are read in words, with the thresholds of each region', async () => {
    const { page } = await opened()
    expect(words(page)).toContain('W-1, on accrual, every month, from January 1, 2024')
    expect(page.find('[data-region="PL"]').text()).toContain('100,000.00 USD of sales or 200 transactions')
  })

  it('are kept span by span', async () => {
    const { page, asked } = await opened()
    await page.find('[aria-label="Change the registration with Palisade Commission"]').trigger('click')
    await page.find('[data-span="0"] input').setValue('P-77')
    await page.find('form.spans').trigger('submit')
    await flushPromises()
    expect(asked.find((call) => call.method === 'PUT')).toMatchObject({
      path: expect.stringContaining('/registrations/PTC') as string,
      body: { versions: [{ number: 'P-77', basis: null, frequency: null, from: '2026-09-01', to: null }] },
    })
  })

  it('leave the currency out where only the number of sales counts', async () => {
    const { page, asked } = await opened()
    await page.find('[aria-label="Change the threshold of Palisade"]').trigger('click')
    await page.find('[data-span="0"] input').setValue('')
    await page.find('form.spans').trigger('submit')
    await flushPromises()
    expect(asked.find((call) => call.method === 'PUT')?.body).toEqual({
      versions: [{ sales: null, transactions: 200, currency: null, from: '2024-01-01', to: null }],
    })
  })

  it('are only read by who may not change them', async () => {
    expect((await opened(VIEW, 'viewer')).page.findAll('.acts button')).toEqual([])
  })

  it.each<[string, Place, string]>([
    ['nobody said', PALISADE, 'Not said. Nobody said who collects in Palisade, where something is sold'],
    [
      'it is charged where nobody has to',
      { ...PALISADE, answer: 'nobody', standing: 'charged' },
      'Not as it was said. Palisade: charged all the same',
    ],
    [
      'nothing is sold',
      { ...PALISADE, own: 0, marketplace: 0, standing: 'quiet' },
      'Yes. 1 registration of 2 agencies',
    ],
  ])('say of each place whether what was said of it holds: %s', async (_, row, verdict) => {
    const { page } = await opened(VIEW, 'preparer', [place(), row])
    expect(words(page)).toContain(verdict)
  })

  it('take who collects, from a day on', async () => {
    const { page, asked } = await opened(VIEW, 'preparer', [place(), PALISADE])
    expect(page.find('[data-place=PL]').text()).toContain('5, 2 by marketplaces')
    expect(page.find('[data-unsplit]').exists()).toBe(false)
    expect(words(page)).toContain('2 documents of 80.00 USD lie in no country or region of the baseline')
    expect(page.find('[data-place=WN]').text()).toContain('we collect, from January 1, 2024')
    await page.find('[aria-label="Say who collects in Palisade"]').trigger('click')
    const form = page.find('.spans')
    await form.find('select').setValue('nobody')
    await form.find('input.wide').setValue('below the threshold')
    await form.trigger('submit')
    await flushPromises()
    expect(asked.find(({ method }) => method === 'PUT')?.body).toEqual({
      versions: [{ answer: 'nobody', why: 'below the threshold', from: '2026-09-01', to: null }],
    })
  })
})
