import type { Evidence, Selector } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn } from '../../test/mounting.ts'
import Amount from '../figures/Amount.vue'
import Joint from '../figures/Joint.vue'
import EvidenceChain from './EvidenceChain.vue'
import EvidenceDock from './EvidenceDock.vue'
import { nameOf } from './words.ts'

afterEach(() => vi.unstubAllGlobals())

const link = (
  role: 'source' | 'determination' | 'booking' | 'ledger' | 'account',
  amount: string | null,
  gap: string | null,
) => ({
  role,
  title: role,
  detail: '',
  lines: [
    {
      label: 'Hollis',
      base: '3960.00',
      detail: 'at 1.45 %',
      since: null,
      amiss: false,
      debit: null,
      credit: '57.42',
    },
  ],
  amount,
  silence: amount === null ? ('not-booked' as const) : null,
  gap,
  inBase: null,
  gapInBase: null,
  balance: null,
  address: null,
})
const DOCUMENT = {
  number: 'LA-1',
  party: 'Blythe',
  date: '2026-09-17',
  unit: 'u',
  posted: true,
  kind: 'invoice',
}
const chain = (changes: object = {}): Extract<Evidence, { kind: 'chain' }> => ({
  kind: 'chain',
  selector: { of: 'unproved' },
  amount: '7.92',
  currency: 'USD',
  document: DOCUMENT,
  chainCurrency: 'USD',
  exchangeRate: null,
  agency: 'Hollis County Treasurer',
  headline: 'amount',
  proved: false,
  determined: { at: '2026-10-02T14:05:00.000001+00:00', core: 1, isCurrent: true },
  departures: [],
  kept: [],
  settled: null,
  settledWith: null,
  causes: [
    {
      kind: 'component-percent',
      system: 'Ledger',
      rate: 'Fenwick',
      jurisdiction: 'Hollis',
      theirs: '1.25',
      ours: '1.45',
      since: '2026-09-01',
    },
  ],
  chain: [
    link('source', '57.42', null),
    link('determination', '57.42', '0.00'),
    link('booking', '57.42', '0.00'),
    link('ledger', '49.50', '-7.92'),
    link('account', '49.50', '0.00'),
  ],
  breaksAt: 3,
  ...changes,
})

describe('an amount', () => {
  test.each<[string, object, string, string]>([
    ['opens', { value: '1284.16', of: { of: 'tax' } }, 'button.amount', '1,284.16'],
    ['has one minus style', { value: '-0.50', of: { of: 'gap' } }, 'button.amount', '−0.50'],
    [
      'shows its sign where it is a difference',
      { value: '0.50', of: { of: 'gap' }, signed: true },
      'button.amount',
      '+0.50',
    ],
    ['is a dash where it is nil', { value: '0.00', of: { of: 'tax' } }, '.nil', '–'],
    ['says that it is not stated', { value: null }, '.silence', 'not stated'],
    ['says that it was not pulled', { value: null, silence: 'not pulled' }, '.silence', 'not pulled'],
    [
      'is exact past what floats can hold',
      { value: '9007199254740993.01', of: { of: 'tax' } },
      'button.amount',
      '9,007,199,254,740,993.01',
    ],
  ])('%s', async (_, props, selector, text) => {
    const { page } = await mountIn(Amount, { props })
    expect(page.find(selector).text()).toBe(text)
  })

  it('puts what it opens into the address', async () => {
    const { page, router } = await mountIn(Amount, {
      props: { value: '5.00', of: { of: 'tax', voice: 'booked', agency: 'HCT' } satisfies Selector },
    })
    await page.find('button').trigger('click')
    await flushPromises()
    expect(router.currentRoute.value.query['open']).toBe('of=tax&voice=booked&agency=HCT')
  })
})

