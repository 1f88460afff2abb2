import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import AlignPage from './AlignPage.vue'

// jsdom lays nothing out: without a height no row would be in sight.
import { remedy, view, at } from '../../test/alignView.ts'

beforeEach(() => vi.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(600))
afterEach(() => vi.unstubAllGlobals())
afterEach(() => vi.restoreAllMocks())

describe('the agreement grid', () => {
  it('says how many findings put how much at stake, and marks each cell by word and shape', async () => {
    answers({ '/align/rates': view, '/path': PATH })
    const { page } = await mountIn(AlignPage, at)
    expect(page.find('[data-verdict]').text()).toBe(
      'No: 3 findings put 12.00 USD of the month’s tax at stake',
    )
    expect(
      page
        .findAll('[data-row] [data-cell]')
        .map((c) => [c.attributes('data-state'), c.find('.state').classes().at(-1)]),
    ).toEqual([
      ['differs', 'breaks'],
      ['proposed', 'asks'],
      ['agrees', 'holds'],
      ['agrees', 'holds'],
    ])
    expect(page.text()).toContain('1 change')
  })

  it('opens a row into its fields, and shows what is odd in a name', async () => {
    answers({ '/align/rates': view, '/path': PATH })
    const { page, press } = await mountIn(AlignPage, at)
    await press('j')
    expect(page.find('[data-object="t1"] .field').text()).toContain('1.25 %')
    expect(page.find('[data-object="b1"] .odd').text()).toBe('␣')
    expect(page.find('[data-object="b1"]').text()).toContain('a name that nearly matches')
    expect(page.find('[data-finding="AXION_RATE_PERCENT"]').text().replace(/\s+/g, ' ')).toContain(
      'puts tax at stake Ledger has Fenwick Falls at 6.75 %',
    )
    expect(page.find('[data-object="t1"] a').attributes('href')).toBe('https://books.example')
  })

  it('accepts the row’s links with a, and all clear ones with the button', async () => {
    const asked = answers({
      '/align/rates': view,
      '/path': PATH,
      '/links': { linked: 1 },
      '/links/clear': { linked: 3 },
    })
    const { page, press } = await mountIn(AlignPage, at)
    await press('j')
    await press('a')
    expect(asked.filter((a) => a.method === 'PUT').map((a) => a.body)).toEqual([
      { systemId: 'billing', kind: 'combined-rate', objectId: 'b1', baselineId: 'FEN' },
    ])
    await page
      .findAll('button')
      .find((b) => b.text() === 'Accept 3 clear links')
      ?.trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')).toMatchObject({
      path: expect.stringContaining('/links/clear') as string,
      body: { kinds: ['rates'] },
    })
  })

  it('links what is linked to nothing to what a person chooses', async () => {
    const asked = answers({
      '/align/rates': view,
      '/align/rates/names': {
        names: [
          { id: 'FEN', name: 'Fenwick Falls' },
          { id: 'RES', name: 'Rest of state' },
        ],
      },
      '/path': PATH,
      '/links': { linked: 1 },
    })
    const { page } = await mountIn(AlignPage, at)
    await page.find('[data-extra="x1"] input[list]').setValue('RES')
    await flushPromises()
    await page.find('[data-extra="x1"] td.candidates button').trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.method === 'PUT')?.body).toEqual({
      systemId: 'billing',
      kind: 'combined-rate',
      objectId: 'x1',
      baselineId: 'RES',
    })
  })

  it('leaves a finding with a reason, and not without', async () => {
    const asked = answers({ '/align/rates': view, '/path': PATH, '/align/left': { left: true } })
    const { page, press } = await mountIn(AlignPage, at)
    await press('j')
    await page.find('[data-finding] button').trigger('click')
    await page.find('[data-finding] input').setValue('Agreed with the county')
    await page.find('[data-finding] form').trigger('submit')
    await flushPromises()
    expect(asked.find((a) => a.method === 'PUT')).toMatchObject({
      path: expect.stringContaining('/align/left') as string,
      body: {
        kind: 'rates',
        rowId: 'FEN',
        code: 'AXION_RATE_PERCENT',
        systemId: 'ledger',
        reason: 'Agreed with the county',
      },
    })
  })

  it('previews what m would send, and sends nothing by itself', async () => {
    const asked = answers({
      '/align/rates': view,
      '/path': PATH,
      '/mend/preview': {
        remedy,
        system: 'Ledger',
        object: 'Fenwick',
        revision: '1',
        changes: [{ field: 'Hollis', from: '1.25 %', to: '1.45 %' }],
        journal: [],
        documents: 0,
        numbers: [],
        unproved: '0.00',
        currency: 'USD',
      },
    })
    const { press } = await mountIn(AlignPage, at)
    await press('j')
    await press('m')
    expect(document.querySelector('[data-mend]')?.textContent).toContain('No booked document rests on it')
    expect(asked.filter((a) => a.method === 'POST').map((a) => a.path)).toEqual([
      expect.stringContaining('/mend/preview'),
    ])
  })

  it('says of a grid without rows whether a filter left none, or there are none', async () => {
    answers({ '/align/rates': { ...view, rows: [], total: 0 }, '/path': PATH })
    const { page, press } = await mountIn(AlignPage, at)
    expect(page.find('.empty').text()).toMatch(/Neither the baseline nor a system has any/)
    await press('f')
    await flushPromises()
    expect(page.find('.empty').text()).toMatch(/No row fits the filter/)
  })

  it('asks for what differs, for what is searched, and for further rows as they come into sight', async () => {
    const asked = answers({ '/align/rates': { ...view, total: 900 }, '/path': PATH })
    const { page, press } = await mountIn(AlignPage, at)
    await press('f')
    await page.find('input[type="search"]').setValue('fen')
    await page.find('input[type="search"]').trigger('change')
    await flushPromises()
    expect(asked.map((a) => a.path.split('?')[1]).filter((q) => q?.includes('offset'))).toEqual([
      'offset=0&limit=200',
      'only=differs&offset=0&limit=200',
      'only=differs&search=fen&offset=0&limit=200',
    ])
    expect(page.find('.push').text()).toBe('900 rows, 2 in the baseline')
    expect(page.findAll('tbody tr').length).toBeLessThan(60)
  })
})
