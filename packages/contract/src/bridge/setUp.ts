import { METHOD_KINDS } from '@axion/core'
import { z } from 'zod'
import { boundedText, date, decimal, id, lastDate, name, percent, timeOfDay, timeZone } from './primitives.ts'

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
  taxable: z.boolean().nullable().default(null).meta({
    description: 'Its own flag of the party, beside any exemption; null where it has none',
  }),
  defaultTaxRateId: id.nullable().default(null).meta({
    description: 'The rate that its documents bear where nothing says another; null where there is none',
  }),
})
export type Party = z.infer<typeof Party>

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
