import type { GridObject, GridView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import AlignPage from './AlignPage.vue'

// jsdom lays nothing out: without a height no row would be in sight.
beforeEach(() => vi.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(600))
afterEach(() => vi.unstubAllGlobals())
afterEach(() => vi.restoreAllMocks())

const object = (changes: Partial<GridObject>): GridObject => ({ id: 't1', name: 'Fenwick', linked: true, agrees: true, words: '7.45 %', evidence: ['same-code'], clear: false, names: null, fields: [], finding: 'ledger|combined-rate|t1', ...changes })
const remedy = { kind: 'component-percent', systemId: 'ledger', objectId: 't1', jurisdictionId: 'HOLLIS' } as const
const view: GridView = {
  kind: 'rates', currency: 'USD', clearLinks: 3, findings: 3, stake: '12.00', offset: 0, total: 3, inBaseline: 2,
  byCode: [{ code: 'AXION_RATE_PERCENT', title: 'Another percent', severity: 'costs', findings: 1, stake: '12.00' }],
  systems: [{ id: 'ledger', name: 'Ledger', role: 'ledger', webAddress: 'https://books.example', pulledAt: '2026-10-02T12:00:00Z', changes: 1 }, { id: 'billing', name: 'Billing', role: 'billing', webAddress: null, pulledAt: '2026-10-02T12:00:00Z', changes: 0 }],
  rows: [
    {
      id: 'FEN', name: 'Fenwick Falls', group: 'Wendover', detail: '5.50 + 1.45', total: '6.95 %', extra: null, keys: 'ledger|combined-rate|t1', documents: 4,
      findings: [{ key: 'FEN 0', code: 'AXION_RATE_PERCENT', severity: 'costs', says: 'Ledger has Fenwick Falls at 6.75 %, not 6.95 %.', mend: 'Send it.', system: 'Ledger', systemId: 'ledger', left: null }], stake: '12.00',
      cells: [
        { systemId: 'ledger', state: 'differs', words: '6.75, not 6.95', remedies: [remedy], objects: [object({ agrees: false, words: '6.75, not 6.95', fields: [{ field: 'Hollis', ours: '1.45 %', theirs: '1.25 %', agrees: false }] })] },
        { systemId: 'billing', state: 'proposed', words: '6.95 %', remedies: [], objects: [object({ id: 'b1', linked: false, evidence: ['near-name'], names: { left: [{ text: 'Fenwick', same: true }], right: [{ text: 'Fenwick', same: true }, { text: ' ', same: false }] } })] },
      ],
    },
    { id: 'RES', name: 'Rest of state', group: 'Wendover', detail: '5.50', total: '5.50 %', extra: null, keys: '', findings: [], documents: 9, stake: '0.00', cells: [{ systemId: 'ledger', state: 'agrees', words: '5.50 %', objects: [object({})], remedies: [] }, { systemId: 'billing', state: 'agrees', words: '5.50 %', objects: [object({})], remedies: [] }] },
    {
      id: 'billing x1', name: 'By hand', group: 'Held by a system, and linked to nothing', detail: 'in Billing', total: '', keys: 'billing|combined-rate|x1', findings: [], documents: 0, stake: '0.00',
      extra: { systemId: 'billing', system: 'Billing', objectId: 'x1', candidates: [{ id: 'FEN', name: 'Fenwick Falls', evidence: ['near-name'] }] },
      cells: [{ systemId: 'ledger', state: 'none', words: '', objects: [], remedies: [] }, { systemId: 'billing', state: 'differs', words: '8.95 by hand, no parts', remedies: [], objects: [object({ id: 'x1', name: 'By hand', linked: false, agrees: false, words: '8.95 by hand, no parts' })] }],
    },
  ],
}
const at = { path: '/larkspur/2026-09/align/rates' }

describe('the agreement grid', () => {
  it('says how many findings put how much at stake, and marks each cell by word and shape', async () => {
    answers({ '/align/rates': view, '/path': PATH })
    const { page } = await mountIn(AlignPage, at)
    expect(page.find('[data-verdict]').text()).toBe('No: 3 findings put 12.00 USD of the month’s tax at stake')
    expect(page.findAll('[data-row] [data-cell]').map((c) => [c.attributes('data-state'), c.find('.state').classes().at(-1)])).toEqual([['differs', 'breaks'], ['proposed', 'asks'], ['agrees', 'holds'], ['agrees', 'holds']])
    expect(page.text()).toContain('1 change')
  })

  it('opens a row into its fields, and shows what is odd in a name', async () => {
    answers({ '/align/rates': view, '/path': PATH })
    const { page, press } = await mountIn(AlignPage, at)
    await press('j')
    expect(page.find('[data-object="t1"] .field').text()).toContain('1.25 %')
    expect(page.find('[data-object="b1"] .odd').text()).toBe('␣')
    expect(page.find('[data-object="b1"]').text()).toContain('a name that nearly matches')
    expect(page.find('[data-finding="AXION_RATE_PERCENT"]').text()).toContain('puts tax at stake Ledger has Fenwick Falls at 6.75 %')
    expect(page.find('[data-object="t1"] a').attributes('href')).toBe('https://books.example')
  })

  it('accepts the row’s links with a, and all clear ones with the button', async () => {
    const asked = answers({ '/align/rates': view, '/path': PATH, '/links': { linked: 1 }, '/links/clear': { linked: 3 } })
    const { page, press } = await mountIn(AlignPage, at)
    await press('j')
    await press('a')
    expect(asked.filter((a) => a.method === 'PUT').map((a) => a.body)).toEqual([{ systemId: 'billing', kind: 'combined-rate', objectId: 'b1', baselineId: 'FEN' }])
    await page.findAll('button').find((b) => b.text() === 'Accept 3 clear links')?.trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')).toMatchObject({ path: expect.stringContaining('/links/clear') as string, body: { kinds: ['rates'] } })
  })

  it('links what is linked to nothing to what a person chooses', async () => {
    const asked = answers({ '/align/rates': view, '/align/rates/names': { names: [{ id: 'FEN', name: 'Fenwick Falls' }, { id: 'RES', name: 'Rest of state' }] }, '/path': PATH, '/links': { linked: 1 } })
    const { page } = await mountIn(AlignPage, at)
    await page.find('[data-extra="x1"] select').trigger('focus')
    await flushPromises()
    await page.find('[data-extra="x1"] select').setValue('RES')
    await page.find('[data-extra="x1"] button').trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.method === 'PUT')?.body).toEqual({ systemId: 'billing', kind: 'combined-rate', objectId: 'x1', baselineId: 'RES' })
  })

  it('leaves a finding with a reason, and not without', async () => {
    const asked = answers({ '/align/rates': view, '/path': PATH, '/align/left': { left: true } })
    const { page, press } = await mountIn(AlignPage, at)
    await press('j')
    await page.find('[data-finding] button').trigger('click')
    await page.find('[data-finding] input').setValue('Agreed with the county')
    await page.find('[data-finding] form').trigger('submit')
    await flushPromises()
    expect(asked.find((a) => a.method === 'PUT')).toMatchObject({ path: expect.stringContaining('/align/left') as string, body: { kind: 'rates', rowId: 'FEN', code: 'AXION_RATE_PERCENT', systemId: 'ledger', reason: 'Agreed with the county' } })
  })

  it('previews what m would send, and sends nothing by itself', async () => {
    const asked = answers({ '/align/rates': view, '/path': PATH, '/mend/preview': { remedy, system: 'Ledger', object: 'Fenwick', revision: '1', changes: [{ field: 'Hollis', from: '1.25 %', to: '1.45 %' }], journal: [], documents: 0, unproved: '0.00', currency: 'USD' } })
    const { press } = await mountIn(AlignPage, at)
    await press('j')
    await press('m')
    expect(document.querySelector('[data-mend]')?.textContent).toContain('No booked document rests on it')
    expect(asked.filter((a) => a.method === 'POST').map((a) => a.path)).toEqual([expect.stringContaining('/mend/preview')])
  })

  it('asks for what differs, for what is searched, and for further rows as they come into sight', async () => {
    const asked = answers({ '/align/rates': { ...view, total: 900 }, '/path': PATH })
    const { page, press } = await mountIn(AlignPage, at)
    await press('f')
    await page.find('input[type="search"]').setValue('fen')
    await page.find('input[type="search"]').trigger('change')
    await flushPromises()
    expect(asked.map((a) => a.path.split('?')[1]).filter((q) => q?.includes('offset'))).toEqual(['offset=0&limit=200', 'only=differs&offset=0&limit=200', 'only=differs&search=fen&offset=0&limit=200'])
    expect(page.find('.push').text()).toBe('900 rows, 2 in the baseline')
    expect(page.findAll('tbody tr').length).toBeLessThan(60)
  })
})
