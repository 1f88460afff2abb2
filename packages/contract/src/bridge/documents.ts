import { SALE_KINDS } from '@axion/core'
import { z } from 'zod'
import { DOCUMENT_KINDS } from './kinds.ts'
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
  percent,
  price,
} from './primitives.ts'
import { Address } from './setUp.ts'

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
  overridden: z
    .object({
      by: name.nullable(),
      why: boundedText(400).nullable(),
      at: instant.nullable(),
    })
    .nullable()
    .default(null)
    .meta({
      description:
        'Who put another rate, or none, in the place of what the system would have charged by itself; null where nobody did',
    }),
  taxableFlag: z.boolean().nullable().default(null).meta({
    description: 'The flag that its system taxes the line by, where it has one; null where it has none',
  }),
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
  saleKind: z.enum(SALE_KINDS).nullable().default(null).meta({
    description:
      'What it is where it is no ordinary sale: goods taken for one’s own use, a repair under warranty, a charge between one’s own branches',
  }),
  webAddress: address.nullable(),
})
export type SourceDocument = z.infer<typeof SourceDocument>
