import { z } from 'zod'
import { SYSTEM_ROLES } from './kinds.ts'
import { address, boundedText, currency, date, id, name } from './primitives.ts'

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

export const About = z.object({
  contract: boundedText(20),
  role,
  product: name.meta({ description: 'What the system calls itself' }),
  company: z
    .object({ id, name })
    .meta({ description: 'Which company on the other side this bridge is bound to' }),
  webAddress: address.nullable().meta({ description: 'Where people open the system' }),
  resources: z.array(boundedText(60)).max(100),
  takes: z
    .array(z.enum(['bookings', 'committed', ...SET_UP_TAKEN]))
    .meta({ description: 'What may be written' }),
  creates: z
    .array(z.enum(['committed', ...SET_UP_TAKEN]))
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
  defaultTaxRateId: id.nullable().default(null).meta({
    description:
      'The rate that a document bears where neither buyer nor place says another; null where there is none',
  }),
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
