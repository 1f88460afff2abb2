import type { CloseRow, CloseView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
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
  ...changes,
})
const view = (rows: CloseRow[], changes: Partial<CloseView> = {}): CloseView => ({
  currency: 'USD',
  pulledAt: '2026-10-02T12:00:00Z',
  awaits: [],
  unproved: '0.00',
  unprovedNet: '0.00',
  expected: '100.00',
  documents: 0,
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
      '/runs/r1': {
        id: 'r1',
        kind: 'pull',
        state: 'done',
        step: '',
        total: 0,
        done: 0,
        failed: 0,
        startedBy: '',
        problem: null,
        pulled: [],
      },
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

  it('says what the server refused', async () => {
    answers({ '/close': { status: 503, title: 'The database does not answer.', detail: 'Try again.' } })
    const { page } = await mountIn(CloseSheet)
    expect(page.find('[role="alert"]').text()).toBe('The database does not answer. Try again.')
  })
})
