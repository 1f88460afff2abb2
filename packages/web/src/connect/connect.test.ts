import type { ConnectView, RunView } from '@axion/contract'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, NO_LIMITS, PATH } from '../../test/mounting.ts'
import { flushPromises } from '@vue/test-utils'
import OlderNote from '../shell/OlderNote.vue'
import RunBar from '../shell/RunBar.vue'
import StagePath from '../shell/StagePath.vue'
import { begun, useRuns } from '../shell/runs.ts'
import ConnectPage from './ConnectPage.vue'
import { defineComponent, h } from 'vue'

afterEach(() => vi.unstubAllGlobals())

type System = ConnectView['systems'][number]
const check = (changes: Partial<System['checks'][number]>): System['checks'][number] => ({
  code: 'c',
  group: 'Tax',
  question: 'Can it?',
  why: 'It matters.',
  mend: 'Mend it there.',
  blocks: true,
  state: 'passes',
  fact: 'It can',
  ...changes,
})
const system = (changes: Partial<System>): System => ({
  id: 'ledger',
  role: 'ledger',
  name: 'Ledger',
  product: 'Books',
  company: 'Larkspur',
  webAddress: 'http://books.example/',
  computesFor: null,
  bridgeAddress: null,
  pulledAt: '2026-10-02T12:00:00Z',
  notFresh: null,
  lastPull: [],
  checks: [check({})],
  changes: [],
  moreChanges: 0,
  findings: [],
  leftOut: { documents: 0, tax: null, total: null },
  schedule: null,
  goesOut: true,
  streams: [],
  byFiles: false,
  ...changes,
})

const FAILED = {
  system: 'Ledger',
  since: '2026-10-01T12:00:00Z',
  failedAt: '2026-10-02T12:00:00Z',
  says: 'It did not answer.',
  mend: 'See whether it runs.',
}

describe('Connect', () => {
  test.each<[string, System[], RegExp]>([
    ['is ready', [system({})], /^Yes\. 1 check of 1 system pass/],
    ['is not', [system({ checks: [check({ state: 'fails' })] })], /^No\. 1 check of 1 stops posting$/],
    [
      'has only a remark',
      [system({ checks: [check({ state: 'fails', blocks: false })] })],
      /^Not quite\. 1 check fails of 1; none stops posting$/,
    ],
    [
      'sends nothing any more',
      [
        system({
          streams: [
            {
              name: 'Merrow market',
              documents: 24,
              silence: { since: '2026-09-24', days: 6, least: 1, most: 3 },
            },
          ],
        }),
      ],
      /^Not quite\. Every check passes; Merrow market is silent/,
    ],
    [
      'has something that cannot be read',
      [system({ findings: [{ says: 'It is odd.', mend: 'Mend it.' }] })],
      /^Not quite\. Every check passes; 1 object could not be read$/,
    ],
    [
      'was not pulled the last time',
      [system({ notFresh: FAILED }), system({ id: 'b', checks: [check({ state: 'fails', blocks: false })] })],
      /^Not quite\. 1 check fails of 2; none stops posting; the last pull of Ledger failed$/,
    ],
    [
      'was never pulled, for all that was tried',
      [system({ checks: [], pulledAt: null, notFresh: { ...FAILED, since: null } })],
      /^Not known yet\. Nothing was checked; the last pull of Ledger failed$/,
    ],
    ['was never asked', [system({ checks: [], pulledAt: null })], /^Not known yet/],
  ])('says when a system %s', async (_, systems, verdict) => {
    answers({ '/connect': { systems, disconnected: [] }, '/path': PATH })
    const { page } = await mountIn(ConnectPage, { path: '/larkspur/2026-09/connect' })
    expect(page.find('[data-verdict]').text()).toMatch(verdict)
  })

  it('says of a failing check why it matters and how to mend it, and of a pull what it brought', async () => {
    answers({
      '/connect': {
        systems: [
          system({
            checks: [check({ state: 'fails', fact: 'It cannot' })],
            lastPull: [
              { resource: 'tax-rates', added: 1, changed: 2, removed: 0, unreadable: 1 },
              { resource: 'accounts', added: 0, changed: 0, removed: 0, unreadable: 0 },
            ],
            changes: [
              {
                resource: 'tax-rates',
                label: 'Fenwick',
                kind: 'changed',
                fields: [{ field: 'percent', from: '7.25', to: '7.45' }],
              },
            ],
            moreChanges: 3,
            findings: [{ says: 'Ledger holds a bad rate.', mend: 'Correct it.' }],
          }),
        ],
        disconnected: [],
      },
      '/path': PATH,
    })
    const { page } = await mountIn(ConnectPage, { path: '/larkspur/2026-09/connect' })
    const text = page.text()
    for (const part of [
      'It matters. Mend it there.',
      'tax rates: 1 new, 2 changed, 1 unreadable',
      'percent: 7.25 → 7.45',
      'and 3 more',
      'Ledger holds a bad rate. Correct it.',
    ])
      expect(text).toContain(part)
    expect(text).not.toContain('accounts:')
  })
})