describe('what stands between two neighbours', () => {
  test.each<[string, object, string]>([
    ['a hairline where they agree', { gap: '0.00' }, '.holds'],
    ['the difference where they do not', { gap: '-64.67', of: { of: 'gap' } }, '.broken'],
    ['silence where one says nothing', { gap: '5.00', silent: true, words: 'no split' }, '.silent'],
  ])('%s', async (_, props, selector) => {
    const { page } = await mountIn(Joint, { props })
    expect(page.find(selector).exists()).toBe(true)
  })
})

describe('a chain', () => {
  it('says the cause, marks the first broken link and no other', async () => {
    const { page } = await mountIn(EvidenceChain, { props: { evidence: chain() } })
    expect(page.find('.sentence').text()).toBe(
      'Ledger holds Hollis at 1.25\u00a0% in “Fenwick”. The baseline has 1.45\u00a0% since September 1, 2026.',
    )
    expect(page.findAll('.link.broken').map((l) => l.attributes('data-link'))).toEqual(['ledger'])
    expect(page.find('.between.first').text()).toContain('−7.92')
    expect(page.findAll('.between.broken')).toHaveLength(1)
    expect(page.find('[data-departures]').exists()).toBe(false)
  })

  test.each([
    [true, /Prove it anew\. If it comes back/],
    [false, /The next pull proves it anew/],
  ])(
    'says where what is stored is not what it comes to, and what to do (this version: %s)',
    async (isCurrent, step) => {
      const departures = [
        {
          voice: 'expected',
          kind: 'tax',
          agency: 'Hollis',
          account: '2212',
          currency: 'USD',
          stored: '12.40',
          worked: '12.30',
        },
      ]
      const determined = { at: '2026-10-02T14:05:00Z', core: 1, isCurrent }
      const { page } = await mountIn(EvidenceChain, {
        props: { evidence: chain({ departures, determined }) },
      })
      const said = page.find('[data-departures]').text()
      expect(said).toContain('Expected tax of Hollis in 2212: 12.40 USD stored, 12.30 worked out.')
      expect(said).toMatch(step)
    },
  )

  test.each<[string, object, string]>([
    ['what it keeps', { cancelled: false, amount: '12.50' }, 'Reckoner keeps it, with 12.50 USD of tax'],
    [
      'what was cancelled',
      { cancelled: true, amount: '12.50' },
      'Reckoner has it as cancelled, with 12.50 USD of tax',
    ],
    ['nothing', { cancelled: false, amount: null }, 'Reckoner was never told of it'],
  ])('says of a tax service %s', async (_, kept, says) => {
    const evidence = chain({ kept: [{ system: 'Reckoner', currency: 'USD', address: null, ...kept }] })
    const { page } = await mountIn(EvidenceChain, { props: { evidence } })
    expect(page.find('[data-kept-there]').text().replaceAll(/\s+/g, ' ')).toBe(says)
  })

  test.each<[string, object, string]>([
    [
      'a proved document',
      { proved: true, causes: [], headline: null, breaksAt: null },
      'Stated, expected and booked agree, in the right account.',
    ],
    [
      'a difference that nothing explains',
      { causes: [{ kind: 'unexplained', headline: 'amount', odd: ['stated'] }] },
      'The amounts differ. Neither one assumption nor two reproduce it: stated stands alone.',
    ],
    [
      'a part that agrees',
      { causes: [{ kind: 'unexplained', headline: 'amount', odd: ['stated'] }], breaksAt: null },
      'This part of the document agrees.',
    ],
    [
      'what was never readable, though nothing of it can break',
      {
        causes: [
          { kind: 'flawed', code: 'AXION_NEVER_READ', facts: { system: 'Billing', problem: 'no currency' } },
        ],
        headline: 'amount',
        breaksAt: null,
      },
      'Billing has it, and it cannot be read: no currency. Its amounts are not known. Correct it at its source; the next pull reads it again.',
    ],
    [
      'what the ledger has without a document',
      { causes: [{ kind: 'unexplained', headline: 'orphan', odd: ['booked'] }], breaksAt: null },
      'The ledger holds tax that no source document stands behind.',
    ],
    [
      'a receipt',
      {
        causes: [],
        headline: null,
        breaksAt: null,
        document: { ...DOCUMENT, unit: 'pos/1', posted: false },
      },
      'Stated and expected agree. Documents of this kind are not posted yet.',
    ],
    [
      'a draft',
      { causes: [], headline: null, breaksAt: null },
      'A draft, or left out: nothing of it is booked.',
    ],
    [
      'what is not composed',
      {
        causes: [{ kind: 'missing', why: 'not-sent' }],
        headline: 'missing',
        chain: [
          link('source', '1.00', null),
          link('determination', '1.00', '0.00'),
          link('booking', null, null),
        ],
      },
      'Nothing of it is composed yet.',
    ],
  ])('of %s says so', async (_, changes, sentence) => {
    const { page } = await mountIn(EvidenceChain, { props: { evidence: chain(changes) } })
    expect(page.find('.sentence').text()).toBe(sentence)
  })
})

