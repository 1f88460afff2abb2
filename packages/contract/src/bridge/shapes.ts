import { METHOD_KINDS } from '@axion/core'
import { z } from 'zod'
import { DOCUMENT_KINDS, SYSTEM_ROLES, type SystemRole } from './kinds.ts'
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
  lastDate,
  name,
  percent,
  price,
  sequence,
  timeOfDay,
  timeZone,
} from './primitives.ts'

/** Version of the published contract that this build speaks; bridges state theirs in `about.contract`. */
export const BRIDGE_CONTRACT = '1'

/** Set-up that a system may let others change, by resource. */
export const SET_UP_TAKEN = [
  'tax-rates',
  'agencies',
  'items',
  'parties',
  'accounts',
  'payment-methods',
  'locations',
  'dimensions',
] as const
export type SetUpTaken = (typeof SET_UP_TAKEN)[number]

export const role = z.enum(SYSTEM_ROLES)

/** Lines of one document or entry, and changes of one page, at the most. */
const MOST_LINES = 5000
export const MOST_OF_A_PAGE = 1000

export const About = z.object({
  contract: boundedText(20),
  role,
  product: name.meta({ description: 'What the system calls itself' }),
  company: z
    .object({ id, name })
    .meta({ description: 'Which company on the other side this bridge is bound to' }),
  webAddress: address.nullable().meta({ description: 'Where people open the system' }),
  resources: z.array(boundedText(60)).max(100),
  takes: z.array(z.enum(['bookings', ...SET_UP_TAKEN])).meta({ description: 'What may be written' }),
  creates: z
    .array(z.enum(SET_UP_TAKEN))
    .default([])
    .meta({ description: 'Set-up of which new objects may be made' }),
  taxComputation: z.enum(['by-rate', 'as-given']).nullable().meta({
    description:
      'A ledger: computes tax itself from the rate of each line, or takes the amounts it is handed',
  }),
  idempotency: z.object({ keepsKeysSeconds: z.int().nonnegative() }).nullable(),
  findsByExternalId: z.boolean(),
  voids: z.boolean().meta({
    description:
      'A ledger: whether a booking can be voided; where not, it is taken back by a booking for the same amounts',
  }),
  longestLateCommitSeconds: z.int().nonnegative().nullable().meta({
    description:
      'The longest time in which a write may still appear after its connection was lost; null where none is known',
  }),
})
export type About = z.infer<typeof About>

export const Settings = z.object({
  baseCurrency: currency,
  currencies: z.array(currency),
  timeZone: boundedText(60),
  taxEnabled: z.boolean(),
  computesTax: z.boolean(),
  keepsDocumentNumbers: z.boolean(),
  pairsCreditsItself: z.boolean(),
  usesAccountNumbers: z.boolean(),
  lockedThrough: date.nullable(),
  defaultItemTaxCode: boundedText(60)
    .nullable()
    .meta({ description: 'The code that an item without one of its own stands on' }),
  newPartiesTaxable: z
    .boolean()
    .nullable()
    .default(null)
    .meta({ description: 'Whether a new customer or supplier is taxable there; null where it does not say' }),
  keepsInventory: z.boolean().nullable().default(null).meta({
    description: 'Whether it keeps stock, and with it the cost of what is sold; null where it does not say',
  }),
  rounding: z
    .object({
      level: z.enum(['unit', 'line', 'document']),
      unit: z.enum(['component', 'combined']),
      tie: z.enum(['half-away', 'half-even', 'truncate']),
    })
    .nullable()
    .default(null)
    .meta({ description: 'Where it says that it rounds tax; null where it does not say' }),
})
export type Settings = z.infer<typeof Settings>

export const Agency = z.object({ code: boundedText(100).nullable(), name, liabilityAccountId: id.nullable() })
export type Agency = z.infer<typeof Agency>

export const RateComponent = z.object({
  agencyId: id,
  name,
  percent: percent.meta({ description: '"0" where the tax is an amount per unit' }),
  perUnit: decimal
    .nullable()
    .meta({ description: 'Tax for one unit of quantity, in the base currency; null where it is a percent' }),
  onTopOf: z
    .array(z.int().nonnegative())
    .meta({ description: 'Places, from 0, of earlier components whose tax is taxed too' }),
  from: date.nullable(),
  to: lastDate.nullable(),
})
export const TaxRate = z.object({
  code: boundedText(100).nullable(),
  name,
  percent,
  components: z
    .array(RateComponent)
    .min(1)
    .nullable()
    .meta({ description: 'Null: a flat rate that states no components' }),
  active: z.boolean(),
})
export type TaxRate = z.infer<typeof TaxRate>

