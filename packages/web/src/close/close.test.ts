import type { CloseRow, CloseView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, NONE_LEFT, PATH } from '../../test/mounting.ts'
import { begun } from '../shell/runs.ts'
import CloseSheet from './CloseSheet.vue'

afterEach(() => vi.unstubAllGlobals())

const row = (changes: Partial<CloseRow>): CloseRow => ({
  agency: 'HCT',
  agencyName: 'Hollis County Treasurer',
  account: '2212',
  accountName: 'Hollis County tax',
  stated: '100.00',
  unsplit: '0.00',
  expected: '100.00',
  booked: '100.00',
  balance: '100.00',
  balanceGap: '0.00',
  sharesAccount: false,
  unproved: '0.00',
  statedApart: { over: '0.00', under: '0.00' },
  bookedApart: { over: '0.00', under: '0.00' },
  ...changes,
})
const view = (rows: CloseRow[], changes: Partial<CloseView> = {}): CloseView => ({
  currency: 'USD',
  pulledAt: '2026-10-02T12:00:00Z',
  awaits: [],
  notFresh: [],
  unproved: '0.00',
  unprovedNet: '0.00',
  expected: '100.00',
  documents: 0,
  kept: { kept: 0, cured: 0, over: '0.00', under: '0.00', waiting: 0 },
  notPosted: NONE_LEFT,
  resting: null,
  causes: [],
  rows,
  history: [],
  totals: { stated: '100.00', expected: '100.00', booked: '100.00', balance: '100.00', unproved: '0.00' },
  ...changes,
})