describe('the dock', () => {
  const members: Evidence = {
    kind: 'members',
    selector: { of: 'unproved', account: '2212' },
    amount: '12.00',
    currency: 'USD',
    members: [
      { label: 'LA-1', detail: 'Blythe', amount: '7.00', open: { of: 'unproved', unit: 'u1' } },
      { label: 'LA-2', detail: 'Ravel', amount: '5.00', open: { of: 'unproved', unit: 'u2' } },
    ],
  }

  it('opens a total into its parts, walked and opened by keyboard, and closes', async () => {
    const asked = answers({ '/evidence': members })
    const { page, router, press } = await mountIn(EvidenceDock, {
      query: { open: 'of=unproved&account=2212' },
    })
    await flushPromises()
    expect(page.find('[data-evidence="members"]').text()).toContain('2 parts that sum to 12.00 USD exactly')
    await press('j')
    expect(page.find('li.chosen').text()).toContain('LA-2')
    await press('Enter')
    expect(router.currentRoute.value.query['open']).toBe('of=unproved&unit=u2')
    await press('Escape')
    expect(page.find('.dock').exists()).toBe(false)
    expect(asked.length).toBeGreaterThan(1)
  })

  it('has a document proved anew whose stored figures are other than it comes to', async () => {
    const departures = [
      {
        voice: 'expected',
        kind: 'tax',
        agency: '',
        account: '',
        currency: 'USD',
        stored: '2.00',
        worked: '1.00',
      },
    ]
    const asked = answers({ '/evidence': chain({ departures }), '/evidence/doubt': { number: 'LA-1' } })
    const { page } = await mountIn(EvidenceDock, { query: { open: 'of=total&unit=u' } })
    await flushPromises()
    await page.find('[data-departures] button').trigger('click')
    await flushPromises()
    expect(
      asked.filter(({ method }) => method === 'POST').map(({ path, body }) => [path.split('/').at(-1), body]),
    ).toEqual([
      ['doubt', { unit: 'u' }],
      ['pulls', { systemIds: null }],
    ])
  })

  it('says what is wrong where there is no evidence', async () => {
    answers({
      '/evidence': { status: 404, title: 'There is no such document here.', detail: 'Check the address.' },
    })
    const { page } = await mountIn(EvidenceDock, { query: { open: 'of=net&unit=none' } })
    await flushPromises()
    expect(page.find('[role="alert"]').text()).toContain('There is no such document here.')
  })
})

describe('words', () => {
  test.each<[Selector, string]>([
    [{ of: 'tax', voice: 'expected', account: '2212' }, 'Expected tax, account 2212'],
    [{ of: 'gap', voice: 'booked', against: 'expected' }, 'Booked less expected'],
    [{ of: 'unproved' }, 'Tax not proved'],
    [{ of: 'stake' }, 'Tax at stake'],
  ])('%o', (selector, name) => expect(nameOf(selector)).toBe(name))
})
