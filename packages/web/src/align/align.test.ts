import type { DefaultsView, GridObject, GridView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, NO_LIMITS, PATH } from '../../test/mounting.ts'
import AlignPage from './AlignPage.vue'

// jsdom lays nothing out: without a height no row would be in sight.
beforeEach(() => vi.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(600))
afterEach(() => vi.unstubAllGlobals())
afterEach(() => vi.restoreAllMocks())

const object = (changes: Partial<GridObject>): GridObject => ({
  id: 't1',
  name: 'Fenwick',
  linked: true,
  gone: false,
  agrees: true,
  words: '7.45 %',
  evidence: ['same-code'],
  clear: false,
  names: null,
  fields: [],
  finding: 'ledger|combined-rate|t1',
  ...changes,
})
const remedy = {
  kind: 'component-percent',
  systemId: 'ledger',
  objectId: 't1',
  jurisdictionId: 'HOLLIS',
} as const
const view: GridView = {
  kind: 'rates',
  currency: 'USD',
  clearLinks: 3,
  clearInAll: 3,
  limits: NO_LIMITS,
  findings: 3,
  stake: '12.00',
  offset: 0,
  total: 3,
  inBaseline: 2,
  byCode: [
    { code: 'AXION_RATE_PERCENT', title: 'Another percent', severity: 'costs', findings: 1, stake: '12.00' },
  ],
  systems: [
    {
      id: 'ledger',
      name: 'Ledger',
      role: 'ledger',
      webAddress: 'https://books.example',
      pulledAt: '2026-10-02T12:00:00Z',
      changes: 1,
    },
    {
      id: 'billing',
      name: 'Billing',
      role: 'billing',
      webAddress: null,
      pulledAt: '2026-10-02T12:00:00Z',
      changes: 0,
    },
  ],
  rows: [
    {
      id: 'FEN',
      name: 'Fenwick Falls',
      group: 'Wendover',
      detail: '5.50 + 1.45',
      total: '6.95 %',
      extra: null,
      keys: 'ledger|combined-rate|t1',
      documents: 4,
      findings: [
        {
          key: 'FEN 0',
          code: 'AXION_RATE_PERCENT',
          severity: 'costs',
          says: 'Ledger has Fenwick Falls at 6.75 %, not 6.95 %.',
          mend: 'Send it.',
          system: 'Ledger',
          systemId: 'ledger',
          left: null,
        },
      ],
      stake: '12.00',
      moved: null,
      shared: false,
      cells: [
        {
          systemId: 'ledger',
          state: 'differs',
          words: '6.75, not 6.95',
          remedies: [remedy],
          objects: [
            object({
              agrees: false,
              words: '6.75, not 6.95',
              fields: [{ field: 'Hollis', ours: '1.45 %', theirs: '1.25 %', agrees: false }],
            }),
          ],
        },
        {
          systemId: 'billing',
          state: 'proposed',
          words: '6.95 %',
          remedies: [],
          objects: [
            object({
              id: 'b1',
              linked: false,
              evidence: ['near-name'],
              names: {
                left: [{ text: 'Fenwick', same: true }],
                right: [
                  { text: 'Fenwick', same: true },
                  { text: ' ', same: false },
                ],
              },
            }),
          ],
        },
      ],
    },
    {
      id: 'RES',
      name: 'Rest of state',
      group: 'Wendover',
      detail: '5.50',
      total: '5.50 %',
      extra: null,
      keys: '',
      findings: [],
      documents: 9,
      stake: '0.00',
      moved: null,
      shared: false,
      cells: [
        { systemId: 'ledger', state: 'agrees', words: '5.50 %', objects: [object({})], remedies: [] },
        { systemId: 'billing', state: 'agrees', words: '5.50 %', objects: [object({})], remedies: [] },
      ],
    },
    {
      id: 'billing x1',
      name: 'By hand',
      group: 'Held by a system, and linked to nothing',
      detail: 'in Billing',
      total: '',
      keys: 'billing|combined-rate|x1',
      findings: [],
      documents: 0,
      stake: '0.00',
      moved: null,
      shared: false,
      extra: {
        systemId: 'billing',
        system: 'Billing',
        objectId: 'x1',
        candidates: [{ id: 'FEN', name: 'Fenwick Falls', evidence: ['near-name'] }],
      },
      cells: [
        { systemId: 'ledger', state: 'none', words: '', objects: [], remedies: [] },
        {
          systemId: 'billing',
          state: 'differs',
          words: '8.95 by hand, no parts',
          remedies: [],
          objects: [
            object({
              id: 'x1',
              name: 'By hand',
              linked: false,
              agrees: false,
              words: '8.95 by hand, no parts',
            }),
          ],
        },
      ],
    },
  ],
}
const at = { path: '/larkspur/2026-09/align/rates' }

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
