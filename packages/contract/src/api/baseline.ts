import {
  CODE_TREATMENTS,
  LEVELS,
  COLLECTING_ANSWERS,
  METHOD_KINDS,
  NEW_ITEMS,
  POSTED_BY_AGENCY,
  POSTING_KINDS,
  POSTING_SCOPES,
  SALE_KINDS,
  STATED_FLAGS,
} from '@axion/core'
import { z } from 'zod'
import {
  amount,
  currency,
  date,
  lastDate,
  decimal,
  percent,
  timeOfDay,
  timeZone,
} from '../bridge/primitives.ts'
import { Address } from '../bridge/setUp.ts'

const code = z.string().min(1).max(60).regex(/^\S+$/, 'has spaces')
const name = z.string().min(1).max(200)
const valid = { from: date, to: lastDate.nullable() }

const Cover = z
  .object({
    country: z.string().regex(/^[A-Z]{2}$/),
    region: z
      .string()
      .regex(/^[A-Z]{2}-[A-Z0-9]{1,3}$/)
      .optional(),
    city: name.optional(),
    postalCode: z.string().max(12).optional(),
    plus4: z.object({ from: z.string().regex(/^\d{4}$/), to: z.string().regex(/^\d{4}$/) }).optional(),
  })
  .refine((c) => c.plus4 === undefined || c.postalCode !== undefined, {
    error: 'a +4 range needs its postal code',
  })

const CodeRule = z
  .object({
    jurisdiction: code,
    itemTaxCode: code,
    treatment: z.enum(CODE_TREATMENTS),
    percent: percent.nullable().default(null).meta({ description: 'Of a reduced or special treatment' }),
    perUnit: decimal
      .nullable()
      .default(null)
      .meta({ description: 'Tax for one unit of quantity, in `currency`' }),
    threshold: z
      .object({ limit: amount, taxes: z.enum(['whole', 'excess']) })
      .nullable()
      .default(null),
    cap: amount.nullable().default(null),
    currency: currency.nullable().default(null).meta({ description: 'Of limits and of a tax per unit' }),
    recoverable: percent
      .nullable()
      .default(null)
      .meta({ description: 'How much of the tax on a purchase can be had back; null where nothing can' }),
    ...valid,
  })
  .refine((r) => (r.treatment === 'reduced') === (r.percent !== null), {
    error: 'a reduced treatment, and only that, has a percent',
  })
  .refine((r) => (r.treatment === 'per-unit') === (r.perUnit !== null), {
    error: 'a treatment per unit, and only that, has an amount per unit',
  })
  .refine((r) => (r.threshold === null && r.cap === null && r.perUnit === null) === (r.currency === null), {
    error: 'limits and a tax per unit have a currency, and nothing else does',
  })

const PostingRule = z
  .object({
    kind: z.enum(POSTING_KINDS),
    agency: code.nullable(),
    account: z.string().min(1).max(40),
    only: z
      .object({ by: z.enum(POSTING_SCOPES), id: z.string().min(1).max(200) })
      .nullable()
      .default(null)
      .meta({ description: 'What alone it is for; null for all' }),
    ...valid,
  })
  .refine((r) => POSTED_BY_AGENCY.includes(r.kind) === (r.agency !== null), {
    error: 'tax, recoverable tax and use tax, and only these, are posted by agency',
  })
  .refine((r) => r.only === null || !POSTED_BY_AGENCY.includes(r.kind), {
    error: 'tax is posted by its agency alone',
  })
  .refine((r) => r.kind !== 'clearing' || r.only === null || r.only.by === 'method', {
    error: 'clearing is posted by payment method',
  })

/** From how much, or how many, in twelve months a region wants registration; either alone suffices. */
const threshold = {
  sales: amount.nullable().default(null),
  transactions: z.int().positive().nullable().default(null),
  currency: currency.nullable().default(null),
  ...valid,
}
const saysSomething = (t: { readonly sales: string | null; readonly transactions: number | null }): boolean =>
  t.sales !== null || t.transactions !== null
const hasCurrency = (t: { readonly sales: string | null; readonly currency: string | null }): boolean =>
  (t.sales === null) === (t.currency === null)
export const ThresholdSpan = z
  .strictObject(threshold)
  .refine(saysSomething, { error: 'says neither how much nor how many' })
  .refine(hasCurrency, { error: 'an amount of sales, and only that, has a currency' })
const Threshold = z
  .object({ jurisdiction: code, ...threshold })
  .refine(saysSomething, { error: 'says neither how much nor how many' })
  .refine(hasCurrency, { error: 'an amount of sales, and only that, has a currency' })

/** Who collects in a country or region, and why, with its dates. */
const collecting = {
  answer: z.enum(COLLECTING_ANSWERS),
  why: z.string().trim().min(1).max(400).nullable().default(null),
  ...valid,
}
export const CollectingSpan = z.strictObject(collecting)

/** A registration with an agency, with its dates. */
const registration = {
  number: z.string().min(1).max(60),
  basis: z.enum(['accrual', 'cash']).nullable().default(null),
  frequency: z.enum(['month', 'quarter', 'half-year', 'year']).nullable().default(null),
  ...valid,
}
export const RegistrationSpan = z.strictObject(registration)

const none = <T extends z.ZodType>(shape: T) => shape.nullable().default(null)
const isAny = (part: Readonly<Record<string, unknown>>): boolean =>
  Object.values(part).some((value) => value !== null)
