import { z } from 'zod'
import { Named, TaxedDocuments } from './common.ts'
import { amount, date } from '../bridge/primitives.ts'

/** So many rows of a list or a grid come with one answer where nobody asks for another number. */
export const PAGE_ROWS = 200

/** How a list of documents is narrowed and ordered, page by page. The same words select all of it, and send it out. */
export const ListQuery = z.object({
  search: z.string().max(100).optional().meta({ description: 'In number or party' }),
  system: z.string().max(60).optional(),
  kind: z.string().max(40).optional(),
  from: date.optional(),
  to: date.optional(),
  least: amount.optional().meta({ description: 'Of the amount that the list is about, by its size' }),
  most: amount.optional(),
  sort: z.string().max(20).optional(),
  down: z.enum(['yes']).optional(),
  after: z.string().max(600).optional().meta({ description: 'The key that the page before ended with' }),
  limit: z.coerce.number().int().min(1).max(1000).default(PAGE_ROWS),
})
export type ListQuery = z.infer<typeof ListQuery>

/** The states of a booking; how one follows another is the server's table of moves. */
export const BOOKING_STATES = [
  'blocked',
  'rehearsed',
  'waiting',
  'sending',
  'sent',
  'booked',
  'failed',
  'in-doubt',
  'changed',
  'withdrawn',
] as const
export const BookingState = z.enum(BOOKING_STATES)
export type BookingState = z.infer<typeof BookingState>

/** What a document is in Post: its booking's state, or what it is without one or beside it. */
export const POST_STATES = [
  ...BOOKING_STATES,
  'not-composed',
  'void-at-source',
  'void',
  'voided-there',
  'draft',
  'out-of-range',
  'kind-off',
] as const
/** The list of Post: states apart by commas, and whether only what has a remark. */
export const PostListQuery = ListQuery.extend({
  state: z.string().max(200).optional(),
  warned: z.enum(['yes']).optional(),
})
export type PostListQuery = z.infer<typeof PostListQuery>
/** The list of Tie out: of a cause, or only what is not proved, or all; or what is not posted so far, or what stands on the word of its own source, or what somebody overrode there. */
export const TieOutListQuery = ListQuery.extend({
  cause: z.string().max(400).optional(),
  show: z.enum(['unproved', 'all', 'settled', 'not-posted', 'own-word', 'overridden']).optional(),
  headline: z.string().max(40).optional(),
  agency: z.string().max(60).optional(),
})
export type TieOutListQuery = z.infer<typeof TieOutListQuery>

/** Everything that a filter finds, rather than rows one by one. */
export const PostFilter = PostListQuery.omit({ after: true, limit: true, sort: true, down: true })
export type PostFilter = z.infer<typeof PostFilter>

/** What a list may be narrowed by: what its month holds. */
export const ListChoices = z.object({
  systems: z.array(Named).readonly(),
  kinds: z.array(z.string()).readonly(),
})
export type ListChoices = z.infer<typeof ListChoices>

/** What the ledger would make of documents, as far as what it holds tells: otherwise than it should, or nothing at all. */
export const Foretold = z.object({
  documents: z.number(),
  tax: z.string(),
  /** Each cause once, the largest first; a document with several counts in each. */
  causes: z
    .array(
      z.object({
        code: z.string(),
        says: z.string(),
        mend: z.string(),
        documents: z.number(),
        tax: z.string(),
      }),
    )
    .readonly(),
})
export type Foretold = z.infer<typeof Foretold>

/** What a posting would move, before anything leaves. */
export const PostingPreview = z.object({
  foretold: Foretold,
  currency: z.string(),
  ledger: z.string(),
  company: z.string(),
  documents: z.number(),
  tax: z.string(),
  total: z.string(),
  /** Chosen, but nothing of them can be sent: they are no part of the other figures. */
  blocked: TaxedDocuments,
  /** Voided in the ledger by somebody: they would be booked anew. */
  voidedThere: z.number(),
  accounts: z
    .array(
      z.object({
        account: z.string(),
        debit: z.string(),
        credit: z.string(),
      }),
    )
    .readonly(),
  remarked: TaxedDocuments,
  /** Sent along, the posting is refused where anything of what was previewed has changed since. */
  revision: z.string(),
})
export type PostingPreview = z.infer<typeof PostingPreview>