describe('the close sheet', () => {
  it('says yes when all is proved', async () => {
    answers({ '/close': view([row({})]), '/path': PATH })
    const { page } = await mountIn(CloseSheet)
    expect(page.find('[data-verdict]').text()).toMatch(/^Yes\. All of 100\.00 USD is proved/)
    expect(page.findAll('.joint.broken')).toHaveLength(0)
  })

  it('says yes of nothing that is not posted so far: it stands beside, with sums of its own that open', async () => {
    const notPosted = { sold: { documents: 1, tax: '8.25' }, bought: { documents: 12, tax: '96.10' } }
    answers({ '/close': view([row({})], { notPosted }), '/path': PATH })
    const { page } = await mountIn(CloseSheet)
    expect(page.find('[data-verdict]').text()).toMatch(/^Yes, of what is posted\./)
    const note = page.find('[data-not-posted]')
    expect(note.text()).toBe(
      'Not posted yet, and no part of this: 1 sale or return with 8.25 USD of tax, and 12 purchases with 96.10 USD of tax. See them',
    )
    expect(note.find('a[href*="show=not-posted"]').exists()).toBe(true)
  })

  const stale = {
    system: 'Billing',
    since: '2026-10-01T12:00:00Z',
    failedAt: '2026-10-02T12:00:00Z',
    says: 'It does not answer.',
    mend: 'Look at it.',
  }
  test.each<[string, Partial<CloseView>, RegExp]>([
    [
      'untaxed sales that are not proved',
      { unprovedNet: '40.00', documents: 1 },
      /^Not yet\. No tax is astray, and 40\.00 USD of untaxed sales are not proved: 1 document/,
    ],
    [
      'documents that are open with no money',
      { documents: 2 },
      /^Not yet\. No money is astray, and 2 documents are not proved/,
    ],
    [
      'a system that could not be read',
      { notFresh: [stale] },
      /^Not known\. All of 100\.00 USD was proved before/,
    ],
    [
      'more astray than is expected',
      { unproved: '150.00', documents: 1 },
      /^150\.00 USD not proved, beside 100\.00 that is expected: 1 document/,
    ],
  ])('never says yes to %s', async (_, changes, words) => {
    answers({ '/close': view([row({})], changes), '/path': PATH })
    const { page } = await mountIn(CloseSheet)
    expect(page.find('[data-verdict]').text().replace(/\s+/g, ' ')).toMatch(words)
    expect(
      page.findAll('[data-stale]').map((one) => one.text().includes('Billing could not be read')),
    ).toEqual(changes.notFresh ? [true] : [])
  })

  it('shows too much and too little apart where they would hide each other', async () => {
    const cancels = row({ unproved: '160.00', bookedApart: { over: '160.00', under: '-160.00' } })
    answers({ '/close': view([cancels], { unproved: '160.00', documents: 2 }), '/path': PATH })
    const { page } = await mountIn(CloseSheet)
    const [joint] = page.findAll('.joint.both')
    expect(joint?.findAll('button').map((b) => [b.text(), b.attributes('data-open')])).toEqual([
      ['+160.00', 'of=gap&voice=booked&against=expected&agency=HCT&account=2212&sign=over'],
      ['−160.00', 'of=gap&voice=booked&against=expected&agency=HCT&account=2212&sign=under'],
    ])
  })

  it('shows gaps where neighbours differ, and silence where a source states no split', async () => {
    answers({
      '/close': view(
        [
          row({ booked: '90.00', unproved: '10.00' }),
          row({ agency: 'WRO', account: '2210', stated: '80.00', unsplit: '20.00' }),
          row({
            agency: null,
            agencyName: 'No agency named',
            account: null,
            stated: '20.00',
            expected: '0.00',
            booked: '0.00',
            balance: null,
          }),
        ],
        {
          unproved: '10.00',
          documents: 2,
          causes: [{ key: 'c1', unit: 'u1', agency: 'HCT', unproved: '10.00' }],
        },
      ),
      '/path': PATH,
    })
    const { page } = await mountIn(CloseSheet)
    const gaps = page
      .findAll('tbody tr')
      .map((tr) => tr.findAll('.joint').map((j) => j.classes().find((c) => c !== 'joint')))
    expect(gaps).toEqual([
      ['holds', 'broken', 'holds'],
      ['silent', 'holds', 'holds'],
      ['silent', 'silent', 'silent'],
    ])
    expect(page.find('.joint.broken').text()).toBe('−10.00')
    expect(page.find('[data-verdict]').text()).toContain('2 documents, 1 cause')
  })

  it('opens causes one after another with n, a row with Enter, and mends in Tie out with m', async () => {
    const causes = [
      { key: 'c1', unit: 'u1', agency: 'HCT', unproved: '7.00' },
      { key: 'c2', unit: 'u2', agency: null, unproved: '3.00' },
    ]
    answers({
      '/close': view([row({}), row({ agency: 'WRO', account: '2210', unproved: '10.00' })], {
        unproved: '10.00',
        causes,
      }),
      '/path': PATH,
    })
    const { page, router, press } = await mountIn(CloseSheet)
    const open = (): unknown => router.currentRoute.value.query['open']
    await press('n')
    expect(open()).toBe('of=unproved&unit=u1&agency=HCT')
    await press('n')
    expect(open()).toBe('of=unproved&unit=u2')
    await press('n')
    expect(open()).toBe('of=unproved&unit=u1&agency=HCT')
    await press('j')
    await press('j')
    expect(page.find('tr.chosen').text()).toContain('2210')
    await press('Enter')
    expect(open()).toBe('of=unproved&agency=WRO&account=2210')
    await press('m')
    expect([router.currentRoute.value.name, router.currentRoute.value.query['cause']]).toEqual([
      'tie-out',
      'c1',
    ])
  })

  it('asks for a pull where nothing is known, and starts it', async () => {
    const asked = answers({
      '/close': view([], { pulledAt: null }),
      '/path': PATH,
      '/pulls': { run: 'r1' },
      '/runs/r1': { ...begun('r1', 'pull'), state: 'done' },
    })
    const { page } = await mountIn(CloseSheet)
    expect(page.find('.verdict').text()).toContain('Not known yet')
    await page.find('button.do').trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')).toMatchObject({
      path: '/api/entities/larkspur/months/2026-09/pulls',
      body: { systemIds: null },
    })
  })

  test.each<[string, Partial<CloseView>, RegExp]>([
    [
      'billing was never pulled',
      { awaits: ['Billing', 'Ledger'] },
      /^Not known yet\. Billing and Ledger have not been pulled$/,
    ],
    [
      'the month had nothing',
      {
        expected: '0.00',
        totals: { stated: '0.00', expected: '0.00', booked: '0.00', balance: '7.00', unproved: '0.00' },
      },
      /^Nothing to prove\. No tax was stated, expected or booked in September 2026$/,
    ],
  ])('claims no proof where %s', async (_, changes, says) => {
    answers({ '/close': view([], changes), '/path': PATH })
    const { page } = await mountIn(CloseSheet)
    expect(page.find('.verdict').text().replace(/\s+/g, ' ')).toMatch(says)
  })

  it('leads from a month in which nothing is to the newest one in which something is', async () => {
    const nil = { stated: '0.00', expected: '0.00', booked: '0.00', balance: '0.00', unproved: '0.00' }
    const of = (month: string, state: string): object => ({ month, state })
    answers({
      '/close': view([], { expected: '0.00', totals: nil }),
      '/path': PATH,
      '/months': { months: [of('2026-09', 'open'), of('2026-08', 'nothing'), of('2026-07', 'proved')] },
    })
    const { page } = await mountIn(CloseSheet)
    expect(page.find('[data-elsewhere]').text()).toBe('The newest documents are of July 2026')
    expect(page.find('[data-elsewhere] a').attributes('href')).toBe('/larkspur/2026-07/close')
  })

  it('says what the server refused', async () => {
    answers({ '/close': { status: 503, title: 'The database does not answer.', detail: 'Try again.' } })
    const { page } = await mountIn(CloseSheet)
    expect(page.find('[role="alert"]').text()).toBe('The database does not answer. Try again.')
  })
})
