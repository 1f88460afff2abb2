import type { Remedy, RemedyPreview } from '@axion/contract'
import { count, isNil } from '../figures/format.ts'

/** What can be done, and whether somebody has to choose. */
export interface Mending {
  readonly remedies: readonly Remedy[]
  readonly asks: boolean
  /** Of a cause of Tie out: its remedies are tried before they are shown. */
  readonly cause?: string
}

export interface MendWords {
  readonly title: string
  readonly what: string
  readonly after: string
  readonly act: string
}

const PULLED = 'then both systems are pulled. Only that pull can prove them.'

/** What a remedy is called where several can be chosen from. */
export const CHOICE: Readonly<Record<RemedyPreview['remedy']['kind'], string>> = {
  'component-percent': 'Send the baseline’s percent, then book again',
  'liability-account': 'Send the right account, then book again',
  send: 'Send the baseline’s values',
  create: 'Make it there',
  adopt: 'Take the system’s values into the baseline',
  'take-in': 'Take it into the baseline',
  'post-to': 'Post it to another account',
  'book-again': 'Book again as agreed now',
  correct: 'Write correcting entries',
  'take-back': 'Take them back out',
  accept: 'Accept the edit',
  tell: 'Tell the tax service',
}

/** What a remedy is called before it is carried out: what leaves, to how much, and what follows. */
export function mendWords(preview: RemedyPreview, amount: (text: string) => string): MendWords {
  const { remedy, system, documents, unproved, currency } = preview
  const it: Mended = {
    system,
    documents,
    them: count(documents, 'document'),
    money: `${amount(unproved)} ${currency}`,
    books: documents > 0 && !isNil(unproved),
    doubles: 'cause' in remedy && remedy.cause === 'duplicate',
  }
  return WORDS[remedy.kind](it)
}

/** What a remedy would change, in words. */
interface Mended {
  readonly system: string
  readonly documents: number
  readonly them: string
  readonly money: string
  /** Whether documents with money that is not proved are booked again. */
  readonly books: boolean
  readonly doubles: boolean
}

const sentAndBooked = ({ system, documents, them, money, books }: Mended): MendWords => ({
  title: `Send to ${system}`,
  what: '',
  act: books ? `Send it and book ${them} again` : 'Send it',
  after:
    documents > 0
      ? `Then ${them} with ${money} not proved ${documents === 1 ? 'is' : 'are'} booked again in place, and both systems are pulled. Only that pull can prove them.`
      : 'No booked document rests on it, so nothing is booked again.',
})

const WORDS: Readonly<Record<RemedyPreview['remedy']['kind'], (it: Mended) => MendWords>> = {
  'component-percent': sentAndBooked,
  'liability-account': sentAndBooked,
  adopt: ({ system }) => ({
    title: `Take over from ${system}`,
    what: '',
    act: 'Take it into the baseline',
    after: 'Nothing is sent. What was agreed before stays readable in the trail; every month is proved anew.',
  }),
  'take-in': ({ system }) => ({
    title: `Take in from ${system}`,
    what: '',
    act: 'Take it into the baseline',
    after: 'Nothing is sent. It is linked to where it came from, and every month is proved anew.',
  }),
  'post-to': ({ system, documents, them }) => ({
    title: 'Post it to another account',
    what: '',
    act: 'Change the posting rule',
    after: `Nothing is sent. ${documents === 0 ? 'No booked document would differ now.' : `${them} booked in ${system} would differ now: Post offers to book ${documents === 1 ? 'it' : 'them'} again.`}`,
  }),
  create: ({ system }) => ({
    title: `Make it in ${system}`,
    what: '',
    act: `Make it in ${system}`,
    after: 'Then the systems are pulled. What is made there is removed there, if it is to go again.',
  }),
  send: ({ system }) => ({
    title: `Send to ${system}`,
    what: '',
    act: 'Send it',
    after:
      'Then the systems are pulled. What their documents were charged with stays as it is, until they are charged again.',
  }),
  'book-again': ({ system, documents, them, money }) => ({
    title: `Book ${them} again in ${system}`,
    what: `${them} with ${money} not proved ${documents === 1 ? 'is' : 'are'} composed anew from what is agreed now, and ${documents === 1 ? 'replaces' : 'replace'} what stands there.`,
    after: `What the ledger refuses stays in Post with its reason; ${PULLED}`,
    act: `Book ${them} again`,
  }),
  correct: ({ system, documents, them }) => ({
    title: `Correct ${them} in ${system}`,
    what: 'What is booked and what should be differ, account by account, by:',
    act: `Write ${count(documents, 'correcting entry', 'correcting entries')}`,
    after: `One entry a document, on its own date where the books are open. What stands in the ledger stays; ${PULLED}`,
  }),
  'take-back': ({ system, documents, them, money, doubles }) => ({
    title: `Take back out of ${system}`,
    act: doubles ? `Void the doubles of ${them}` : `Void ${them} in the ledger`,
    what: doubles
      ? `${them} ${documents === 1 ? 'stands' : 'stand'} there more than once. One booking of each stays; the others are voided.`
      : `${them} with ${money} ${documents === 1 ? 'is' : 'are'} void at the source and still booked there.`,
    after: `A ledger that has no void gets an entry for the same amounts on the other side; ${PULLED}`,
  }),
  tell: ({ system, documents, them, money }) => ({
    title: `Tell ${system} what became of ${them}`,
    what: `${them} with ${money} not proved ${documents === 1 ? 'stands' : 'stand'} otherwise there. It is told, document by document:`,
    act: `Tell it of ${them}`,
    after: 'What it refuses is said. Then it is pulled; only that pull can prove them.',
  }),
  accept: ({ system, documents, them }) => ({
    title: `Accept an edit made in ${system}`,
    what: `Somebody changed ${them} there after we booked ${documents === 1 ? 'it' : 'them'}. No amount, account or date moved.`,
    act: `Accept the edit of ${them}`,
    after: 'Nothing is sent. The edit stays in the audit trail, with who accepted it.',
  }),
}
