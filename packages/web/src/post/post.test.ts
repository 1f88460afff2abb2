import type { PostRow, PostView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, NONE_LEFT, PATH } from '../../test/mounting.ts'
import PostPage from './PostPage.vue'

afterEach(() => vi.unstubAllGlobals())

const row = (number: string, state: PostRow['state'], changes: Partial<PostRow> = {}): PostRow => ({
  unit: `billing/${number}`,
  externalId: number,
  number,
  kind: 'invoice',
  foreign: null,
  party: 'Blythe',
  date: '2026-09-01',
  state,
  tax: '5.00',
  total: '105.00',
  remarks: [],
  reason: null,
  ...changes,
})
const view = (rows: PostRow[], changes: Partial<PostView> = {}): PostView => {
  const counts: Partial<Record<PostRow['state'], number>> = {}
  for (const { state } of rows) counts[state] = (counts[state] ?? 0) + 1
  return {
    currency: 'USD',
    counts,
    tax: Object.fromEntries(Object.keys(counts).map((state) => [state, '5.00'])),
    restored: null,
    blocking: [],
    unchecked: false,
    ledger: null,
    reasons: [],
    remarked: { documents: 0, tax: '0.00' },
    notPosted: NONE_LEFT,
    choices: { systems: [], kinds: [] },
    next: null,
    rows,
    ...changes,
  }
}
const at = { path: '/larkspur/2026-09/post' }
const run = {
  id: 'r1',
  kind: 'post',
  state: 'running',
  step: 'sending',
  total: 2,
  done: 1,
  failed: 0,
  startedBy: '',
  problem: null,
  pulled: [],
}

describe('a backup that was brought back', () => {
  it.each([
    ['pull', 'Books', 'pull all in Connect'],
    ['person', 'Books', 'I looked: what stands there stands here'],
  ] as const)('ends by a %s', async (ends, name, way) => {
    const restored = { at: '2026-10-02T10:00:00Z', ends }
    const asked = answers({
      '/post': view([row('r', 'rehearsed')], {
        restored,
        ledger: { name, address: 'https://books.example' },
      }),
      '/post/looked': { known: true },
      '/path': PATH,
    })
    const { page } = await mountIn(PostPage, at)
    const note = page.get('[data-restored]')
    expect(note.text()).toContain('looked up in Books before it is sent')
    expect(note.text()).toContain(way)
    for (const button of note.findAll('button')) await button.trigger('click')
    expect(asked.some(({ path }) => path.endsWith('/post/looked'))).toBe(ends === 'person')
  })
})

describe('Post', () => {
  test.each<[string, PostRow[], RegExp]>([
    ['nothing is there', [], /^Not known yet/],
    ['nothing is rehearsed', [row('1', 'not-composed')], /^Not yet: 0 of 1 document sent, 1 not rehearsed/],
    ['some failed', [row('1', 'failed'), row('2', 'sent')], /^No: 1 failed\. 1 of 2 documents sent/],
    ['one is in doubt', [row('1', 'in-doubt'), row('2', 'booked')], /^No: 1 in doubt\. 1 of 2 documents/],
    ['all are sent', [row('1', 'sent'), row('2', 'booked')], /^Sent\. 1 are booked once/],
    ['all are booked', [row('1', 'booked'), row('2', 'booked')], /^Yes\. .*all 2 documents/],
  ])('gives the verdict when %s', async (_, rows, verdict) => {
    answers({ '/post': view(rows), '/path': PATH })
    const { page } = await mountIn(PostPage, at)
    expect(page.find('[data-verdict]').text()).toMatch(verdict)
  })

  it('posts nothing before it was confirmed, then just what was selected', async () => {
    const asked = answers({
      '/post': view([row('1', 'rehearsed'), row('2', 'rehearsed'), row('3', 'booked')]),
      '/path': PATH,
      '/post/runs/preview': {
        foretold: {
          documents: 1,
          tax: '5.00',
          causes: [
            {
              code: 'AXION_FORETOLD_AMOUNT',
              says: 'Ledger will book another tax.',
              mend: 'Send it.',
              documents: 1,
              tax: '5.00',
            },
          ],
        },
        currency: 'USD',
        ledger: 'Ledger',
        company: 'Larkspur',
        documents: 1,
        tax: '5.00',
        total: '105.00',
        blocked: { documents: 2, tax: '9.00' },
        revision: 'r7',
        voidedThere: 0,
        accounts: [{ account: '4000 Sales', debit: '0.00', credit: '100.00' }],
        remarked: { documents: 1, tax: '5.00' },
      },
      '/post/runs': { run: 'r1' },
      '/runs/r1': run,
    })
    const { page, press } = await mountIn(PostPage, at)
    expect(page.findAll('tbody input[type="checkbox"]')).toHaveLength(3)
    await press('j')
    await press('x')
    await page
      .findAll('button')
      .find((b) => b.text() === 'Post 1 selected')
      ?.trigger('click')
    await flushPromises()
    const posted = (): typeof asked =>
      asked.filter((a) => a.method === 'POST' && a.path.endsWith('/post/runs'))
    expect(posted()).toEqual([])
    const said = document.querySelector('[role="dialog"]')?.textContent?.replace(/\s+/g, ' ') ?? ''
    expect(said).toContain('5.00 USD of tax in 105.00 go to Ledger, Larkspur')
    expect(said).toContain('1 document, with 5.00 of tax, has a remark')
    expect(said).toContain('2 other documents of the choice, with 9.00 of tax, cannot be sent and stay here')
    expect(said).toContain('Ledger will make something else of 1 document with 5.00 USD of tax')
    // Nothing of it will be right: there is no posting only that.
    expect(document.querySelector('[data-only-right]')).toBeNull()
    document.querySelector<HTMLButtonElement>('[data-confirm]')?.click()
    await flushPromises()
    expect(posted()[0]).toMatchObject({
      body: { units: ['billing/1'], onlyRight: false, revision: 'r7' },
    })
  })

  it('says why a document failed and where to mend it', async () => {
    const failed = row('1', 'failed', {
      reason: { says: 'The ledger refused it.', mend: 'Mend it.' },
      remarks: [
        {
          code: 'AXION_RATE_NOT_LINKED',
          says: 'The rate is linked to nothing.',
          mend: 'Link it in Align.',
          blocks: false,
        },
      ],
    })
    answers({ '/post': view([failed]), '/path': PATH })
    const { page, press } = await mountIn(PostPage, at)
    expect(page.find('tbody .why').text()).toBe('The ledger refused it.')
    await press('j')
    expect(page.find('section.detail').text()).toContain('Link it in Align.')
    expect(page.find('section.detail a').attributes('href')).toBe('/larkspur/2026-09/align/rates')
  })

  it('holds up while a check fails, and lets a person look again at what is in doubt', async () => {
    const doubtful = row('1', 'in-doubt', { reason: { says: 'Nobody knows.', mend: 'Look.' } })
    const asked = answers({
      '/post': view([doubtful], { blocking: ['Will a document keep its number?'] }),
      '/path': PATH,
      '/look-again': { run: 'r1' },
      '/runs/r1': run,
    })
    const { page, press } = await mountIn(PostPage, at)
    expect(page.find('.note.bad').text()).toContain('Will a document keep its number?')
    await press('j')
    await page.find('section.detail button').trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.method === 'POST')?.body).toEqual({ units: ['billing/1'] })
  })
})

