import { z } from 'zod'
import { JournalSides, TaxedDocuments } from './common.ts'
import { ListChoices, POST_STATES } from './lists.ts'

/** Post. Amounts are decimal strings in `currency`; null is "nothing stated" or "not pulled yet", never nil. */

export const PostState = z.enum(POST_STATES)
export type PostState = z.infer<typeof PostState>

export const PostRow = z.object({
  unit: z.string(),
  externalId: z.string().nullable(),
  number: z.string(),
  kind: z.string(),
  party: z.string(),
  date: z.string(),
  state: PostState,
  tax: z.string(),
  total: z.string(),
  /** The total in the document's own currency, where that is another. */
  foreign: z
    .object({
      currency: z.string(),
      total: z.string(),
    })
    .nullable(),
  remarks: z
    .array(
      z.object({
        code: z.string(),
        says: z.string(),
        mend: z.string(),
        blocks: z.boolean(),
      }),
    )
    .readonly(),
  reason: z
    .object({
      says: z.string(),
      mend: z.string(),
    })
    .nullable(),
})
export type PostRow = z.infer<typeof PostRow>

export const NotPostedSum = TaxedDocuments
export type NotPostedSum = z.infer<typeof NotPostedSum>

/** Documents of kinds that are not posted so far, beside what is tied out and no part of it; the tax is what their sources stated. */
export const NotPosted = z.object({
  sold: NotPostedSum,
  bought: NotPostedSum,
})
export type NotPosted = z.infer<typeof NotPosted>

export const PostView = z.object({
  currency: z.string(),
  counts: z.partialRecord(PostState, z.number()),
  tax: z.partialRecord(PostState, z.string()),
  /**
   * Since when nobody knows here what was sent: a backup was brought back. Each booking is looked up before it is sent, until a pull of the ledger shows
   * all that was; where the ledger states no longest late commit, until somebody says that they looked there.
   */
  restored: z.object({ at: z.string(), ends: z.enum(['pull', 'person']) }).nullable(),
  /** What has to hold before anything is posted: in words. */
  blocking: z.array(z.string()).readonly(),
  /** Nobody has checked the systems for the month yet. */
  unchecked: z.boolean(),
  /** Where people open the ledger; null where none is connected, or it says nothing. */
  ledger: z
    .object({
      name: z.string(),
      address: z.string(),
    })
    .nullable(),
  /** Why documents failed, each reason once: where to mend it, and how many it holds up. */
  reasons: z
    .array(
      z.object({
        code: z.string(),
        says: z.string(),
        mend: z.string(),
        documents: z.number(),
        tax: z.string(),
        state: PostState,
      }),
    )
    .readonly(),
  remarked: TaxedDocuments,
  notPosted: NotPosted,
  choices: ListChoices,
  rows: z.array(PostRow).readonly(),
  /** What the next page comes after; null where this is the last. */
  next: z.string().nullable(),
})
export type PostView = z.infer<typeof PostView>

/** How many documents a filter of Post finds, and what they state in the base currency: an answer of its own. */
export const PostSums = z.object({
  documents: z.number(),
  tax: z.string(),
  total: z.string(),
})
export type PostSums = z.infer<typeof PostSums>

/** What withdrawing would take out of the ledger. */
export const WithdrawPreview = z.object({
  currency: z.string(),
  ledger: z.string(),
  /** By the ledger's own void, or by a booking for the same amounts on the other side. */
  way: z.enum(['void', 'reversal']),
  documents: z
    .array(
      z.object({
        unit: z.string(),
        number: z.string(),
        party: z.string(),
        date: z.string(),
        entry: z.string(),
        tax: z.string(),
        total: z.string(),
      }),
    )
    .readonly(),
  /** Chosen ones that stay, and why. */
  kept: z
    .array(
      z.object({
        unit: z.string(),
        number: z.string(),
        why: z.string(),
      }),
    )
    .readonly(),
  journal: z.array(JournalSides).readonly(),
  revision: z.string(),
})
export type WithdrawPreview = z.infer<typeof WithdrawPreview>
