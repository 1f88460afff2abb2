import type { AgreedPreview, CopySources, CopyVersion, CopyView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../../test/mounting.ts'
import CopiedPage from './CopiedPage.vue'

afterEach(() => vi.unstubAllGlobals())

const TAKEN = { at: '2026-09-02T10:00:00Z', person: 'Ines', follows: true }
const SOURCES: CopySources = {
  sources: [
    { id: 'saltmarsh', name: 'Saltmarsh Pottery', taken: null, waiting: null, away: null },
    { id: 'quillon', name: 'Quillon Surveying', taken: TAKEN, waiting: 2, away: null },
  ],
  unseen: 0,
}
const NONE = { new: 0, changed: 0, differs: 0, gone: 0, own: 0, off: 0 }
const says = (text: string, from: string | null = null, to: string | null = null): CopyVersion => ({
  ...{ says: text, from, to },
})
const BEFORE = says('Percent 6', null, '2019-12-31')
const VIEW: CopyView = {
  from: { id: 'quillon', name: 'Quillon Surveying' },
  taken: TAKEN,
  same: 108,
  waiting: 2,
  counts: { ...NONE, new: 1, changed: 1, differs: 1 },
  rows: [
    {
      ...{ key: 'agencies STO', kind: 'agencies', id: 'STO', name: 'Solmar Tax Office' },
      ...{ standing: 'new', here: [], there: [says('')] },
    },
    {
      ...{ key: 'rateVersions SO', kind: 'rateVersions', id: 'SO', name: '' },
      ...{
        standing: 'changed',
        here: [BEFORE, says('Percent 7', '2020-01-01')],
        there: [BEFORE, says('Percent 7', '2020-01-01', '2026-09-30'), says('Percent 7.5', '2026-10-01')],
      },
    },
    {
      ...{ key: 'roundings SO', kind: 'roundings', id: 'SO', name: '' },
      ...{ standing: 'differs', here: [says('Rounded at line')], there: [says('Rounded at document')] },
    },
  ],
  more: 0,
  revision: 'r1',
}
const PREVIEW: AgreedPreview = {
  ...{ what: '2 objects', since: null, fields: [], currency: 'USD', rest: 0, worked: 0 },
  ...{ months: [], booked: 0, revision: 'r1' },
}
const shown = async (
  view: Partial<CopyView> = {},
  { sources = SOURCES, role = 'preparer' as 'preparer' | 'viewer' } = {},
) => {
  const asked = answers({
    '/copied/quillon/preview': PREVIEW,
    '/copied/quillon/left': { left: 1 },
    '/copied/quillon': { ...VIEW, ...view },
    '/copied': sources,
    '/batches': { batches: [] },
    '/path': PATH,
  })
  const { page } = await mountIn(CopiedPage, { path: '/larkspur/2026-09/align/copied', role })
  return { page, sent: () => asked.filter(({ method }) => method !== 'GET').map(({ body }) => body) }
}

describe('a copy of another legal entity’s baseline', () => {
  it('begins with whom is followed, and says what is another there since', async () => {
    const { page } = await shown()
    expect(page.find('[data-verdict]').text()).toBe(
      'Not any more. 2 objects of Quillon Surveying are new or another there since something was taken',
    )
    expect(page.find('[data-taken]').text()).toContain('by Ines; what changes there is told here.')
    expect(page.findAll('[data-object]').map((row) => row.attributes('data-standing'))).toEqual([
      'new',
      'changed',
      'differs',
    ])
    expect(page.findAll('[data-object="rateVersions SO"] .says').map((cell) => cell.text())).toEqual([
      'Percent 7, from January 1, 2020',
      'Percent 7, from January 1, 2020, until September 30, 2026; Percent 7.5, from October 1, 2026',
    ])
    expect(page.findAll('[data-object="agencies STO"] .says').map((cell) => cell.text())).toEqual([
      'nothing',
      'agreed',
    ])
    expect(page.find('[data-unseen]').exists()).toBe(false)
  })

  it('takes what nobody has to weigh, once it was looked at', async () => {
    const { page, sent } = await shown()
    const look = page.find('[data-look]')
    expect(look.text()).toBe('See what 2 objects would do')
    await look.trigger('click')
    await flushPromises()
    const form = document.querySelector('[data-copy-form]')
    expect(form?.textContent).toContain('No document rests on it.')
    form?.dispatchEvent(new Event('submit', { cancelable: true }))
    await flushPromises()
    const choice = { standings: ['new', 'changed'] }
    expect(sent()).toEqual([{ choice }, { choice, follows: true, revision: 'r1' }])
  })

  it('takes, or leaves, what is chosen', async () => {
    const { page, sent } = await shown()
    await page.find('[data-object="roundings SO"] input').setValue(true)
    expect(page.find('[data-look]').text()).toBe('See what 1 object would do')
    await page.find('[data-leave]').trigger('click')
    await flushPromises()
    expect(sent()).toEqual([{ keys: ['roundings SO'] }])
  })

  it('is looked at alone by a viewer', async () => {
    const { page } = await shown({}, { role: 'viewer' })
    expect([page.find('[data-look]').exists(), page.findAll('input[type=checkbox]').length]).toEqual([
      false,
      0,
    ])
  })

  test.each<[string, Partial<CopyView>, string]>([
    [
      'nothing taken yet',
      { taken: null, same: 0, waiting: 0, counts: { ...NONE, new: 111 } },
      'Not yet. 111 objects of Quillon Surveying are not here: agencies, places, rates and codes, nothing of a client’s own',
    ],
    [
      'no baseline there',
      { same: 0, waiting: 0, counts: NONE, rows: [] },
      'Nothing there. Quillon Surveying has no baseline yet',
    ],
    [
      'other values',
      { waiting: 0, counts: { ...NONE, differs: 1 } },
      'Not in all. 1 object is another here than in Quillon Surveying',
    ],
    [
      'the same',
      { waiting: 0, counts: { ...NONE, own: 2 }, rows: [] },
      'In all. 108 objects are as in Quillon Surveying; 2 left otherwise',
    ],
  ])('says in a sentence how they stand: %s', async (_, other, verdict) => {
    const { page } = await shown(other)
    expect(page.find('[data-verdict]').text().replace(/\s+/g, ' ')).toBe(verdict)
  })

  it('says that there is nobody to ask, and whom it follows unseen', async () => {
    const { page } = await shown({}, { sources: { sources: [], unseen: 1 } })
    expect(page.find('[data-verdict]').text()).toContain('Nobody to ask.')
    expect(page.find('[data-unseen]').text()).toContain(
      '1 legal entity that you are no member of is followed',
    )
  })
})
