import type { MembersView, PracticeView, TrailView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, NO_LIMITS, PATH } from '../../test/mounting.ts'
import TrailPage from '../audit/TrailPage.vue'
import PeoplePage from '../people/PeoplePage.vue'
import MonthMenu from '../shell/MonthMenu.vue'
import PracticePage from './PracticePage.vue'

afterEach(() => vi.unstubAllGlobals())

type Row = PracticeView['entities'][number]
const row = (id: string, path: Partial<Row['path']> = {}, causes = 0): Row => ({
  id,
  name: id,
  role: 'preparer',
  month: '2026-09',
  path: { ...PATH, ...path },
  before: {
    month: '2026-08',
    state: 'proved',
    unproved: '0.00',
    documents: 0,
    apart: 2,
    notYet: 0,
    resting: false,
  },
  causes,
  findings: 0,
})
const unproved = (amount: string): Partial<Row['path']> => ({
  tieout: { unproved: amount, unprovedNet: '0.00', documents: 1, apart: 0 },
})

describe('the practice board', () => {
  test.each<[string, Row[], RegExp, string]>([
    ['nobody’s', [], /^Nowhere to look/, ''],
    [
      'not pulled',
      [row('a', { connect: { ...PATH.connect, pulled: false } })],
      /^Not known yet.*1 of 1 legal entity not pulled/,
      'Pull the systems',
    ],
    [
      'one without documents',
      [row('a', { connect: { ...PATH.connect, pulled: false, empty: true } })],
      /^Nothing to prove here\. No document for the books of 1 legal entity in this month$/,
      'See the months',
    ],
    [
      'one without documents, after a month that is open',
      [
        {
          ...row('a', { connect: { ...PATH.connect, pulled: false, empty: true } }),
          before: {
            month: '2026-08',
            state: 'open',
            unproved: '5.00',
            documents: 1,
            apart: 0,
            notYet: 0,
            resting: false,
          },
        },
      ],
      /^Nothing to prove here/,
      'See the month before',
    ],
    [
      'one of two without documents',
      [row('b'), row('a', { connect: { ...PATH.connect, pulled: false, empty: true } })],
      /^Nowhere\. .*in 2 legal entities; 1 without documents$/,
      'Proved',
    ],
    [
      'two in one currency',
      [row('a', unproved('1284.16'), 4), row('b', unproved('0.84'), 1)],
      /^1,285\.00 USD not proved in 2 of 2/,
      'Mend 4 causes',
    ],
    [
      'two currencies, never added',
      [row('a', unproved('5.00'), 1), row('b', { ...unproved('7'), currency: 'JPY' }, 1)],
      /^5\.00 USD and 7 JPY not proved/,
      'Mend 1 cause',
    ],
    [
      'a failed document first',
      [row('a', { ...unproved('5.00'), post: { waiting: 3, failed: 2, tax: '9.00', notYet: 0 } })],
      /^5\.00 USD/,
      'See 2 failed',
    ],
    [
      'documents that wait in a month that nobody checked',
      [
        row('a', {
          ...unproved('5.00'),
          connect: { ...PATH.connect, ready: 0 },
          post: { waiting: 3, failed: 0, tax: '9.00', notYet: 0 },
        }),
      ],
      /^5\.00 USD/,
      'Check the systems',
    ],
    [
      'untaxed sales alone',
      [row('a', { tieout: { unproved: '0.00', unprovedNet: '80.00', documents: 2, apart: 0 } }, 1)],
      /^No tax astray, and documents are not proved in 1 of 1/,
      'Mend 1 cause',
    ],
    [
      'a document without money',
      [row('a', { tieout: { unproved: '0.00', unprovedNet: '0.00', documents: 1, apart: 0 } }, 1), row('b')],
      /^No tax astray, and documents are not proved in 1 of 2/,
      'Mend 1 cause',
    ],
    [
      'proved, and a system that could not be read since',
      [row('a', { connect: { ...PATH.connect, stale: 1 } })],
      /^Not known of all\..*1 with a system that could not be read/,
      'See 1 system not read',
    ],
    [
      'proved before a change that is still to be',
      [
        row('a', {
          connect: { ...PATH.connect, limits: { ...NO_LIMITS, older: '2026-10-02T10:00:00Z' } },
        }),
      ],
      /^Not known of all\..*1 with a change still to be proved/,
      'See the change to be proved',
    ],
    [
      'one proved, one not pulled',
      [row('a'), row('b', { connect: { ...PATH.connect, pulled: false } })],
      /^Not known of all\. 1 of 2 legal entities proved; 1 not pulled/,
      'Proved',
    ],
    [
      'all but what stands apart',
      [row('a', { tieout: { unproved: '0.00', unprovedNet: '0.00', documents: 0, apart: 3 } }), row('b')],
      /^Nowhere, but for what stands apart: 3 documents in 2 legal entities$/,
      'See 3 apart',
    ],
    ['all proved', [row('a')], /^Nowhere\. All that was pulled is proved/, 'Proved'],
    [
      'all proved, of one as systems have it',
      [{ ...row('a'), before: { ...row('a').before, resting: true } }],
      /^Nowhere\. All that was pulled is proved, in 1 legal entity; 1 as systems have it, read in no agency’s own text$/,
      '',
    ],
    [
      'all proved that is posted',
      [row('a', { post: { ...PATH.post, notYet: 138 } })],
      /^Nowhere\. All that is posted is proved, in 1 legal entity; 138 documents not posted yet$/,
      'See 138 not posted yet',
    ],
  ])('%s', async (_, entities, verdict, next) => {
    answers({
      '/practice': {
        month: '2026-09',
        months: [{ month: '2026-09', nothing: 0, open: 1, proved: 0, resting: 0 }],
        entities,
        away: [],
        closed: [],
      } satisfies PracticeView,
    })
    const { page } = await mountIn(PracticePage, { path: '/practice' })
    await flushPromises()
    expect(page.find('[data-verdict]').text()).toMatch(verdict)
    if (next) expect(page.find('tbody .do').text()).toBe(next)
    const [first] = entities
    if (first?.before.state === 'proved')
      expect(page.find('[data-before]').text()).toBe(
        first.before.resting ? 'proved as systems have it, 2 apart' : 'proved, 2 apart',
      )
  })
})

