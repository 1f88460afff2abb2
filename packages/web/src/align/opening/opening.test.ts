import type { OpeningAccount, OpeningListView, OpeningView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../../test/mounting.ts'
import { emptyLine, itemsOf, pasteInto, sumOf } from './draft.ts'
import OpeningListForm from './OpeningListForm.vue'
import OpeningPage from './OpeningPage.vue'

afterEach(() => vi.unstubAllGlobals())

const account = (changes: Partial<OpeningAccount> = {}): OpeningAccount => ({
  ...{ account: '2400', name: 'Gift cards', type: 'liability', posted: [], balance: '75.00', items: 0 },
  ...{ list: '0.00', standing: 'lacking', then: null, aside: null, keptBy: null, keptAt: null },
  ...changes,
})
const VIEW: OpeningView = {
  currency: 'USD',
  day: '2026-07-01',
  setBy: 'Ada',
  ledger: 'Ledger',
  trial: { accounts: 9, sum: '0.00' },
  accounts: [account()],
  before: { documents: 0, tax: '0.00', total: '0.00' },
}

describe('whether what the books opened with has a list', () => {
  test.each<[string, Partial<OpeningView>, RegExp]>([
    ['no day', { day: null, ledger: null, trial: null, accounts: [] }, /^Not said\. From which month/],
    ['no ledger', { ledger: null, trial: null, accounts: [] }, /^Not known\. No ledger is connected/],
    ['never asked', { trial: null }, /^Not known\. Ledger was not asked yet .* June 30, 2026/],
    [
      'a trial balance that is none',
      { trial: { accounts: 9, sum: '12.00' } },
      /^No\. The trial balance .* 12\.00 USD/,
    ],
    ['an account without one', {}, /^No\. 1 account of 1: 75\.00 USD/],
    // Too much and too little are no less.
    [
      'lists that differ both ways',
      {
        accounts: [
          account({ list: '80.00', standing: 'apart' }),
          account({ account: '1', list: '70.00', standing: 'moved' }),
        ],
      },
      /^No\. 2 accounts of 2: 10\.00 USD/,
    ],
    [
      'all of them',
      { accounts: [account({ list: '75.00', standing: 'taken' })] },
      /^Yes\. 1 account as Ledger had/,
    ],
    [
      'by word alone',
      { accounts: [account({ standing: 'aside', aside: 'lost' })] },
      /^Yes\..*1 of them has none, by somebody’s word/,
    ],
  ])('says: %s', async (_, changes, says) => {
    answers({ '/opening': { ...VIEW, ...changes }, '/path': PATH })
    const { page } = await mountIn(OpeningPage)
    expect(page.find('[data-verdict]').text().replaceAll(/\s+/g, ' ')).toMatch(says)
  })

  it('shows what another day moves before it is kept, under the revision that was seen', async () => {
    const moves = { currency: 'USD', lists: 1, revision: 'r1', comes: VIEW.before, staysBooked: VIEW.before }
    const asked = answers({
      '/opening/preview': { ...moves, leaves: { documents: 4, tax: '12.00', total: '100.00' } },
      '/opening': { ...VIEW, run: 'run1' },
      '/path': PATH,
    })
    const { page } = await mountIn(OpeningPage, { role: 'administrator' })
    await page.find('[data-opens]').setValue('2026-08')
    await page.find('[data-opening-day]').trigger('submit')
    await flushPromises()
    expect(page.find('[data-opening-preview]').text()).toContain(
      '4 documents with 12.00 USD of tax leave the books',
    )
    await page.find('[data-keep-opening]').trigger('click')
    await flushPromises()
    expect(asked.find(({ method }) => method === 'PUT')?.body).toEqual({ day: '2026-08-01', revision: 'r1' })
  })
})

describe('a list', () => {
  const LIST: OpeningListView = {
    currency: 'USD',
    day: '2026-07-01',
    account: account(),
    items: [],
    proposed: {
      from: 'entries',
      sum: '75.00',
      items: [{ reference: '7', party: 'Cards', date: null, amount: '75.00' }],
    },
    read: '75.00',
  }
  const mountList = async (changes: Partial<OpeningListView> = {}) => {
    const asked = answers({ '/accounts/2400': { ...LIST, ...changes }, '/path': PATH })
    return { asked, page: (await mountIn(OpeningListForm, { props: { account: '2400', may: true } })).page }
  }

  it('is taken as it is proposed, with what is left in sight, and kept', async () => {
    const { asked, page } = await mountList()
    expect(page.find('[data-list-open]').text()).toBe('75.00')
    await page.find('[data-proposed] button').trigger('click')
    expect([page.find('[data-list-sum]').text(), page.find('[data-list-open]').text()]).toEqual([
      '75.00',
      '–',
    ])
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(asked.find(({ method }) => method === 'PUT')?.body).toEqual({ items: LIST.proposed?.items })
  })

  it('says that nothing was found, and offers no guess', async () => {
    const { page } = await mountList({ proposed: null, read: '12.00' })
    expect([page.find('[data-proposed]').exists(), page.text()]).toEqual([
      false,
      expect.stringContaining('come to 12.00 USD on this account'),
    ])
    await page.find('[aria-label="Amount of line 1"]').setValue('many')
    expect([page.find('[data-list-sum]').text(), page.find('[data-list-open]').exists()]).toEqual([
      'not an amount yet',
      false,
    ])
  })

  test.each<[string, keyof ReturnType<typeof emptyLine>, string, boolean, string[][]]>([
    ['one cell is no table', 'reference', 'GC-1', false, [['', '', '', '']]],
    [
      'rows go down and to the right',
      'reference',
      'GC-1\tAda\t2026-06-01\t5.00\r\nGC-2\t\t\t6.00\n',
      true,
      [
        ['GC-1', 'Ada', '2026-06-01', '5.00'],
        ['GC-2', '', '', '6.00'],
      ],
    ],
    [
      'what is past the last column is left out',
      'date',
      '2026-06-01\t5.00\tmore',
      true,
      [['', '', '2026-06-01', '5.00']],
    ],
  ])('is pasted: %s', (_, field, text, isTable, wanted) => {
    const lines = [emptyLine()]
    expect(pasteInto(lines, { at: 0, field }, text)).toBe(isTable)
    expect(lines.map(({ reference, party, date, amount }) => [reference, party, date, amount])).toEqual(
      wanted,
    )
  })

  it('comes to what its lines say, and to nothing while one is no amount', () => {
    const line = (amount: string) => ({ ...emptyLine(), reference: 'a', amount })
    expect(sumOf([line('1.20'), line(' -0.20 '), emptyLine()], 'USD')).toBe('1.00')
    expect(sumOf([line('1.20'), line('0.205')], 'USD')).toBeNull()
    expect(itemsOf([emptyLine(), line('1')])).toHaveLength(1)
  })
})
