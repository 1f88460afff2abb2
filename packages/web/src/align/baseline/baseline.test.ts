import type { AgreedObject, AgreedPreview, AgreedView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import fc from 'fast-check'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../../test/mounting.ts'
import BaselinePage from './BaselinePage.vue'
import { changeOf, draftOf, type Doing } from './draft.ts'
import { cellOfPlaces, cellText, placesOf, type Field } from './words.ts'

afterEach(() => vi.unstubAllGlobals())

const field = (path: string, more: Partial<Field> = {}): Field => ({
  ...{ path, title: path, type: 'text', needed: true, known: false, words: null, names: null },
  ...more,
})
const FIELDS = [
  field('jurisdiction', { title: 'Jurisdiction', known: true, names: 'jurisdictions' }),
  field('percent', { title: 'Percent' }),
  field('onTopOf', { title: 'On top of', type: 'list', needed: false, names: 'jurisdictions' }),
]
const cells = { jurisdiction: 'WN', percent: '5.5', onTopOf: '' }
const view = (changes: Partial<AgreedView> = {}): AgreedView => ({
  ...{
    kind: 'rateVersions',
    title: 'Rates',
    dated: true,
    fields: FIELDS,
    overlaps: [],
    next: null,
    found: 2,
  },
  counts: { rateVersions: 2, agencies: 3 } as AgreedView['counts'],
  standing: { holds: 1, coming: 0, ended: 1 },
  rows: [
    { id: 'WN', cells, from: '2024-01-01', to: null, state: 'holds', versions: 2 },
    {
      id: 'XA',
      cells: { ...cells, jurisdiction: 'XA' },
      from: null,
      to: '2025-12-31',
      state: 'ended',
      versions: 1,
    },
  ],
  ...changes,
})
const stands = { recorded: '2026-09-01T10:00:00Z', until: null }
const object: AgreedObject = {
  ...{ kind: 'rateVersions', id: 'WN' },
  versions: [
    { cells, from: '2024-01-01', to: null, ...stands },
    { cells: { ...cells, percent: '5' }, from: null, to: null, ...stands, until: '2026-09-02T10:00:00Z' },
  ],
}
const preview: AgreedPreview = {
  ...{
    what: 'rate version WN',
    since: '2026-09-01',
    currency: 'USD',
    rest: 30,
    worked: 30,
    booked: 2,
    revision: 'r1',
  },
  fields: [{ title: 'Percent', before: '5.5', after: '6' }],
  months: [
    {
      month: '2026-09',
      rest: 30,
      differ: 12,
      proved: 4,
      known: 0,
      unknown: 1,
      before: '100.00',
      after: '109.10',
    },
    { month: '2026-08', rest: 5, differ: 0, proved: 0, known: 0, unknown: 0, before: '0.00', after: '0.00' },
  ],
}
const at = '/larkspur/2026-09/align/baseline/rateVersions'
const given = (more: Record<string, unknown> = {}) =>
  answers({
    '/baseline/rateVersions': view(),
    '/baseline/rateVersions/object': object,
    '/baseline/rateVersions/preview': preview,
    '/align/batches': { batches: [] },
    '/copied': { sources: [], unseen: 0 },
    '/path': PATH,
    ...more,
  })

describe('places, as they are typed', () => {
  const text = fc.stringMatching(/^[a-zA-Z0-9/;% -]{0,12}$/).map((one) => one.trim())
  test('are read back as they were written, whatever is in a name', () => {
    const place = fc.record({
      country: fc.constant('XA'),
      region: text,
      city: text,
      postalCode: text,
      plus4: text,
    })
    fc.assert(
      fc.property(fc.array(place, { minLength: 1, maxLength: 4 }), (places) => {
        expect(placesOf(cellOfPlaces(places))).toEqual(places)
      }),
    )
  })
  test.each<[string, string, string]>([
    ['XA', 'covers', 'XA'],
    ['XA/XA-WN//30417; XA/XA-WN//30418/0000-0499', 'covers', '30417, 30418 0000-0499'],
    ['XA/XA-WN/Quay%2FFen', 'covers', 'Quay/Fen'],
    ['WN; XA', 'list', 'WN, XA'],
    ['half-even', 'text', 'half-even'],
  ])('%s is read as %s', (cell, type, words) => {
    expect(cellText(field('a', { type: type as Field['type'] }), cell)).toBe(words)
  })
})

describe('what is typed', () => {
  const version = { cells, from: '2024-01-01', to: null }
  const doing = (act: Doing['act']): Doing => ({
    act,
    id: act === 'make' ? null : 'WN',
    version: act === 'make' ? null : version,
  })
  const paths = FIELDS.map(({ path }) => path)
  const drafted = (act: Doing['act'], changes: object = {}, dated = true) =>
    changeOf(doing(act), { ...draftOf(doing(act), paths, { month: '2026-09', dated }), ...changes })
  const which = { id: 'WN', version: '2024-01-01' }
  test.each<[string, object, object]>([
    [
      'a change holds from the month on',
      drafted('change'),
      { act: 'change', ...which, cells, since: '2026-09-01' },
    ],
    [
      'or at all days of the version',
      drafted('change', { from: 'always' }),
      { act: 'change', ...which, cells: { ...cells, from: '2024-01-01', to: '' }, since: null },
    ],
    [
      'what is made has its days',
      drafted('make', { last: '2027-12-31' }),
      {
        act: 'make',
        cells: { jurisdiction: '', percent: '', onTopOf: '', from: '2026-09-01', to: '2027-12-31' },
      },
    ],
    [
      'what has no days is changed as a whole',
      drafted('change', {}, false),
      { act: 'change', ...which, cells, since: null },
    ],
    ['an end is a day', drafted('end', { last: '2026-09-30' }), { act: 'end', ...which, last: '2026-09-30' }],
    ['what is taken off', drafted('remove'), { act: 'remove', ...which }],
  ])('%s', (_, change, wanted) => {
    expect(change).toEqual(wanted)
  })
})

describe('the baseline', () => {
  it('says what holds at the end of the month, and opens a row into what stood before it', async () => {
    given()
    const { page, press } = await mountIn(BaselinePage, { path: at })
    expect(page.get('[data-verdict]').text()).toBe('1 rate holds at the end of September 2026; 1 ended')
    // No column that no row fills.
    expect(page.findAll('table[aria-label="Rates"] th').map((one) => one.text())).toEqual([
      ...['Jurisdiction', 'Percent', 'From', 'Until', 'At the end of the month'],
    ])
    await press('j')
    await flushPromises()
    const versions = page.findAll('[data-version]')
    expect(versions.map((one) => [one.attributes('data-stands'), one.findAll('button').length])).toEqual([
      ['true', 3],
      ['false', 0],
    ])
  })

  it('shows what a change would do before it is agreed upon, and again whenever something is typed', async () => {
    const asked = given()
    const { page, press } = await mountIn(BaselinePage, { path: at })
    await press('j')
    await flushPromises()
    await page.get('[data-act=change]').trigger('click')
    const form = page.get('[data-object-form]')
    expect(form.find('[data-field=jurisdiction] input').exists()).toBe(false)
    await form.get('input[name=percent]').setValue('6')
    await form.trigger('submit')
    await flushPromises()
    expect(form.get('[data-effect]').text()).toContain(
      '12 documents would bear another tax, or owe it elsewhere.',
    )
    expect(form.findAll('[data-month]').map((one) => one.attributes('data-month'))).toEqual(['2026-09'])
    expect(form.get('[data-month]').text()).toContain('of 1 it is known no more')
    await form.get('input[name=percent]').setValue('6.1')
    expect(form.find('[data-agree]').exists()).toBe(false)
    await form.trigger('submit')
    await flushPromises()
    await form.trigger('submit')
    await flushPromises()
    const [kept] = asked.filter(
      ({ method, path }) => method === 'POST' && path.endsWith('/baseline/rateVersions'),
    )
    expect(kept?.body).toEqual({
      revision: 'r1',
      change: {
        ...{ act: 'change', id: 'WN', version: '2024-01-01', since: '2026-09-01' },
        cells: { ...cells, percent: '6.1' },
      },
    })
  })

  it('says that no document would bear another tax only of those that were looked at', async () => {
    given({
      '/baseline/rateVersions/preview': { ...preview, months: [], rest: 5000, worked: 2000, booked: 0 },
    })
    const { page, press } = await mountIn(BaselinePage, { path: at })
    await press('c')
    await page.get('[data-object-form]').trigger('submit')
    await flushPromises()
    expect(page.get('[data-effect]').text()).toMatch(
      /No document.*newest of 5,000.*not known before it is done/,
    )
  })

  it('tells how much changed where another legal entity is followed', async () => {
    const source = { id: 'q', name: 'Quillon', taken: null, waiting: 2, away: null }
    given({ '/copied': { sources: [source, { ...source, id: 's', waiting: null }], unseen: 0 } })
    const { page } = await mountIn(BaselinePage, { path: at })
    expect(page.find('[data-waiting]').text()).toBe(', where 2 changed')
  })

  it('says what is the same twice instead of what holds', async () => {
    given({ '/baseline/rateVersions': view({ overlaps: [{ ids: ['A', 'B'], what: '40217, XA' }] }) })
    const { page } = await mountIn(BaselinePage, { path: at })
    expect(page.get('[data-verdict]').text()).toBe('Not clearly: 1 rate twice, first A, B (40217, XA)')
  })

  it('is for viewers to look at', async () => {
    given()
    const { page, press } = await mountIn(BaselinePage, { path: at, role: 'viewer' })
    await press('j')
    await press('c')
    await flushPromises()
    expect([page.find('[data-make]').exists(), page.find('[data-act]').exists()]).toEqual([false, false])
    expect(page.find('[data-object-form]').exists()).toBe(false)
  })

  it('begins with what a draft makes of it where there is nothing', async () => {
    const none = {
      rows: [],
      found: 0,
      counts: {} as AgreedView['counts'],
      standing: { holds: 0, coming: 0, ended: 0 },
    }
    given({ '/baseline/rateVersions': view(none) })
    const { page } = await mountIn(BaselinePage, { path: at })
    expect(page.get('[data-verdict]').text()).toBe('Nothing: the baseline has no rates yet')
    expect(page.get('.empty a').attributes('href')).toContain('/decisions')
  })
})