describe('the run bar', () => {
  const run = (changes: Partial<RunView>): RunView => ({
    id: 'r',
    kind: 'post',
    state: 'done',
    step: '',
    total: 5,
    done: 4,
    failed: 1,
    startedBy: '',
    problem: null,
    problems: [],
    pulled: [],
    ...changes,
  })
  const counts = { added: 1, changed: 0, removed: 2, unreadable: 0 }
  test.each<[string, RunView, string]>([
    [
      'how far it is',
      run({ state: 'running', step: 'sending', done: 2, failed: 0 }),
      'Posting sending: 2 of 5',
    ],
    ['how it ended', run({}), 'Posting done. 4 documents sent, 1 failed.'],
    [
      'what was taken back',
      run({ kind: 'withdraw', done: 1, failed: 0 }),
      'Withdrawal done. 1 document taken back.',
    ],
    [
      'what a pull brought',
      run({
        kind: 'pull',
        pulled: [
          { system: 'Ledger', counts: [{ resource: 'agencies', ...counts }], problem: null },
          {
            system: 'Billing',
            counts: [],
            problem: { says: 'Billing does not answer.', mend: 'See that it runs.' },
          },
        ],
      }),
      'Pull done. Ledger: 1 new, 2 removed. Billing does not answer. See that it runs..',
    ],
    [
      'why it stopped',
      run({ state: 'failed', problem: { says: 'No ledger is connected.', mend: 'Connect one.' } }),
      'Posting stopped. No ledger is connected. Connect one.',
    ],
    [
      'that a rehearsal sent nothing',
      run({ kind: 'rehearse', failed: 0 }),
      'Rehearsal done. 4 bookings composed. Nothing was sent.',
    ],
  ])('says %s', async (_, shown, words) => {
    answers({ '/runs/r': shown, '/path': PATH })
    const Follower = defineComponent({ setup: () => (useRuns().follow(shown), () => h(RunBar)) })
    const { page } = await mountIn(Follower)
    expect(page.find('[data-run] p').text().replaceAll(/\s+/g, ' ')).toBe(words)
  })
})

describe('the path', () => {
  it('claims nothing before a pull', async () => {
    answers({ '/path': { ...PATH, connect: { ...PATH.connect, ready: 0, pulled: false } } })
    const { page, month } = await mountIn(StagePath)
    await month.changed()
    expect(page.findAll('.stage p').map((p) => p.text())).toEqual([
      '0 of 2 ready',
      'not pulled',
      'not pulled',
      'not pulled',
    ])
  })

  it('says neither all posted nor all proved of what is not posted yet', async () => {
    answers({ '/path': { ...PATH, post: { ...PATH.post, notYet: 138 } } })
    const { page, month } = await mountIn(StagePath)
    await month.changed()
    expect(
      page
        .findAll('.stage p')
        .map((p) => p.text())
        .slice(2),
    ).toEqual(['138 not posted yet', 'proved, of what is posted'])
  })

  test.each<[string, Partial<typeof NO_LIMITS>, string]>([
    ['whole', {}, 'all posted'],
    ['but for what could not be read', { unread: 1 }, 'all that was read'],
    ['but for a system whose pull failed', { failed: ['Billing'] }, 'all that was read'],
  ])('says what is posted, %s', async (_, limits, words) => {
    const { connect } = PATH
    answers({ '/path': { ...PATH, connect: { ...connect, limits: { ...NO_LIMITS, ...limits } } } })
    const { page, month } = await mountIn(StagePath)
    await month.changed()
    expect(page.findAll('.stage p').map((p) => p.text())[2]).toBe(words)
  })

  test.each<[string, RunView | null, RegExp]>([
    [
      'that a run is at',
      { ...begun('r', 'prove'), state: 'running' },
      /5:00 AM\. They change once it is proved\.$/,
    ],
    ['that nobody is at', null, /5:00 AM\. A pull proves it: to Connect$/],
  ])('has a note, on whatever page, over a change that is still to be proved, %s', async (_, run, words) => {
    const limits = { ...NO_LIMITS, older: '2026-10-02T10:00:00Z' }
    answers({ '/path': { ...PATH, connect: { ...PATH.connect, limits }, run }, '/runs/': run ?? {} })
    const { page, month } = await mountIn(OlderNote)
    await month.changed()
    await flushPromises()
    expect(page.find('[data-older]').text().replaceAll(/\s+/g, ' ')).toMatch(words)
  })

  it('says of nothing that it is proved while a change is still to be', async () => {
    const limits = { ...NO_LIMITS, older: '2026-10-02T10:00:00Z' }
    answers({ '/path': { ...PATH, connect: { ...PATH.connect, limits } } })
    const { page, month } = await mountIn(StagePath)
    await month.changed()
    expect(page.findAll('.stage p').at(-1)?.text()).toBe('not known')
    expect(page.findAll('.stage p').at(-1)?.classes()).toContain('bad')
  })

  it('shows each stage with what waits there, and opens its money', async () => {
    answers({
      '/path': {
        currency: 'USD',
        connect: { ...PATH.connect, ready: 1, failing: 1 },
        align: { findings: 2, stake: '12.00' },
        post: { waiting: 3, failed: 1, tax: '7.00' },
        tieout: { unproved: '0.00', unprovedNet: '0.00', documents: 0, apart: 0 },
        run: null,
      },
    })
    const { page, month } = await mountIn(StagePath)
    await month.changed()
    expect(
      page.findAll('.stage').map((s) =>
        s
          .text()
          .replaceAll(/\s+/g, ' ')
          .replace(/([a-z])(?=\d|all)/, '$1 ')
          .replaceAll('  ', ' '),
      ),
    ).toEqual([
      '1Connect 1 check stops posting',
      '2Align 12.00 at stake',
      '3Post 7.00 in 3, 1 failed',
      '4Tie out all proved',
    ])
    expect(page.findAll('[data-open]').map((a) => a.attributes('data-open'))).toEqual([
      'of=stake',
      expect.stringContaining('of=tax&voice=stated&state=not-composed'),
    ])
  })
})
