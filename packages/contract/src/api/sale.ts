import { z } from 'zod'
import { date } from '../bridge/primitives.ts'
import { Named } from './common.ts'

const optional = (most: number) => z.string().max(most).optional()

/** A sale that is thought of: where, when, to whom, of what. What is left out is not known. */
export const SaleAsked = z.object({
  country: z.string().regex(/^[A-Z]{2}$/, 'is no ISO 3166-1 country'),
  region: z
    .string()
    .regex(/^[A-Z]{2}-[A-Z0-9]{1,3}$/, 'is no ISO 3166-2 region')
    .optional(),
  city: optional(200),
  postalCode: optional(20),
  date,
  sentFrom: optional(200).describe(
    '`home`, or the code of a location of the baseline; left out, where it goes to alone decides',
  ),
  party: optional(200).describe('A code of the baseline'),
  item: optional(200).describe('A code of the baseline'),
  kind: z.enum(['goods', 'service', 'shipping']).default('goods'),
  quantity: z
    .string()
    .regex(/^\d{1,9}(\.\d{1,12})?$/, 'is no quantity such as 1 or 2.5')
    .default('1'),
  amount: z
    .string()
    .regex(/^\d{1,15}(\.\d{1,4})?$/, 'is no amount such as 100.00')
    .describe('Of the line, in the base currency'),
  inside: z.enum(['yes', 'no']).default('no').describe('Whether the amount has the tax inside'),
})
export type SaleAsked = z.infer<typeof SaleAsked>

const Said = z.object({ says: z.string(), mend: z.string() })

/** What tax a sale would bear by the baseline, component by component, beside what each system’s set-up comes to. Amounts in `currency`; null where nobody can say. */
export const SaleView = z.object({
  currency: z.string(),
  /** The item and the buyer that were named; null where none was, or the baseline has none such. */
  item: Named.nullable(),
  party: Named.nullable(),
  /** The places that may tax it, from the country down. */
  places: z.array(z.string()).readonly(),
  /** The item tax code that it stands under, and the rules over lines that decided something of it. */
  itemTaxCode: z.string().nullable(),
  rules: z.array(z.string()).readonly(),
  /** Rules of the day that look at what is not asked here: a source's flag, a kind of sale, whose document it is. They are passed over. */
  passedOver: z.array(z.string()).readonly(),
  net: z.string().nullable(),
  tax: z.string().nullable(),
  total: z.string().nullable(),
  rows: z
    .array(
      z.object({
        jurisdiction: z.string(),
        agency: z.string(),
        /** The liability account that its tax is posted to. */
        account: z.string().nullable(),
        /** "1.45 %", "0.12 a unit"; null where it is not taxed. */
        rate: z.string().nullable(),
        base: z.string(),
        tax: z.string(),
        taxed: z.boolean(),
        /** Why it is taxed as it is, or is not. */
        reason: z.string(),
        /** What it was worked out from: versions, rules, certificates and registrations. */
        from: z.array(z.string()).readonly(),
      }),
    )
    .readonly(),
  /** Where tax is rounded. */
  rounding: z.string().nullable(),
  findings: z.array(Said).readonly(),
  systems: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        /** Its rate that would be charged; null where it has none for it. */
        rate: z.string().nullable(),
        tax: z.string().nullable(),
        /** Its tax less the baseline's. */
        gap: z.string().nullable(),
        /** What it does otherwise; empty where it does all alike. */
        says: z.array(z.string()).readonly(),
      }),
    )
    .readonly(),
})
export type SaleView = z.infer<typeof SaleView>
