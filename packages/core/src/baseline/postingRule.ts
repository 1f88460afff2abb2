import type { DateRange } from './dates.ts'

export const POSTING_KINDS = [
  'receivable',
  'revenue',
  'shipping',
  'tax',
  'discount',
  'reimbursement',
  'clearing',
  'payout',
  'fee',
  'marketplace-tax',
  'cash-difference',
  'rounding',
  'payable',
  'expense',
  'input-tax',
  'use-tax',
  'cost-of-sales',
  'inventory',
] as const

export type PostingKind = (typeof POSTING_KINDS)[number]

/** Kinds of amount that belong to an agency, and are posted by it alone. */
export const POSTED_BY_AGENCY: readonly PostingKind[] = ['tax', 'input-tax', 'use-tax']

/** Kinds of amount of documents that are booked one to one. */
export const POSTED_ONE_TO_ONE: readonly PostingKind[] = [
  'receivable',
  'revenue',
  'shipping',
  'tax',
  'discount',
  'reimbursement',
]

/** What a posting rule is narrowed to, the strongest first; one that is narrowed to nothing is the default. */
export const POSTING_SCOPES = ['party', 'item', 'item-tax-code', 'channel', 'method'] as const
export type PostingScope = (typeof POSTING_SCOPES)[number]

/** Sends a kind of amount to a ledger account, by its number; tax, recoverable tax and use tax are by agency, clearing by payment method. */
export interface PostingRule {
  readonly id: string
  readonly kind: PostingKind
  readonly agencyId: string | null
  /** The party, item, item tax code, channel or method that it is for; null for all. */
  readonly only: { readonly by: PostingScope; readonly id: string } | null
  readonly account: string
  readonly valid: DateRange
}
