import type { TieOutView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn, NO_LIMITS, NONE_LEFT, PATH } from '../../test/mounting.ts'
import TieOutPage from './TieOutPage.vue'

afterEach(() => vi.unstubAllGlobals())

const remedy = { kind: 'liability-account', systemId: 'ledger', objectId: 'a1' } as const
const view: TieOutView = {
  currency: 'USD',
  unproved: '12.00',
  unprovedNet: '0.00',
  expected: '100.00',
  documents: 2,
  proved: 5,
  pulled: true,
  awaits: [],
  choices: { systems: [], kinds: [] },
  next: null,
  notFresh: [],
  kept: { kept: 0, cured: 0, over: '0.00', under: '0.00', waiting: 0 },
  notPosted: NONE_LEFT,
  resting: null,
  overridden: false,
  causes: [
    {
      key: 'k1',
      facts: { kind: 'liability-account', system: 'Ledger', agency: 'City', theirs: '2222', ours: '2214' },
      others: [],
      headline: 'account',
      documents: 1,
      unproved: '9.00',
      unprovedNet: '0.00',
      remedies: [remedy],
      asks: false,
      keepable: 0,
      keptWaiting: 0,
      unsearched: { bounded: 0, waiting: 0 },
    },
    {
      key: 'k2',
      facts: { kind: 'missing', why: 'failed' },
      others: [],
      headline: 'missing',
      documents: 1,
      unproved: '3.00',
      unprovedNet: '0.00',
      remedies: [],
      asks: false,
      keepable: 0,
      keptWaiting: 0,
      unsearched: { bounded: 0, waiting: 0 },
    },
  ],
  rows: [
    {
      unit: 'u1',
      number: 'LA-1',
      party: 'Blythe',
      date: '2026-09-01',
      agency: 'CPL',
      agencyName: 'City',
      account: '2214',
      stated: '9.00',
      expected: '9.00',
      booked: '0.00',
      unproved: '9.00',
      headline: 'account',
      facets: ['account', 'edited'],
      cause: 'k1',
      posted: true,
      proved: false,
      settled: null,
      first: true,
      known: 'yes',
      bookedUnnamed: false,
      unprovedAlone: false,
    },
    {
      unit: 'u1',
      number: 'LA-1',
      party: 'Blythe',
      date: '2026-09-01',
      agency: 'CPL',
      agencyName: 'City',
      account: '2222',
      stated: null,
      expected: null,
      booked: '9.00',
      unproved: '0.00',
      headline: 'account',
      facets: ['account'],
      cause: 'k1',
      posted: true,
      proved: false,
      settled: null,
      first: false,
      known: 'yes',
      bookedUnnamed: false,
      unprovedAlone: false,
    },
    {
      unit: 'u2',
      number: 'LA-2',
      party: 'Ravel',
      date: '2026-09-02',
      agency: 'CPL',
      agencyName: 'City',
      account: '2214',
      stated: '3.00',
      expected: '3.00',
      booked: null,
      unproved: '3.00',
      headline: 'missing',
      facets: ['missing'],
      cause: 'k2',
      posted: true,
      proved: false,
      settled: null,
      first: true,
      known: 'yes',
      bookedUnnamed: false,
      unprovedAlone: false,
    },
  ],
}
const sums = { documents: 2, stated: '12.00', expected: '12.00', booked: '9.00', unproved: '12.00' }
const preview = {
  remedy,
  system: 'Ledger',
  object: 'City',
  revision: '7',
  changes: [{ field: 'Liability account', from: '2222', to: '2214' }],
  journal: [],
  numbers: [],
  documents: 1,
  unproved: '9.00',
  currency: 'USD',
}

