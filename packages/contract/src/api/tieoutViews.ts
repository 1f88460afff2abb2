import { z } from 'zod'
import { MonthResting } from './decisions.ts'
import { OverUnder } from './common.ts'
import { NotFresh } from './connectViews.ts'
import { CauseFacts } from './evidence.ts'
import { ListChoices } from './lists.ts'
import { NotPosted } from './postViews.ts'
import { Remedy } from './remedy.ts'

/** Tie out and the close sheet. Amounts are decimal strings in `currency`; null is "nothing stated" or "not pulled yet", never nil. */

/** What summing every fact anew says beside the quick proof. */
export const FullProofView = z.object({
  documents: z.number(),
  facts: z.number(),
  astray: z.number(),
  /** Documents of which something is kept otherwise than they come to when they are worked out anew: a fault of Axion's own. */
  otherwise: z.number(),
  /** Documents whose signatures say something else than the sums of their facts: a fault of Axion's own. */
  disagreeing: z.number(),
  /** Sums by agency and account that were kept otherwise than their parts come to, and are counted anew: a fault of Axion's own. */
  miscounted: z.number(),
  named: z
    .array(
      z.object({
        unit: z.string(),
        number: z.string(),
        /** What the quick proof says of it; `otherwise` where what is kept is not what it comes to. */
        quick: z.enum(['differs', 'agrees', 'otherwise']),
      }),
    )
    .readonly(),
})
export type FullProofView = z.infer<typeof FullProofView>

/** The last full proof of a month that came to its end; null where there was none. */
export const LastFullProof = z.object({
  last: z
    .object({
      full: FullProofView,
      at: z.string(),
      by: z.string(),
      /** Whether nothing was recorded since it began: what it says is of what stands now. */
      stands: z.boolean(),
    })
    .nullable(),
})
export type LastFullProof = z.infer<typeof LastFullProof>

export const CauseView = z.object({
  key: z.string(),
  facts: CauseFacts,
  others: z.array(CauseFacts).readonly(),
  headline: z.string(),
  documents: z.number(),
  unproved: z.string(),
  unprovedNet: z.string(),
  /** What can be done about it here, the best first; none where it is mended at its source. */
  remedies: z.array(Remedy).readonly(),
  /** More than one kind of explanation is left: somebody has to say which it is. */
  asks: z.boolean(),
  /** Documents whose ledger holds what was charged: their difference can be kept as it is; and how many of them wait for a review of that. */
  keepable: z.number(),
  keptWaiting: z.number(),
  /** Documents of which not every pair of mistakes was tried: there are more than are tried of any, or they wait for one of the next pulls. */
  unsearched: z.object({ bounded: z.number(), waiting: z.number() }),
})
export type CauseView = z.infer<typeof CauseView>

/** Differences of a month that are settled: kept with a reason and reviewed, or given back by a credit. */
export const KeptSums = z.object({
  kept: z.number(),
  cured: z.number(),
  /** Charged too much: it has to be remitted, or was given back. */
  over: z.string(),
  /** Charged too little: it is still owed. */
  under: z.string(),
  /** Kept, and not reviewed yet: they count as not proved. */
  waiting: z.number(),
})
export type KeptSums = z.infer<typeof KeptSums>

export const KeptView = z.object({
  currency: z.string(),
  documents: z
    .array(
      z.object({
        unit: z.string(),
        number: z.string(),
        party: z.string(),
        over: z.string(),
        under: z.string(),
        kept: z
          .object({
            reason: z.string(),
            by: z.string(),
            at: z.string(),
            reviewedBy: z.string().nullable(),
            reviewedAt: z.string().nullable(),
          })
          .nullable(),
        /** The documents that give it back, or that it gives back. */
        givenBackWith: z.string().nullable(),
      }),
    )
    .readonly(),
})
export type KeptView = z.infer<typeof KeptView>

/** What keeping the differences of a cause would set apart. */
export const KeepPreview = OverUnder.extend({
  documents: z.number(),
  currency: z.string(),
  revision: z.string(),
})
export type KeepPreview = z.infer<typeof KeepPreview>

/** What of a cause is corrected elsewhere, document by document. */
export const WorkList = z.object({
  currency: z.string(),
  cause: z.string(),
  documents: z
    .array(
      z.object({
        unit: z.string(),
        number: z.string(),
        party: z.string(),
        date: z.string(),
        system: z.string(),
        /** Where people open it there. */
        address: z.string().nullable(),
        lines: z
          .array(
            z.object({
              agency: z.string().nullable(),
              account: z.string().nullable(),
              stated: z.string().nullable(),
              expected: z.string().nullable(),
              booked: z.string().nullable(),
            }),
          )
          .readonly(),
        /** Who says that it is corrected; `stillWrong` where a pull since found it as it was. */
        ticked: z
          .object({
            by: z.string(),
            at: z.string(),
            stillWrong: z.boolean(),
          })
          .nullable(),
      }),
    )
    .readonly(),
})
export type WorkList = z.infer<typeof WorkList>