export const ACCOUNT_TYPES = [
  'receivable',
  'current-liability',
  'income',
  'bank',
  'asset',
  'liability',
  'equity',
  'expense',
] as const
export const Account = z.object({ number: boundedText(40), name, type: z.enum(ACCOUNT_TYPES) })
export type Account = z.infer<typeof Account>

export const Address = z.object({
  country: z.string().regex(/^[A-Z]{2}$/, 'is no ISO 3166-1 country'),
  region: z
    .string()
    .regex(/^[A-Z]{2}-[A-Z0-9]{1,3}$/, 'is no ISO 3166-2 region')
    .nullable(),
  city: name.nullable(),
  postalCode: boundedText(20).nullable(),
})

/** What is sold and owed until it is redeemed or completed. */
export const OWED_ITEM_KINDS = ['gift-card', 'deposit'] as const
export const Item = z.object({
  code: boundedText(100, 1),
  name,
  kind: z.enum(['goods', 'service', 'shipping', ...OWED_ITEM_KINDS]),
  taxable: z.boolean(),
  itemTaxCode: boundedText(60)
    .nullable()
    .meta({ description: "The item's own code; null where it stands on the default" }),
})
export type Item = z.infer<typeof Item>

export const Party = z.object({
  name,
  exemption: z
    .object({
      reason: boundedText(100),
      certificate: boundedText(100).nullable(),
      from: date.nullable(),
      to: lastDate.nullable(),
    })
    .nullable(),
  address: Address.nullable(),
})
export type Party = z.infer<typeof Party>

export const SourceLine = z.object({
  id,
  kind: z.enum(['goods', 'service', 'shipping']),
  itemCode: boundedText(100).nullable(),
  description: name,
  quantity: decimal,
  unitPrice: price,
  discount: amount.meta({ description: "The seller's discount on this line, taken off its amount already" }),
  amount: amount.meta({ description: 'Before tax, or with tax inside where the document says so' }),
  taxRateId: id.nullable(),
  creditsLineId: id.nullable().meta({ description: 'On a credit note: the line of the original' }),
})

export const SourceDocument = z.object({
  number: boundedText(100, 1),
  kind: z.enum(DOCUMENT_KINDS).meta({
    description:
      'By the role of the system; all amounts of what takes back (a credit note, a refund) are positive',
  }),
  status: z.enum(['draft', 'open', 'paid', 'void']),
  documentDate: date,
  supplyDate: date,
  paymentDate: date.nullable(),
  currency,
  exchangeRate: exchangeRate
    .nullable()
    .meta({ description: 'Units of the base currency for one of this; null in the base currency' }),
  pricesIncludeTax: z.boolean(),
  creditsDocumentId: id.nullable().meta({ description: 'On a credit note: the original' }),
  party: z.object({ id, name }),
  shipTo: Address,
  shipFrom: Address.nullable(),
  lines: z.array(SourceLine).min(1).max(MOST_LINES),
  discount: amount.meta({ description: "The seller's discount on the whole document" }),
  reimbursed: amount.meta({ description: 'What a third party pays of the total' }),
  taxes: z.array(
    z.object({
      taxRateId: id,
      base: amount,
      tax: amount,
      components: z
        .array(z.object({ agencyId: id, percent, tax: amount }))
        .nullable()
        .meta({ description: 'Null: the split is not stated' }),
    }),
  ),
  total: amount,
  soldAt: instant.nullable().default(null).meta({
    description: 'When it was sold, with the offset of the place; a till’s trading day follows from it',
  }),
  locationId: id.nullable().default(null).meta({ description: 'The outlet or warehouse that sold it' }),
  channel: name
    .nullable()
    .default(null)
    .meta({ description: 'Through what it was sold, where a system has several' }),
  marketplace: name
    .nullable()
    .default(null)
    .meta({ description: 'Who collects and remits the tax in the entity’s place; null where nobody does' }),
  tenders: z
    .array(z.object({ paymentMethodId: id, amount }))
    .default([])
    .meta({ description: 'How it was paid; they add up to the total' }),
  enteredBy: name
    .nullable()
    .default(null)
    .meta({ description: 'Who entered it, or changed it last, where the system knows' }),
  webAddress: address.nullable(),
})
export type SourceDocument = z.infer<typeof SourceDocument>

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

