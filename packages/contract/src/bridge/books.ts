import { z } from 'zod'
import { MOST_LINES } from './paging.ts'
import {
  address,
  amount,
  boundedText,
  currency,
  date,
  decimal,
  exchangeRate,
  id,
  instant,
  name,
  sequence,
} from './primitives.ts'

export const JournalLine = z.object({
  accountId: id,
  description: name,
  debit: amount,
  credit: amount,
  agencyId: id.nullable(),
  taxRateId: id.nullable(),
  base: amount.nullable(),
  baseDebit: amount.nullable().meta({ description: "In the books' currency; null where the entry is in it" }),
  baseCredit: amount.nullable(),
  dimensionIds: z.array(id).default([]).meta({ description: 'Values of tracking dimensions on the line' }),
})

export const JournalEntry = z.object({
  number: boundedText(100),
  bookingId: id
    .nullable()
    .meta({ description: 'Of which booking this is the journal; null for an entry made by hand' }),
  externalId: boundedText(400).nullable(),
  bookingRevision: boundedText(200).nullable(),
  postingDate: date,
  currency,
  baseCurrency: currency,
  memo: boundedText(2000),
  voided: z.boolean(),
  changedBy: name,
  changedAt: instant,
  webAddress: address.nullable(),
  lines: z.array(JournalLine).max(MOST_LINES),
})
export type JournalEntry = z.infer<typeof JournalEntry>

export const Balances = z.object({
  sequence,
  items: z.array(
    z.object({ accountId: id, currency, opening: amount, debit: amount, credit: amount, closing: amount }),
  ),
})

export const BookingLine = z.object({
  id,
  kind: z.enum(['goods', 'service', 'shipping', 'discount']),
  description: name,
  accountId: id,
  quantity: decimal,
  net: amount.meta({
    description: 'Revenue before tax; negative on a discount that has an account of its own',
  }),
  taxable: amount.meta({
    description:
      'What the rate is taken of: net, or the part of it that is taxed, or the price before discount',
  }),
  gross: amount.nullable().meta({
    description: 'With tax inside, where prices include it: a ledger that computes takes the tax out of it',
  }),
  taxRate: z
    .union([z.object({ id }), z.object({ name })])
    .nullable()
    .meta({
      description: 'The ledger’s own rate; by name only where the sender knows no id. Null: an untaxed line',
    }),
  dimensionIds: z.array(id).default([]).meta({
    description: 'Values of tracking dimensions, at most one of each: the ledger’s own objects, in use',
  }),
})

export const BookingTax = z.object({ agencyId: id, accountId: id, base: amount, tax: amount })

/** A line of a correction: the journal itself is handed over. */
export const CorrectionLine = z.object({
  accountId: id,
  description: name,
  agencyId: id.nullable(),
  debit: amount,
  credit: amount,
  base: amount.nullable(),
})

export const BookingRequest = z.object({
  externalId: boundedText(200, 1),
  number: boundedText(100, 1),
  kind: z
    .enum(['invoice', 'credit-note', 'correction'])
    .meta({ description: 'All amounts of a credit note are positive, and stand on the other side' }),
  postingDate: date,
  currency,
  exchangeRate: exchangeRate.nullable(),
  party: z.object({ id, name }),
  receivableAccountId: id,
  reimbursed: z
    .object({ accountId: id, amount })
    .nullable()
    .meta({ description: 'What of the total a third party owes' }),
  memo: boundedText(400),
  pricesIncludeTax: z.boolean(),
  lines: z.array(BookingLine),
  taxes: z.array(BookingTax).nullable().meta({
    description: 'Given to a ledger that takes amounts as given, null to one that computes by rate',
  }),
  journal: z
    .array(CorrectionLine)
    .nullable()
    .meta({ description: 'Of a correction: written as it is. Null otherwise' }),
})
export type BookingRequest = z.infer<typeof BookingRequest>

export const Booking = z.object({
  id,
  externalId: boundedText(400),
  number: boundedText(100),
  revision: boundedText(200),
  state: z.enum(['posted', 'voided']),
})
export type Booking = z.infer<typeof Booking>
