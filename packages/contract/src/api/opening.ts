import type { OpeningState } from '@axion/core'
import { z } from 'zod'
import { amount, boundedText, date } from '../bridge/primitives.ts'
import { ScopeAmount } from './scope.ts'

/** How what an account stood at on the opening day stands to the list that makes it up. */
export const OPENING_STANDINGS = [
  'unknown',
  'nil',
  'lacking',
  'apart',
  'moved',
  'taken',
  'aside',
] as const satisfies readonly OpeningState[] satisfies readonly OpeningState[]
export type OpeningStanding = (typeof OPENING_STANDINGS)[number]

/** So many lines a list holds at most. */
export const MOST_OPENING_ITEMS = 5_000

/** One line of what an account stood at: an open invoice, a month's tax, a gift card. Its amount is positive on the account's own side: owed on a liability, due on what is owned. */
export const OpeningItem = z.strictObject({
  reference: boundedText(200, 1),
  party: boundedText(400),
  date: date.nullable(),
  amount,
})
export type OpeningItem = z.infer<typeof OpeningItem>

/** The day from which documents are for the books, or none; under the revision of what it does. */
export const OpeningDay = z.strictObject({ day: date.nullable() })
export const OpeningDayKept = OpeningDay.extend({ revision: z.string().max(100) })

/** What another opening day would do: documents that leave the books or come to them, over all systems and months. */
export const OpeningPreview = z.object({
  currency: z.string(),
  leaves: ScopeAmount,
  comes: ScopeAmount,
  /** Booked already: it stays booked, and follows its source. */
  staysBooked: ScopeAmount,
  /** Accounts with a list that was kept for the day that stands. */
  lists: z.int(),
  revision: z.string(),
})
export type OpeningPreview = z.infer<typeof OpeningPreview>

export const OpeningAccount = z.object({
  account: z.string(),
  name: z.string(),
  type: z.string(),
  /** What is posted there by rule, in words; empty where nothing is. */
  posted: z.array(z.string()).readonly(),
  /** What the ledger's trial balance has, in the base currency, positive on the account's own side; null where nobody read it. */
  balance: z.string().nullable(),
  items: z.int(),
  /** What the list comes to. */
  list: z.string(),
  standing: z.enum(OPENING_STANDINGS),
  /** What the ledger had when the list was kept, where it has another amount now. */
  then: z.string().nullable(),
  /** Why it needs no list, by somebody's word. */
  aside: z.string().nullable(),
  keptBy: z.string().nullable(),
  keptAt: z.string().nullable(),
})
export type OpeningAccount = z.infer<typeof OpeningAccount>

/** The opening day, and what each account of its kind stood at the evening before. */
export const OpeningView = z.object({
  currency: z.string(),
  day: z.string().nullable(),
  setBy: z.string().nullable(),
  ledger: z.string().nullable(),
  /** What all accounts of the trial balance come to: nil, where it is whole; null where nobody read it. */
  trial: z.object({ accounts: z.int(), sum: z.string() }).nullable(),
  accounts: z.array(OpeningAccount).readonly(),
  /** What is dated before, read for reference and not for the books. */
  before: ScopeAmount,
})
export type OpeningView = z.infer<typeof OpeningView>

/** Where a proposed list comes from: documents that were open, or the newest entries that come to the balance exactly, by month or one by one. */
export const OPENING_SOURCES = ['documents', 'months', 'entries'] as const

/** An account's list, and the one that is proposed for it. */
export const OpeningListView = z.object({
  currency: z.string(),
  day: z.string(),
  account: OpeningAccount,
  items: z.array(OpeningItem).readonly(),
  proposed: z
    .object({ from: z.enum(OPENING_SOURCES), items: z.array(OpeningItem).readonly(), sum: z.string() })
    .nullable(),
  /** What all entries that were read from before the day come to on the account; null where there are more than were looked at. */
  read: z.string().nullable(),
})
export type OpeningListView = z.infer<typeof OpeningListView>

export const OpeningList = z.strictObject({ items: z.array(OpeningItem).max(MOST_OPENING_ITEMS) })
export const OpeningAside = z.strictObject({ why: boundedText(400, 1).nullable() })
/** A list as a file has it, which nothing is kept of yet. */
export const OpeningRead = z.object({ items: z.array(OpeningItem).readonly() })
export type OpeningRead = z.infer<typeof OpeningRead>