export const Problem = z.object({
  type: z.string(),
  title: z.string(),
  status: z.int(),
  detail: z.string().optional(),
  code: z.string().optional(),
})
export type Problem = z.infer<typeof Problem>

/** A change in a resource: its new value, or a tombstone. The value is read one by one, so that a bad one spoils no other. */
export const Change = z.object({
  id,
  sequence,
  revision: boundedText(200),
  removed: z.boolean(),
  value: z.unknown(),
})
export type Change = z.infer<typeof Change>
export const Page = z.object({
  items: z.array(Change).max(MOST_OF_A_PAGE),
  next: sequence,
  more: z.boolean(),
})

export const ItemTaxCodeObject = z.object({ code: boundedText(60, 1), name })
export type ItemTaxCodeObject = z.infer<typeof ItemTaxCodeObject>

export const PaymentMethod = z.object({
  code: boundedText(60).nullable(),
  name,
  kind: z.enum(METHOD_KINDS),
  maskedNumber: z
    .string()
    .regex(/^[*•]*\d{2,4}$/, 'shows more than its last four digits')
    .nullable()
    .meta({ description: 'Of a card: stars and its last digits, never more' }),
  active: z.boolean(),
})
export type PaymentMethod = z.infer<typeof PaymentMethod>

export const Location = z.object({
  code: boundedText(60).nullable(),
  name,
  timeZone,
  cutOff: timeOfDay.nullable().meta({
    description:
      'Before this time of day it is still the trading day before; null where the day ends at midnight',
  }),
  address: Address,
})
export type Location = z.infer<typeof Location>

export const Dimension = z.object({
  dimension: name,
  code: boundedText(60, 1),
  name,
  active: z.boolean(),
})
export type Dimension = z.infer<typeof Dimension>

export const Settlement = z.object({
  number: boundedText(100, 1),
  kind: z.enum(['charge', 'refund', 'fee', 'chargeback', 'payout', 'adjustment']),
  at: instant,
  paymentMethodId: id.nullable(),
  currency,
  amount: amount.meta({
    description: 'What it moves at the processor: a charge is positive, a payout negative',
  }),
  fee: amount.meta({ description: 'What was kept of it, positive' }),
  documentNumber: boundedText(100).nullable(),
  payoutId: id.nullable().meta({ description: 'The payout that it was settled in; null while it is held' }),
})
export type Settlement = z.infer<typeof Settlement>

export const BankLine = z.object({
  number: boundedText(100, 1),
  account: boundedText(60, 1).meta({ description: 'The bank account, masked' }),
  bookedOn: date,
  currency,
  amount: amount.meta({ description: 'Money in is positive' }),
  text: name,
  counterparty: name.nullable(),
})
export type BankLine = z.infer<typeof BankLine>

/** The resources that a bridge offers, each with the shape of its values. */
export const RESOURCES = {
  agencies: Agency,
  'tax-rates': TaxRate,
  accounts: Account,
  items: Item,
  parties: Party,
  'item-tax-codes': ItemTaxCodeObject,
  'payment-methods': PaymentMethod,
  locations: Location,
  dimensions: Dimension,
  documents: SourceDocument,
  'journal-entries': JournalEntry,
  settlements: Settlement,
  'bank-lines': BankLine,
} as const
export type Resource = keyof typeof RESOURCES
/** What a bridge of a role offers at least. */
export const RESOURCES_OF: Readonly<Record<SystemRole, readonly Resource[]>> = {
  ledger: ['accounts', 'agencies', 'tax-rates', 'journal-entries'],
  billing: ['agencies', 'tax-rates', 'items', 'parties', 'documents'],
  pos: ['agencies', 'tax-rates', 'items', 'payment-methods', 'locations', 'documents'],
  commerce: ['agencies', 'tax-rates', 'items', 'parties', 'payment-methods', 'locations', 'documents'],
  purchasing: ['agencies', 'tax-rates', 'parties', 'payment-methods', 'documents'],
  payments: ['payment-methods', 'settlements'],
  bank: ['bank-lines'],
}
/** What a bridge of a role may offer beside. */
export const ALSO_OF: Readonly<Record<SystemRole, readonly Resource[]>> = {
  ledger: ['dimensions', 'payment-methods'],
  billing: ['item-tax-codes', 'payment-methods', 'locations', 'dimensions'],
  pos: ['item-tax-codes', 'parties', 'dimensions'],
  commerce: ['item-tax-codes', 'dimensions'],
  purchasing: ['items', 'item-tax-codes', 'locations', 'dimensions'],
  payments: [],
  bank: [],
}