export const TieOutRow = z.object({
  unit: z.string(),
  number: z.string(),
  party: z.string(),
  date: z.string(),
  agency: z.string().nullable(),
  agencyName: z.string().nullable(),
  account: z.string().nullable(),
  stated: z.string().nullable(),
  expected: z.string().nullable(),
  booked: z.string().nullable(),
  unproved: z.string(),
  headline: z.string().nullable(),
  facets: z.array(z.string()).readonly(),
  cause: z.string().nullable(),
  /** Whether documents of its kind are posted so far. */
  posted: z.boolean(),
  proved: z.boolean(),
  /** Kept, or given back by a credit. */
  settled: z.enum(['kept', 'cured']).nullable(),
  first: z.boolean(),
  /** Whether the baseline can say what is expected: of no line, of some, of all. */
  known: z.enum(['no', 'partly', 'yes']),
  /** The ledger names no agency on a tax line of this document. */
  bookedUnnamed: z.boolean(),
  /** Its document is not proved, and no line of it is astray: it stands for the document. */
  unprovedAlone: z.boolean(),
})
export type TieOutRow = z.infer<typeof TieOutRow>

export const TieOutView = z.object({
  currency: z.string(),
  unproved: z.string(),
  unprovedNet: z.string(),
  expected: z.string(),
  documents: z.number(),
  proved: z.number(),
  pulled: z.boolean(),
  /** Systems that were never pulled and without which nothing can be said to be proved. */
  awaits: z.array(z.string()).readonly(),
  notFresh: z.array(NotFresh).readonly(),
  kept: KeptSums,
  notPosted: NotPosted,
  /** What rests on rates and rules that nobody checked; null where nothing does. */
  resting: MonthResting.nullable(),
  /** Whether somebody overrode what a source would have charged: such documents are a list of their own. */
  overridden: z.boolean(),
  causes: z.array(CauseView).readonly(),
  rows: z.array(TieOutRow).readonly(),
  choices: ListChoices,
  /** What the next page comes after; null where this is the last. */
  next: z.string().nullable(),
})
export type TieOutView = z.infer<typeof TieOutView>

/** How many documents a filter of Tie out finds, and what they come to: an answer of its own, since nobody waits for it to read the first rows. */
export const TieOutSums = z.object({
  documents: z.number(),
  stated: z.string(),
  expected: z.string(),
  booked: z.string(),
  unproved: z.string(),
})
export type TieOutSums = z.infer<typeof TieOutSums>

export const CloseRow = z.object({
  agency: z.string().nullable(),
  agencyName: z.string(),
  account: z.string().nullable(),
  accountName: z.string(),
  stated: z.string().nullable(),
  /** Tax expected on documents whose source states no split: stated is silent about it. */
  unsplit: z.string(),
  expected: z.string(),
  booked: z.string().nullable(),
  /** The account's balance at the end of the month; null on further rows of the same account, and before a pull. */
  balance: z.string().nullable(),
  balanceGap: z.string(),
  sharesAccount: z.boolean(),
  /** Where too much on some documents and too little on others would hide each other: expected less stated, and booked less expected. */
  statedApart: OverUnder,
  bookedApart: OverUnder,
  unproved: z.string(),
})
export type CloseRow = z.infer<typeof CloseRow>

export const CloseView = z.object({
  currency: z.string(),
  pulledAt: z.string().nullable(),
  /** Systems that were never pulled and without which nothing can be said to be proved. */
  awaits: z.array(z.string()).readonly(),
  notFresh: z.array(NotFresh).readonly(),
  unproved: z.string(),
  unprovedNet: z.string(),
  expected: z.string(),
  documents: z.number(),
  kept: KeptSums,
  notPosted: NotPosted,
  /** What rests on rates and rules that nobody checked; null where nothing does. */
  resting: MonthResting.nullable(),
  causes: z
    .array(
      z.object({
        key: z.string(),
        unit: z.string(),
        agency: z.string().nullable(),
        unproved: z.string(),
      }),
    )
    .readonly(),
  rows: z.array(CloseRow).readonly(),
  totals: z.object({
    stated: z.string(),
    expected: z.string(),
    booked: z.string(),
    balance: z.string(),
    unproved: z.string(),
  }),
  history: z
    .array(
      z.object({
        at: z.string(),
        unproved: z.string(),
        share: z.number(),
      }),
    )
    .readonly(),
})
export type CloseView = z.infer<typeof CloseView>