describe('Withdraw', () => {
  const booked = row('1', 'booked')
  const preview = {
    currency: 'USD',
    ledger: 'Ledger',
    way: 'void',
    revision: 'seen',
    documents: [
      {
        unit: booked.unit,
        number: '1',
        party: 'Blythe',
        date: '2026-09-01',
        entry: '48001',
        tax: '5.00',
        total: '105.00',
      },
    ],
    kept: [
      {
        unit: 'billing/2',
        number: '2',
        why: 'The ledger is locked through 2026-08-31: it can be corrected, not withdrawn.',
      },
    ],
    journal: [{ account: '1100 Receivable', debit: null, credit: '105.00' }],
  }
  it('shows the entries and accounts first, says what stays and why, and goes by what was seen', async () => {
    const asked = answers({
      '/post': view([booked, row('2', 'booked')]),
      '/path': PATH,
      '/withdrawals/preview': preview,
      '/withdrawals': { run: 'r1' },
      '/runs/r1': run,
    })
    const { page, press } = await mountIn(PostPage, at)
    await press('j')
    await press('x')
    await page
      .findAll('button')
      .find((b) => b.text() === 'Withdraw 1 selected')
      ?.trigger('click')
    await flushPromises()
    const dialog = page.find('[data-withdraw]').text()
    expect(dialog).toContain('The ledger voids these entries')
    expect(dialog).toContain('2 stays. The ledger is locked through 2026-08-31')
    await page.find('[data-withdraw] [data-confirm]').trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.path.endsWith('/withdrawals'))?.body).toEqual({
      units: [booked.unit],
      revision: 'seen',
    })
  })

  it('names each reason once, with how many wait for it and where it is mended', async () => {
    const reasons = [
      {
        code: 'AXION_LEDGER_REFUSED',
        says: 'The ledger refused it: The tax rate "X" is not known.',
        mend: 'Mend it.',
        documents: 12,
        tax: '99.00',
        state: 'failed' as const,
      },
    ]
    answers({ '/post': view([row('1', 'failed')], { reasons }), '/path': PATH })
    const { page } = await mountIn(PostPage, at)
    expect(page.find('[data-reason]').text()).toMatch(/refused it.*12 documents.*99\.00.*Mend in Align/)
  })

  it('has the systems checked for a month that nobody looked at, where posting waits for it', async () => {
    const blocking = ['Nobody has checked the systems for this month yet.']
    const asked = answers({
      '/post': view([row('1', 'rehearsed')], { blocking, unchecked: true }),
      '/path': PATH,
      '/checks': { checked: true },
    })
    const { page } = await mountIn(PostPage, at)
    const check = page.find('[data-blocking] button')
    expect([check.text(), page.find('[data-blocking] a').exists()]).toEqual(['Check them now', false])
    await check.trigger('click')
    await flushPromises()
    expect(asked.filter(({ method }) => method === 'POST').map(({ path }) => path)).toEqual([
      '/api/entities/larkspur/months/2026-09/checks',
    ])
  })
})
