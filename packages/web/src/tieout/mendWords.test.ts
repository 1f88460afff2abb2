import type { FullProofView, LastFullProof, Remedy, RemedyPreview, TieOutView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, NONE_LEFT, PATH } from '../../test/mounting.ts'
import { mendWords } from './mendWords.ts'
import TieOutPage from './TieOutPage.vue'

afterEach(() => vi.unstubAllGlobals())

const preview = (remedy: Remedy, changes: Partial<RemedyPreview> = {}): RemedyPreview => ({
  remedy,
  system: 'Ledger',
  object: '',
  revision: 'r',
  changes: [],
  journal: [],
  documents: 3,
  numbers: [],
  unproved: '1284.16',
  currency: 'USD',
  ...changes,
})
const setUp: Remedy = { kind: 'liability-account', systemId: 'ledger', objectId: 'a1' }
const of = (kind: 'book-again' | 'correct' | 'take-back' | 'accept', cause = 'c'): Remedy => ({ kind, cause })

describe('what a remedy says before it is carried out', () => {
  test.each<[string, RemedyPreview, string, RegExp]>([
    [
      'a set-up, with documents',
      preview(setUp),
      'Send it and book 3 documents again',
      /3 documents with 1,284\.16 USD not proved are booked again/,
    ],
    [
      'a set-up that nothing rests on',
      preview(setUp, { documents: 0, unproved: '0.00' }),
      'Send it',
      /nothing is booked again/,
    ],
    [
      'booking one again',
      preview(of('book-again'), { documents: 1 }),
      'Book 1 document again',
      /stays in Post with its reason/,
    ],
    ['a correction', preview(of('correct')), 'Write 3 correcting entries', /One entry a document/],
    [
      'doubles',
      preview(of('take-back', 'duplicate')),
      'Void the doubles of 3 documents',
      /on the other side/,
    ],
    [
      'what is void at its source',
      preview(of('take-back', 'voided|source'), { documents: 1 }),
      'Void 1 document in the ledger',
      /on the other side/,
    ],
    ['an edit', preview(of('accept')), 'Accept the edit of 3 documents', /Nothing is sent/],
  ])('%s', (_, given, act, after) => {
    const words = mendWords(given, (text) =>
      Number(text).toLocaleString('en-US', { minimumFractionDigits: 2 }),
    )
    expect(words.act).toBe(act)
    expect(words.after).toMatch(after)
  })
})

describe('a cause with more than one explanation', () => {
  const cause = {
    key: 'k',
    facts: { kind: 'sign', system: 'Ledger' },
    others: [],
    headline: 'amount',
    documents: 3,
    unproved: '9.00',
    unprovedNet: '0.00',
    remedies: [setUp, of('correct')],
    asks: true,
    keepable: 0,
    keptWaiting: 0,
    unsearched: { bounded: 0, waiting: 0 },
  } as const
  const view: TieOutView = {
    currency: 'USD',
    unproved: '9.00',
    unprovedNet: '0.00',
    expected: '90.00',
    documents: 3,
    proved: 1,
    pulled: true,
    awaits: [],
    choices: { systems: [], kinds: [] },
    next: null,
    notFresh: [],
    kept: { kept: 0, cured: 0, over: '0.00', under: '0.00', waiting: 0 },
    notPosted: NONE_LEFT,
    resting: null,
    overridden: false,
    causes: [cause],
    rows: [],
  }
  it('asks, and chooses nothing by itself; what is chosen is previewed, and sent under what was seen', async () => {
    const corrected = preview(of('correct'), {
      journal: [
        { account: '2210 Sales tax', debit: null, credit: '9.00' },
        { account: '1100 Receivable', debit: '9.00', credit: null },
      ],
    })
    const asked = answers({
      '/tie-out': view,
      '/path': PATH,
      '/mend/tried': [
        { remedy: of('correct'), leaves: 0, why: null },
        { remedy: of('book-again'), leaves: 2, why: 'It will come out so once more.' },
      ],
      '/mend/preview': corrected,
      '/mend': { run: 'r1' },
      '/runs/r1': {
        id: 'r1',
        kind: 'mend',
        state: 'done',
        step: '',
        total: 3,
        done: 3,
        failed: 0,
        startedBy: '',
        problem: null,
        pulled: [],
      },
    })
    const { page, press } = await mountIn(TieOutPage, { path: '/larkspur/2026-09/tie-out' })
    await press('m')
    await flushPromises()
    expect(page.find('[data-mend]').text()).toContain('More than one explanation fits equally')
    expect(asked.some((a) => a.path.endsWith('/mend/preview'))).toBe(false)
    expect(page.find('[data-leaves="book-again"]').text()).toBe(
      'leaves 2 documents as wrong as before. It will come out so once more.',
    )
    await page.findAll('input[type="radio"]')[0]?.setValue(true)
    await flushPromises()
    expect(page.find('table[aria-label="Accounts moved"]').text()).toContain('2210 Sales tax9.00')
    await page.find('[data-mend] .do.first').trigger('click')
    await flushPromises()
    expect(asked.find((a) => a.path.endsWith('/mend'))?.body).toEqual({
      remedy: of('correct'),
      revision: 'r',
    })
  })

  it.each<[string, Partial<LastFullProof['last']>, Partial<FullProofView>, RegExp]>([
    [
      'agrees',
      {},
      {},
      /^The full proof agrees, as at .*: 177 documents worked out anew, and 1,204 tax facts summed, and each verdict as it is shown\.$/,
    ],
    [
      'is older than what was recorded since',
      { stands: false },
      {},
      /^The last full proof is of .*: something was recorded since\.$/,
    ],
    [
      'found one amiss',
      { stands: false },
      { otherwise: 1, named: [{ unit: 'billing/1', number: 'LA-1', quick: 'otherwise' }] },
      /found a fault of Axion’s, to be reported; what it found is right by now\. 1 document was kept otherwise than worked out anew\. Concerned: LA-1\.$/,
    ],
    [
      'found sums amiss',
      {},
      { miscounted: 2, disagreeing: 3 },
      /3 documents were judged otherwise than the facts come to\. 2 sums that pages show were counted otherwise than the documents come to\.$/,
    ],
  ])('says that the last full proof %s', async (_, changes, found, says) => {
    const full = {
      documents: 177,
      facts: 1204,
      astray: 85,
      disagreeing: 0,
      otherwise: 0,
      miscounted: 0,
      named: [],
    }
    const last = {
      full: { ...full, ...found },
      at: '2026-10-02T15:20:00Z',
      by: 'P',
      stands: true,
      ...changes,
    }
    answers({ '/tie-out': view, '/path': PATH, '/full-proof': { last } })
    const { page } = await mountIn(TieOutPage, { path: '/larkspur/2026-09/tie-out' })
    await flushPromises()
    expect(page.find('[data-full-proof]').text().replace(/\s+/g, ' ')).toMatch(says)
  })
})