test.each<[string, Row[], RegExp]>([
  [
    'all proved but for one',
    [row('a')],
    /^Not known of all\. 1 of 2 legal entities proved; 1 whose books cannot be reached$/,
  ],
  [
    'one open',
    [row('a', unproved('5.00'), 1)],
    /^5\.00 USD not proved in 1 of 2 legal entities; 1 whose books cannot be reached$/,
  ],
  ['none that can be reached', [], /^Not known\. The books of 1 legal entity cannot be reached$/],
])('says no Nowhere over books that cannot be reached: %s', async (_, entities, verdict) => {
  const asked = answers({
    '/practice': {
      month: '2026-09',
      months: [{ month: '2026-09', nothing: 0, open: 0, proved: 1, resting: 0 }],
      entities,
      away: [
        {
          id: 'b',
          name: 'Bee',
          role: 'preparer',
          problem: {
            code: 'AXION_BOOKS_AWAY',
            says: 'The database “north” does not answer.',
            mend: 'Try again.',
          },
        },
      ],
      closed: [{ id: 'c', name: 'Carr', on: '2026-06-30' }],
    } satisfies PracticeView,
  })
  const { page } = await mountIn(PracticePage, { path: '/practice' })
  await flushPromises()
  expect(page.find('[data-verdict]').text()).toMatch(verdict)
  expect(page.find('[data-closed]').text()).toContain('Carr')
  // Nor does its menu of months.
  expect(page.findComponent(MonthMenu).props('rows')).toEqual([
    { month: '2026-09', state: 'nothing', words: '1 proved, 1 not known' },
  ])
  const row = page.find('[data-away="b"]')
  expect(row.text()).toMatch(/^Bee.*cannot be reached\s*The database “north” does not answer\. Try again\./)
  const before = asked.length
  await row.find('button').trigger('click')
  await vi.waitFor(() => expect(asked.length).toBeGreaterThan(before), { timeout: 60_000 })
})

it('reads the month that is chosen, by key too', async () => {
  const asked = answers({
    '/practice': {
      month: '2026-09',
      months: [{ month: '2026-09', nothing: 0, open: 1, proved: 2, resting: 0 }],
      entities: [row('a')],
      away: [],
      closed: [],
    } satisfies PracticeView,
  })
  const { page, press } = await mountIn(PracticePage, { path: '/practice' })
  await flushPromises()
  expect(page.find('[data-months]').text()).toContain('September 2026')
  await press('[')
  await vi.waitFor(() => expect(asked.at(-1)?.path).toContain('month=2026-08'), { timeout: 60_000 })
})

describe('people', () => {
  const view: MembersView = {
    members: [
      { name: 'Ines', email: 'i@example.org', role: 'administrator' },
      { name: 'Kofi', email: 'k@example.org', role: 'preparer' },
    ],
  }
  it('shows roles to everybody, and lets only an administrator change them', async () => {
    answers({ '/members': view, '/path': PATH })
    const { page } = await mountIn(PeoplePage)
    await flushPromises()
    expect(page.findAll('tbody tr').map((r) => r.text())).toEqual([
      'Inesi@example.orgadministrator',
      'Kofik@example.org, youpreparer',
    ])
    expect([page.find('select').exists(), page.find('form').exists()]).toEqual([false, false])
  })
})

describe('the audit trail', () => {
  const entry = {
    id: '2',
    at: '2026-10-02T09:00:00Z',
    person: 'Ines',
    from: '10.0.0.7',
    action: 'member',
    object: 'k@example.org',
    fields: [
      { field: 'role', from: 'viewer', to: 'preparer' },
      { field: 'run', from: '', to: 'r1' },
    ],
  }
  const view: TrailView = { entries: [entry], people: ['Ines'], actions: ['member'], next: '2' }
  it('says who did what from where, before and after, and goes on to older entries', async () => {
    const asked = answers({ '/trail': view, '/path': PATH })
    const { page } = await mountIn(TrailPage)
    await flushPromises()
    expect(page.find('tbody tr').text()).toContain(
      '10.0.0.7changed the role ofk@example.orgrole viewer → preparer',
    )
    expect(page.find('tbody tr').text()).not.toContain('r1')
    await page
      .findAll('button')
      .find((b) => b.text() === 'Older entries')
      ?.trigger('click')
    await flushPromises()
    expect(asked.at(-1)?.path).toContain('before=2')
    expect(page.findAll('tbody tr')).toHaveLength(2)
  })
})