const RULE = {
  when: z
    .object({
      item: none(code),
      text: none(z.string().trim().min(1).max(200)),
      region: none(
        z.string().regex(/^[A-Z]{2}(-[A-Z0-9]{1,3})?$/, 'is neither a country nor a region of one'),
      ),
      party: none(z.string().min(1).max(200)),
      method: none(code),
      channel: none(z.string().min(1).max(200)),
      system: none(z.string().min(1).max(60)).meta({ description: 'By its id: whose documents alone' }),
      stated: none(z.enum(STATED_FLAGS)).meta({ description: 'What the source’s own flag says of the line' }),
      saleKind: none(z.enum(SALE_KINDS)),
    })
    .refine(isAny, { error: 'a rule has at least one condition' }),
  then: z
    .object({
      item: none(code).meta({ description: 'What a line counts as that is no item of the catalogue' }),
      itemTaxCode: none(code),
      account: none(z.string().min(1).max(40)),
      dimension: none(z.string().min(3).max(300)).meta({ description: 'As “dimension: code”' }),
    })
    .refine(isAny, { error: 'a rule has at least one outcome' }),
}
/** A rule over lines (C4): every condition that it states is met, then its outcomes stand; the first that decides something counts. */
export const LineRule = z.object({ code, name, ...RULE, ...valid })
export type LineRuleImport = z.infer<typeof LineRule>

/** What new items and new parties start with (D1); null where nobody agreed on it. And whether a posting takes in items that only its documents name (C5): not unless somebody chose so. */
export const AgreedDefaults = z.object({
  itemTaxCode: none(code),
  partiesTaxable: none(z.boolean()),
  newItems: z.enum(NEW_ITEMS).default('left-open'),
})
export type AgreedDefaults = z.infer<typeof AgreedDefaults>

/** A whole baseline, by codes. Importing it again changes only what differs; what may be left out is as if it were not there. */
export const BaselineImport = z.object({
  homeAddress: Address.nullable().default(null),
  defaults: AgreedDefaults.nullable()
    .default(null)
    .meta({ description: 'What new items and parties start with' }),
  agencies: z.array(z.object({ code, name })),
  jurisdictions: z.array(
    z.object({
      code,
      name,
      level: z.enum(LEVELS),
      parent: code.nullable(),
      agency: code.nullable(),
      covers: z.array(Cover).min(1),
    }),
  ),
  rateVersions: z.array(
    z.object({ jurisdiction: code, percent, onTopOf: z.array(code).default([]), ...valid }),
  ),
  combinedRates: z.array(
    z.object({
      code,
      name,
      jurisdictions: z.array(code).min(1),
      itemTaxCode: code.nullable().default(null),
      ...valid,
    }),
  ),
  itemTaxCodes: z.array(z.object({ code, name })),
  items: z.array(
    z.object({
      code,
      name,
      itemTaxCode: code,
      from: date
        .nullable()
        .default(null)
        .meta({ description: 'Since when it stands under this code; null: always' }),
      to: lastDate.nullable().default(null),
    }),
  ),
  codeRules: z.array(CodeRule),
  registrations: z.array(z.object({ agency: code, ...registration })),
  roundings: z.array(
    z.object({
      jurisdiction: code,
      level: z.enum(['unit', 'line', 'document']),
      unit: z.enum(['component', 'combined']),
      tie: z.enum(['half-away', 'half-even', 'truncate']),
      ...valid,
    }),
  ),
  regionRules: z
    .array(
      z.object({
        jurisdiction: code,
        originLevels: z.array(z.enum(LEVELS)),
        taxedBy: z.enum(['supply-date', 'document-date', 'payment-date']),
        taxedBeforeDiscount: z.boolean(),
        exemptionReasons: z.array(z.string().min(1).max(60)),
        ...valid,
      }),
    )
    .default([]),
  parties: z
    .array(
      z.object({
        code,
        name,
        claims: z.string().min(1).max(60).nullable(),
        catchAll: z.boolean(),
        address: Address.nullable(),
      }),
    )
    .default([]),
  certificates: z
    .array(
      z.object({
        code,
        number: z.string().min(1).max(100),
        party: code,
        reason: z.string().min(1).max(60),
        regions: z.array(code).min(1),
        ...valid,
      }),
    )
    .default([]),
  postingRules: z.array(PostingRule),
  thresholds: z
    .array(Threshold)
    .default([])
    .meta({ description: 'From how much, or how many, in twelve months a region wants registration' }),
  collecting: z
    .array(z.object({ jurisdiction: code, ...collecting }))
    .default([])
    .meta({ description: 'Who collects in a country or region: we, another, or nobody has to yet' }),
  paymentMethods: z.array(z.object({ code, name, kind: z.enum(METHOD_KINDS) })).default([]),
  locations: z
    .array(z.object({ code, name, timeZone, cutOff: timeOfDay.nullable().default(null), address: Address }))
    .default([]),
  dimensions: z.array(z.object({ dimension: name, code, name })).default([]),
  rules: z.array(LineRule).default([]).meta({ description: 'In their order' }),
})
export type BaselineImport = z.infer<typeof BaselineImport>
/** As it is sent: what is not there may be left out. */
export type BaselineInput = z.input<typeof BaselineImport>
