import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import AlignPage from './AlignPage.vue'

// jsdom lays nothing out: without a height no row would be in sight.
import { view, at } from '../../test/alignView.ts'

beforeEach(() => vi.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(600))
afterEach(() => vi.unstubAllGlobals())
afterEach(() => vi.restoreAllMocks())

describe('many rows of a grid', () => {
  it('selects rows with x, previews what would be done to all of them, and does it under the revision that was shown', async () => {
    const preview = {
      action: 'send',
      revision: 'r7',
      does: [
        {
          row: 'Fenwick Falls',
          system: 'Ledger',
          changes: [{ field: 'Name', from: 'Fenwik', to: 'Fenwick' }],
        },
      ],
      skips: [{ row: 'Rest of state', system: 'Billing', why: 'nothing of it can be sent there' }],
      total: 1,
      skipped: 1,
    }
    const asked = answers({
      '/align/rates': view,
      '/path': PATH,
      '/align/bulk/preview': preview,
      '/align/bulk': { run: 'r1' },
      '/align/batches': { batches: [] },
      '/runs/r1': {
        id: 'r1',
        kind: 'bulk',
        state: 'done',
        step: '',
        total: 1,
        done: 1,
        failed: 0,
        startedBy: '',
        problem: null,
        problems: [],
        pulled: [],
      },
    })
    const { page, press } = await mountIn(AlignPage, at)
    for (const key of ['j', 'x', 'j', 'x']) await press(key)
    expect(page.find('[data-selected]').text()).toContain('2 selected')
    await page
      .findAll('[data-selected] button')
      .find((b) => b.text() === 'Send the baseline’s values')
      ?.trigger('click')
    await flushPromises()
    const dialog = document.querySelector('[data-bulk]')
    expect([
      dialog?.textContent?.includes('Fenwick FallsLedgerName: Fenwik → Fenwick'),
      dialog?.textContent?.includes('nothing of it can be sent there'),
    ]).toEqual([true, true])
    dialog?.querySelector<HTMLButtonElement>('[data-begin]')?.click()
    await flushPromises()
    const rows = { ids: ['FEN', 'RES'] }
    expect(asked.filter((a) => a.method === 'POST').map((a) => a.body)).toEqual([
      { kind: 'rates', action: 'send', systemId: null, reason: null, rows },
      { request: { kind: 'rates', action: 'send', systemId: null, reason: null, rows }, revision: 'r7' },
    ])
    expect(page.find('[data-selected]').exists()).toBe(false)
  })

  it('takes all that the filter leaves, and leaves findings only with a reason', async () => {
    const asked = answers({
      '/align/rates': { ...view, total: 900 },
      '/path': PATH,
      '/align/batches': { batches: [] },
      '/align/bulk/preview': { action: 'leave', revision: 'r', does: [], skips: [], total: 0, skipped: 0 },
    })
    const { page, press } = await mountIn(AlignPage, { ...at, query: { only: 'differs' } })
    await press('j')
    await press('x')
    await page
      .findAll('[data-selected] button')
      .find((b) => b.text() === 'select all 900')
      ?.trigger('click')
    await page
      .findAll('[data-selected] button')
      .find((b) => b.text() === 'Leave their findings')
      ?.trigger('click')
    await page.find('[data-selected] input').setValue('Agreed with the county')
    await page.find('[data-selected] form').trigger('submit')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')?.body).toEqual({
      kind: 'rates',
      action: 'leave',
      systemId: null,
      reason: 'Agreed with the county',
      rows: { filter: { only: 'differs' } },
    })
  })

  it('takes back what was done last, where it can be', async () => {
    const batch = {
      id: '4',
      action: 'send',
      says: '7 rows',
      person: 'Kofi Imre',
      at: '2026-10-02T12:00:00Z',
      size: 7,
      undoneBy: null,
      canUndo: true,
    }
    const asked = answers({
      '/align/rates': view,
      '/path': PATH,
      '/align/batches': { batches: [batch, { ...batch, id: '3', action: 'create', canUndo: false }] },
      '/align/undo': { run: 'r1' },
    })
    const { page } = await mountIn(AlignPage, at)
    expect(page.findAll('[data-latest] li').map((li) => li.text())).toEqual([
      expect.stringMatching(/^Sent 7 rows.*Take back$/s),
      expect.stringMatching(/^Made 7 rows.*removed in its system$/s),
    ])
    await page.find('[data-latest] button').trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')).toMatchObject({
      path: expect.stringContaining('/align/undo') as string,
      body: { batchId: '4' },
    })
  })
})