describe('Tie out', () => {
  it('says the verdict, the causes in words, and names a document once', async () => {
    answers({ '/tie-out': view, '/sums': sums, '/path': PATH })
    const { page } = await mountIn(TieOutPage, { path: '/larkspur/2026-09/tie-out' })
    expect(page.find('[data-verdict]').text()).toMatch(
      /12\.00 of 100\.00 USD not proved: 2 documents, 2 causes; 5 proved/,
    )
    expect(page.findAll('[data-cause] .sentence').map((s) => s.text())).toEqual([
      'Ledger posts the tax of City to 2222. It belongs in 2214.',
      'Not in the ledger. The ledger refused them, or did not answer.',
    ])
    // One thing has one mark, among the causes as in the rows.
    const marks = (of: string): string[][] =>
      page.findAll(`${of} .state`).map((mark) => [mark.text(), mark.classes().at(-1) ?? ''])
    expect(marks('[data-cause]')).toEqual([
      ['account', 'breaks'],
      ['missing', 'open'],
    ])
    expect(marks('[aria-label="Documents"]')).toContainEqual(['missing', 'open'])
    const rows = page
      .findAll('[aria-label="Documents"] tbody tr')
      .map((tr) => tr.findAll('td').map((td) => td.text()))
    expect(rows.map((r) => [r[0], r[7], r[9]])).toEqual([
      ['LA-1', '–', 'account, edited'],
      ['', '9.00', ''],
      ['LA-2', 'not booked', 'missing'],
    ])
  })

  it.each([
    [{ bounded: 0, waiting: 0 }, []],
    [
      { bounded: 0, waiting: 21 },
      ['Of 21 documents not every pair of mistakes was tried yet: each pull goes on with some.'],
    ],
    [
      { bounded: 1, waiting: 1 },
      [
        'Of 1 document not every pair of mistakes was tried yet: each pull goes on with some. Of 1 document more pairs of mistakes are possible than are tried of one.',
      ],
    ],
  ])('says of a cause how far explanations were looked for: %o', async (unsearched, says) => {
    const [first, ...others] = view.causes
    answers({ '/tie-out': { ...view, causes: [{ ...first, unsearched }, ...others] }, '/path': PATH })
    const { page } = await mountIn(TieOutPage, { path: '/larkspur/2026-09/tie-out' })
    expect(page.findAll('[data-unsearched]').map((one) => one.text())).toEqual(says)
  })

  it('says Yes of nothing over a change that is still to be proved', async () => {
    const limits = { ...NO_LIMITS, older: '2026-10-02T10:00:00Z' }
    answers({
      '/path': { ...PATH, connect: { ...PATH.connect, limits } },
      '/tie-out': { ...view, unproved: '0.00', documents: 0, causes: [], rows: [] },
    })
    const { page, month } = await mountIn(TieOutPage)
    await month.changed()
    await flushPromises()
    expect(page.find('[data-verdict]').text()).toMatch(/^Not known\./)
  })

  it('says Yes as the systems have it where documents stand on their own source’s word, with their sum, and lists them', async () => {
    const proved = { ...view, unproved: '0.00', documents: 0, causes: [], rows: [] }
    const resting = { tax: '0.00', alone: '0.00', things: 0, ownWord: true }
    const own = { ...sums, documents: 41, expected: '310.20' }
    const asked = answers({
      '/tie-out': { ...proved, resting, rows: view.rows },
      '/sums': own,
      '/path': PATH,
    })
    const { page, router } = await mountIn(TieOutPage, { path: '/larkspur/2026-09/tie-out' })
    expect(page.find('[data-verdict]').text()).toMatch(/^Yes, as the systems have it\./)
    expect(page.find('[data-own-word]').text()).toMatch(
      /^41 documents stand on the word of their own source.*310\.20 USD/,
    )
    // What nothing was seen of has no line that says nothing.
    expect(page.find('[data-resting]').exists()).toBe(false)
    await page.find('[data-own-word] a').trigger('click')
    await flushPromises()
    expect(router.currentRoute.value.query).toEqual({ show: 'own-word' })
    expect(asked.some((a) => a.path.endsWith('/tie-out?show=own-word'))).toBe(true)
    // Their sums are of no selector: what opened would be all of the month.
    expect(page.findAll('tfoot button')).toEqual([])
  })

  it('counts what a filter finds by itself: rows do not wait for it, and are no less where it is refused', async () => {
    const refusal = { status: 500, title: 'Something failed here.', detail: 'Try again.' }
    answers({ '/tie-out': view, '/sums': refusal, '/path': PATH })
    const { page } = await mountIn(TieOutPage, { path: '/larkspur/2026-09/tie-out' })
    expect(page.find('tfoot').text()).toBe('Not counted')
    expect(page.findAll('[aria-label="Documents"] tbody tr').length).toBeGreaterThan(0)
    expect(page.text()).toContain('Something failed here.')
  })

  it.each<[Record<string, string>, string]>([
    [{}, 'Nothing here is unproved'],
    [{ show: 'overridden' }, 'Nobody put another tax'],
    [{ show: 'own-word' }, 'No document stands on its own source’s word'],
    [{ search: 'nobody' }, 'Nothing matches'],
    [{ headline: 'amount' }, 'Nothing matches'],
  ])('says of a list that is empty under %j what that is', async (query, says) => {
    answers({ '/tie-out': { ...view, rows: [] }, '/path': PATH })
    const { page } = await mountIn(TieOutPage, { path: '/larkspur/2026-09/tie-out', query })
    expect(page.find('.empty').text()).toContain(says)
  })

  it('goes to the next cause with n, and reads its documents alone', async () => {
    const asked = answers({ '/tie-out': view, '/sums': sums, '/path': PATH })
    const { page, router, press } = await mountIn(TieOutPage, { path: '/larkspur/2026-09/tie-out' })
    await press('n')
    expect(router.currentRoute.value.query).toMatchObject({ cause: 'k1', open: 'of=unproved&cause=k1' })
    await press('n')
    expect(router.currentRoute.value.query['cause']).toBe('k2')
    expect(page.find('tr.chosen[data-cause]').attributes('data-cause')).toBe('k2')
    expect(asked.some((a) => a.path.endsWith('/tie-out?cause=k2'))).toBe(true)
  })

  it('shows exactly what would be sent before it sends it, under the revision that was shown', async () => {
    const asked = answers({
      '/tie-out': view,
      '/path': PATH,
      '/mend/tried': [{ remedy, leaves: 0, why: null }],
      '/mend/preview': preview,
      '/mend': { run: 'r1' },
      '/runs/r1': {
        id: 'r1',
        kind: 'mend',
        state: 'running',
        step: '',
        total: 1,
        done: 0,
        failed: 0,
        startedBy: '',
        problem: null,
        pulled: [],
      },
    })
    const { press } = await mountIn(TieOutPage, { path: '/larkspur/2026-09/tie-out' })
    await press('m')
    const dialog = document.querySelector('[data-mend]')
    expect(dialog?.textContent).toContain('2222')
    expect(dialog?.textContent).toContain('1 document with 9.00 USD not proved is booked again in place')
    expect(asked.some((a) => a.method === 'POST' && a.path.endsWith('/mend'))).toBe(false)
    dialog?.querySelector<HTMLButtonElement>('.do.first')?.click()
    await flushPromises()
    expect(asked.find((a) => a.path.endsWith('/mend'))?.body).toEqual({ remedy, revision: '7' })
  })

  it('keeps a filter in the address', async () => {
    answers({ '/tie-out': view, '/sums': sums, '/path': PATH })
    const { page, router } = await mountIn(TieOutPage, { path: '/larkspur/2026-09/tie-out' })
    await page.find('input[type="search"]').setValue('LA-2')
    await flushPromises()
    expect(router.currentRoute.value.query['search']).toBe('LA-2')
    const opens = page.findAll('tfoot [data-open]').map((a) => a.attributes('data-open'))
    expect(opens.every((open) => open?.includes('only=unproved') && open.includes('search=LA-2'))).toBe(true)
  })
})
