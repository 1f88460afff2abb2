import { LEVELS, POSTING_KINDS } from '@axion/core'
import { z } from 'zod'
import { date, percent } from '../bridge/shapes.ts'

const code = z.string().min(1).max(60).regex(/^\S+$/, 'has spaces')
const name = z.string().min(1).max(200)
const valid = { from: date, to: date.nullable() }

const Cover = z.object({
  country: z.string().regex(/^[A-Z]{2}$/),
  region: z.string().regex(/^[A-Z]{2}-[A-Z0-9]{1,3}$/).optional(),
  city: name.optional(),
  postalCode: z.string().max(12).optional(),
  plus4: z.object({ from: z.string().regex(/^\d{4}$/), to: z.string().regex(/^\d{4}$/) }).optional(),
}).refine((c) => c.plus4 === undefined || c.postalCode !== undefined, { error: 'a +4 range needs its postal code' })

/** A whole baseline, by codes. Importing it again changes only what differs. */
export const BaselineImport = z.object({
  agencies: z.array(z.object({ code, name })),
  jurisdictions: z.array(z.object({ code, name, level: z.enum(LEVELS), parent: code.nullable(), agency: code.nullable(), covers: z.array(Cover).min(1) })),
  rateVersions: z.array(z.object({ jurisdiction: code, percent, ...valid })),
  combinedRates: z.array(z.object({ code, name, jurisdictions: z.array(code).min(1), ...valid })),
  itemTaxCodes: z.array(z.object({ code, name })),
  items: z.array(z.object({ code, name, itemTaxCode: code })),
  codeRules: z.array(z.object({ jurisdiction: code, itemTaxCode: code, treatment: z.enum(['standard', 'exempt']), ...valid })),
  registrations: z.array(z.object({ agency: code, number: z.string().max(60), ...valid })),
  roundings: z.array(z.object({
    jurisdiction: code, level: z.enum(['unit', 'line', 'document']), unit: z.enum(['component', 'combined']), tie: z.enum(['half-away', 'half-even', 'truncate']), ...valid,
  })),
  postingRules: z.array(z.object({ kind: z.enum(POSTING_KINDS), agency: code.nullable(), account: z.string().min(1).max(40), ...valid })),
})
export type BaselineImport = z.infer<typeof BaselineImport>
