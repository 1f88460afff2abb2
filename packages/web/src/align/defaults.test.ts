import type { DefaultsView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import AlignPage from './AlignPage.vue'

// jsdom lays nothing out: without a height no row would be in sight.
import { view } from '../../test/alignView.ts'

beforeEach(() => vi.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(600))
afterEach(() => vi.unstubAllGlobals())
afterEach(() => vi.restoreAllMocks())

describe('what new items and customers start with', () => {
  const DEFAULTS: DefaultsView = {
    itemTaxCode: 'GOODS',
    partiesTaxable: null,
    newItems: 'left-open',
    codes: [
      { id: 'GOODS', name: 'Goods' },
      { id: 'FOOD', name: 'Food' },
    ],
    items: 212,
    parties: 9,
    systems: [
      { name: 'Billing', code: 'GOODS', newPartiesTaxable: null, onDefault: 3, items: 40, parties: 12 },
      { name: 'Tills', code: 'GOODS', newPartiesTaxable: null, onDefault: 0, items: 8, parties: 0 },
    ],
  }

  test.each<[string, string, string, RegExp, object]>([
    [
      'items',
      'New items start under',
      'FOOD',
      /The 212 items agreed upon keep their codes; what stands on a system’s own default stays there until it is changed in it: 3 in Billing, on GOODS\./,
      { itemTaxCode: 'FOOD', partiesTaxable: null, newItems: 'left-open' },
    ],
    [
      'items',
      'An item that only documents name is',
      'taken-in',
      /Each is taken in under its system’s code, or else under Goods; Post says so beside the document/,
      { itemTaxCode: 'GOODS', partiesTaxable: null, newItems: 'taken-in' },
    ],
    [
      'parties',
      'New customers start as',
      'yes',
      /The 9 parties agreed upon, and whoever a system holds by now, stay as they are\./,
      { itemTaxCode: 'GOODS', partiesTaxable: true, newItems: 'left-open' },
    ],
  ])(
    'says of %s what a change leaves as it is, before anybody agrees on it',
    async (kind, label, value, says, body) => {
      const asked = answers({
        [`/align/${kind}`]: { ...view, kind },
        '/align/defaults': DEFAULTS,
        '/path': PATH,
      })
      const { page } = await mountIn(AlignPage, { path: `/larkspur/2026-09/align/${kind}` })
      expect(page.find('[data-defaults] button').exists()).toBe(false)
      await page.find(`[aria-label="${label}"]`).setValue(value)
      expect(page.find('[data-defaults]').text()).toMatch(says)
      await page.find('[data-defaults]').trigger('submit')
      await flushPromises()
      expect(asked.find((a) => a.method === 'PUT')).toMatchObject({
        path: expect.stringContaining('/align/defaults') as string,
        body,
      })
    },
  )
})
