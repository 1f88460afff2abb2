import type { FilesView, ImportView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import FilesPage from './FilesPage.vue'

afterEach(() => vi.unstubAllGlobals())

const files: FilesView = {
  targets: [
    {
      id: 'baseline',
      name: 'The baseline',
      takes: true,
      sheets: [{ key: 'items', title: 'Items', rows: 15 }],
    },
    {
      id: 'ledger',
      name: 'Ledger',
      takes: false,
      sheets: [{ key: 'accounts', title: 'Accounts', rows: 20 }],
    },
  ],
  imports: [
    {
      id: 'i1',
      target: 'baseline',
      sheet: 'items',
      fileName: 'autumn.csv',
      state: 'read',
      total: 3,
      bad: 1,
      person: 'Kofi Imre',
      at: '2026-10-02T12:00:00Z',
    },
  ],
}
const changes = {
  added: 2,
  changed: 1,
  removed: 4,
  earlier: 1,
  same: 0,
  samples: [
    {
      kind: 'changed' as const,
      label: 'HIVE-8',
      fields: [{ field: 'name', from: 'Pine hive', to: 'Pine hive, 8' }],
    },
  ],
}
const coming: ImportView = {
  id: 'i1',
  target: 'baseline',
  fileName: 'autumn.csv',
  state: 'read',
  total: 3,
  bad: 1,
  badRows: [{ sheet: '', line: 4, problem: 'Code is missing', cells: ['', 'Nameless'] }],
  changes: { whole: changes, part: { ...changes, removed: 0 } },
  sheets: [
    {
      name: '',
      sheet: 'items',
      title: 'Items',
      header: ['Article', 'Name'],
      rows: 3,
      mapping: { code: null, name: 1, itemTaxCode: null },
      remembered: false,
      columns: [
        { path: 'code', title: 'Code', needed: true },
        { path: 'name', title: 'Name', needed: true },
        { path: 'itemTaxCode', title: 'Item tax code', needed: false },
      ],
      sample: [{ line: 2, cells: ['HIVE-12', 'Cedar hive'] }],
    },
  ],
}
const at = { path: '/larkspur/2026-09/spreadsheets' }

describe('spreadsheets', () => {
  it('go out of everything, and come into what has no bridge', async () => {
    answers({ '/files': files, '/path': PATH })
    const { page, router } = await mountIn(FilesPage, at)
    expect(page.find('[data-sheet="items"] a').attributes('href')).toContain(
      '/files/baseline/items?format=csv',
    )
    expect(page.find('[data-sheet="items"] button').exists()).toBe(true)
    await page.find('[data-target="ledger"]').trigger('click')
    await flushPromises()
    expect([
      router.currentRoute.value.query['target'],
      page.find('[data-sheet="accounts"] button').exists(),
    ]).toEqual(['ledger', false])
  })

  it('send the file as it is, and follow its run', async () => {
    const asked = answers({
      '/files': files,
      '/path': PATH,
      '/files/imports': { import: 'i1', run: 'r1' },
      '/imports/i1': coming,
      '/runs/r1': {
        id: 'r1',
        kind: 'import',
        state: 'done',
        step: '',
        total: 3,
        done: 3,
        failed: 0,
        startedBy: '',
        problem: null,
        problems: [],
        pulled: [],
      },
    })
    const { page, router } = await mountIn(FilesPage, at)
    await page.find('[data-sheet="items"] button').trigger('click')
    const input = page.find('input[type="file"]')
    Object.defineProperty(input.element, 'files', { value: [new File(['a'], 'autumn.csv')] })
    await input.trigger('change')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')?.path).toContain(
      '/files/imports?target=baseline&name=autumn.csv&sheet=items',
    )
    expect(router.currentRoute.value.query['import']).toBe('i1')
  })
})

describe('a file on its way in', () => {
  const open = (view: ImportView): ReturnType<typeof answers> =>
    answers({
      '/files': files,
      '/imports/i1': view,
      '/path': PATH,
      '/imports/i1/read': { run: 'r1' },
      '/imports/i1/apply': { run: 'r1' },
      '/runs/r1': {
        id: 'r1',
        kind: 'import',
        state: 'done',
        step: '',
        total: 3,
        done: 3,
        failed: 0,
        startedBy: '',
        problem: null,
        problems: [],
        pulled: [],
      },
    })

  it('is checked once every needed column has a source', async () => {
    const asked = open({ ...coming, state: 'mapping' })
    const { page } = await mountIn(FilesPage, { ...at, query: { import: 'i1' } })
    expect([page.find('[data-check]').attributes('disabled') !== undefined, page.text()]).toEqual([
      true,
      expect.stringContaining('Code has no column yet') as string,
    ])
    await page.find('[aria-label="Code is taken from"]').setValue(0)
    expect(page.find('.mapper tbody tr').text()).toContain('HIVE-12')
    await page.find('[data-check]').trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')?.body).toEqual({
      mappings: { '': { code: 0, name: 1, itemTaxCode: null } },
    })
  })

  it('says its bad rows, and takes the good ones only when that is said; what it does not name stays unless it is the whole', async () => {
    const asked = open(coming)
    const { page } = await mountIn(FilesPage, { ...at, query: { import: 'i1' } })
    expect(page.find('.bad-rows tbody').text()).toContain('4Code is missing')
    expect(page.find('[data-changes]').text()).toBe('2 new, 1 changed, 0 taken away, 0 as they are')
    expect(page.find('[data-take]').attributes('disabled')).toBeDefined()
    await page.find('.outcome input[type="checkbox"]').setValue(true)
    await page.find('input[value="whole"]').setValue(true)
    expect(page.find('[data-take]').text()).toBe('Take 7 changes')
    await page.find('[data-take]').trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')).toMatchObject({
      path: expect.stringContaining('/apply') as string,
      body: { mode: 'whole', goodOnly: true },
    })
  })
})
