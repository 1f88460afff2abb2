import type { GridView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import AlignPage from './AlignPage.vue'

// jsdom lays nothing out: without a height no row would be in sight.
import { view, at } from '../../test/alignView.ts'

beforeEach(() => vi.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(600))
afterEach(() => vi.unstubAllGlobals())
afterEach(() => vi.restoreAllMocks())

describe('what is done with one row', () => {
  it('makes what a system lacks, and posts a kind of amount to an account of the right type', async () => {
    const create = { kind: 'create', align: 'accounts', systemId: 'ledger', baselineId: 'FEN' } as const
    const [first] = view.rows as [(typeof view.rows)[number]]
    const lacking: GridView = {
      ...view,
      kind: 'accounts',
      rows: [
        {
          ...first,
          total: '1060',
          cells: [{ systemId: 'ledger', state: 'absent', words: 'absent', objects: [], remedies: [create] }],
        },
      ],
      systems: view.systems.slice(0, 1),
      total: 1,
    }
    const asked = answers({
      '/align/accounts': lacking,
      '/path': PATH,
      '/align/batches': { batches: [] },
      '/accounts/choices': {
        systemId: 'ledger',
        kind: 'clearing',
        keptFor: null,
        accounts: [
          { number: '1060', name: 'Cash' },
          { number: '1071', name: 'Cards' },
        ],
        opens: '1061',
        spans: [
          { account: '1050', name: 'Till', from: null, to: '2026-08-31' },
          { account: '1060', name: 'Cash', from: '2026-09-01', to: null },
        ],
        changes: [
          {
            at: '2026-10-02T12:00:00Z',
            person: 'Kofi Imre',
            before: '1050 Till',
            after: '1060 Cash',
            from: '2026-09-01',
          },
        ],
      },
      '/accounts/1060/purpose': { kinds: 1 },
      '/mend/preview': { status: 422, title: 'No.' },
    })
    const { page, press } = await mountIn(AlignPage, { path: '/larkspur/2026-09/align/accounts' })
    await press('j')
    await flushPromises()
    await page.find('[data-lacking="ledger"] button').trigger('click')
    await flushPromises()
    expect(page.findAll('[aria-label="Account it is posted to"] option').map((o) => o.text())).toEqual([
      'choose an account',
      '1071 Cards',
      'a new account',
    ])
    expect(page.findAll('.versions li').map((li) => li.text().replace(/\s+/g, ' '))).toEqual([
      '1050 Till from the beginning to August 31, 2026',
      '1060 Cash from September 1, 2026 on',
      expect.stringMatching(/Kofi Imre: 1050 Till → 1060 Cash, from September 1, 2026$/),
    ])
    await page.find('[aria-label="Account it is posted to"]').setValue('1071')
    await page.find('form.choice').trigger('submit')
    await flushPromises()
    expect(asked.filter((a) => a.method === 'POST').map((a) => a.body)).toEqual([
      { remedy: create },
      { remedy: { kind: 'post-to', systemId: 'ledger', ruleId: 'FEN', account: '1071' } },
    ])
    await page.find('[aria-label="Account it is posted to"]').setValue('+')
    await page.find('form.choice').trigger('submit')
    await page.find('form.choice input').setValue('1069')
    await page.find('form.choice').trigger('submit')
    await flushPromises()
    expect(
      asked
        .filter((a) => a.method === 'POST')
        .slice(2)
        .map((a) => (a.body as { remedy: object }).remedy),
    ).toEqual(
      ['1061', '1069'].map((account) => ({
        kind: 'post-to',
        systemId: 'ledger',
        ruleId: 'FEN',
        account,
        opens: true,
      })),
    )
    await page.find('[data-purpose] button').trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.method === 'PUT')).toMatchObject({
      path: expect.stringContaining('/align/accounts/1060/purpose') as string,
      body: { kinds: ['clearing'] },
    })
  })

  it('lets an account be named before it is made', async () => {
    const create = { kind: 'create', align: 'accounts', systemId: 'ledger', baselineId: 'FEN' } as const
    const [first] = view.rows as [(typeof view.rows)[number]]
    const lacking: GridView = {
      ...view,
      kind: 'accounts',
      rows: [
        {
          ...first,
          total: '1060',
          cells: [{ systemId: 'ledger', state: 'absent', words: 'absent', objects: [], remedies: [create] }],
        },
      ],
      systems: view.systems.slice(0, 1),
      total: 1,
    }
    const asked = answers({
      '/align/accounts': lacking,
      '/path': PATH,
      '/align/batches': { batches: [] },
      '/accounts/choices': {
        systemId: 'ledger',
        kind: 'clearing',
        keptFor: ['clearing'],
        accounts: [],
        opens: null,
        spans: [],
        changes: [],
      },
      '/mend/preview': {
        remedy: create,
        system: 'Ledger',
        object: 'Cash',
        revision: '1',
        changes: [{ field: 'Name', from: '', to: 'Clearing, cash' }],
        journal: [],
        documents: 0,
        numbers: [],
        unproved: '0.00',
        currency: 'USD',
      },
    })
    const { page, press } = await mountIn(AlignPage, { path: '/larkspur/2026-09/align/accounts' })
    await press('j')
    await flushPromises()
    await page.find('[data-lacking="ledger"] button').trigger('click')
    await flushPromises()
    const name = page.find('[data-mend] .after input')
    expect((name.element as HTMLInputElement).value).toBe('Clearing, cash')
    await name.setValue('Cash drawer')
    await flushPromises()
    expect(asked.filter((a) => a.path.endsWith('/mend/preview')).map((a) => a.body)).toEqual([
      { remedy: create },
      { remedy: { ...create, name: 'Cash drawer' } },
    ])
  })

  it('records a certificate and attaches its file', async () => {
    const [first] = view.rows as [(typeof view.rows)[number]]
    const parties: GridView = {
      ...view,
      kind: 'parties',
      rows: [{ ...first, id: 'ostler', name: 'Ostler', cells: [] }],
      systems: [],
      total: 1,
    }
    const own = {
      code: 'c1',
      number: 'R-1',
      reason: 'resale',
      regions: ['WN'],
      from: '2023-07-01',
      to: '2026-06-30',
      files: [{ id: 'f1', name: 'scan.pdf', size: 2048, person: 'Kofi Imre', at: '2026-10-02T12:00:00Z' }],
    }
    const asked = answers({
      '/align/parties': parties,
      '/path': PATH,
      '/align/batches': { batches: [] },
      '/certificates/ostler': {
        claims: 'resale',
        certificates: [own],
        regions: [{ id: 'WN', name: 'Wendover', reasons: ['resale'] }],
      },
      '/certificates/ostler/files': { file: 'f2' },
    })
    const { page, press } = await mountIn(AlignPage, { path: '/larkspur/2026-09/align/parties' })
    await press('j')
    await flushPromises()
    expect(page.find('[data-certificate="c1"]').text().replace(/\s+/g, ' ')).toContain(
      'R-1resaleWendover2023-07-012026-06-30scan.pdf 2 kB',
    )
    await page
      .findAll('button')
      .find((b) => b.text().startsWith('Record a certificate'))
      ?.trigger('click')
    for (const [at, value] of [
      [0, 'R-2'],
      [2, '2026-10-01'],
    ] as const)
      await page.findAll('.new input')[at]?.setValue(value)
    await page.find('.new').trigger('submit')
    await flushPromises()
    expect(asked.find((a) => a.method === 'PUT')?.body).toEqual({
      code: null,
      number: 'R-2',
      reason: 'resale',
      regions: ['WN'],
      from: '2026-10-01',
      to: null,
    })
    const input = page.find('[aria-label="Attach a file to R-1"]')
    Object.defineProperty(input.element, 'files', { value: [new File(['%PDF-'], 'new.pdf')] })
    await input.trigger('change')
    await flushPromises()
    expect(asked.find((a) => a.path.includes('/files?'))?.path).toContain('certificate=c1&name=new.pdf')
  })

  it('sets a posting rule for one item alone', async () => {
    const asked = answers({
      '/align/accounts': { ...view, kind: 'accounts' },
      '/path': PATH,
      '/align/batches': { batches: [] },
      '/align/items/names': { names: [{ id: 'SMOKER', name: 'Smoker' }] },
      '/accounts/choices': {
        systemId: 'ledger',
        kind: 'revenue',
        keptFor: null,
        accounts: [{ number: '4100', name: 'Other sales' }],
        opens: null,
        spans: [],
        changes: [],
      },
      '/mend/preview': { status: 422, title: 'No.' },
    })
    const { page } = await mountIn(AlignPage, { path: '/larkspur/2026-09/align/accounts' })
    await page.find('.rule button').trigger('click')
    await flushPromises()
    await page.find('[aria-label="Which one"]').setValue('SMOKER')
    await flushPromises()
    await page.find('.rule [aria-label="Account it is posted to"]').setValue('4100')
    await page.find('.rule form.choice').trigger('submit')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')?.body).toEqual({
      remedy: { kind: 'post-to', systemId: 'ledger', ruleId: 'revenue item SMOKER', account: '4100' },
    })
  })

  it('shows a rate through time, across the systems', async () => {
    const span = (from: string, to: string | null, ours: string, theirs: string): object => ({
      from,
      to,
      ours,
      systems: [{ system: 'Ledger', name: 'Fenwick', percent: theirs, agrees: ours === theirs, flat: false }],
    })
    answers({
      '/align/rates': view,
      '/path': PATH,
      '/align/batches': { batches: [] },
      '/align/rates/FEN/timeline': {
        name: 'Fenwick Falls',
        spans: [span('2024-01-01', '2026-08-31', '6.75', '6.75'), span('2026-09-01', null, '6.95', '6.75')],
      },
    })
    const { page, press } = await mountIn(AlignPage, at)
    await press('j')
    await flushPromises()
    const bars = (place: number): string[] =>
      (page.findAll('.timeline .lane')[place]?.findAll('.bar') ?? []).map(
        (bar) => `${bar.text()}${bar.classes('differs') ? ' differs' : ''}`,
      )
    expect([bars(0), bars(1)]).toEqual([
      ['6.75', '6.95'],
      ['6.75', '6.75, not 6.95 differs'],
    ])
    expect(page.findAll('.timeline tr').map((row) => row.text().replace(/\s+/g, ' '))).toEqual([
      'Baseline6.75, from January 1, 2024 to August 31, 20266.95, from September 1, 2026 on',
      expect.stringMatching(/^Ledger6\.75, from January.*6\.75, not 6\.95, from September 1, 2026 on$/),
    ])
    // Each version begins where the one before it ends.
    const styles = page
      .findAll('.timeline .lane .bar')
      .slice(0, 2)
      .map((bar) => bar.attributes('style') ?? '')
    const [left, width] = [/left: ([\d.]+)%/, /calc\(([\d.]+)%/].map(
      (of) => (at: number) => Number(of.exec(styles[at] ?? '')?.[1]),
    )
    expect((left?.(0) ?? NaN) + (width?.(0) ?? NaN)).toBeCloseTo(left?.(1) ?? NaN, 3)
  })
})
