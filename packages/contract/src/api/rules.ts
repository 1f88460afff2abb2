import { z } from 'zod'
import { Named, TaxedDocuments } from './common.ts'
import { FindingView } from './grid.ts'
import { LineRule } from './baseline.ts'

/** So many rules at most, and so many documents at most are tried. */
export const MOST_RULES = 200
export const MOST_TRIED = 20_000

/** The whole list, in its order, and which list it was written from. A rule that is new has no code: it gets one. */
export const RulesRequest = z.strictObject({
  standing: z.string().max(200).meta({
    description:
      'The `standing` of the list that it was written from: where another stands by now, it is refused',
  }),
  rules: z
    .array(LineRule.omit({ code: true }).extend({ code: LineRule.shape.code.nullable() }))
    .max(MOST_RULES),
})
export type RulesRequest = z.infer<typeof RulesRequest>
export type RuleDraft = RulesRequest['rules'][number]

/**
 * Amounts that are no item of the catalogue: a line that names none, one whose item nobody agreed upon, shipping without a code of its own,
 * a discount on the whole document, what a third party reimburses. `item` is a catalogue item's line that a rule decided.
 */
export const SPECIAL_LINES = [
  'no-item',
  'unknown-item',
  'shipping',
  'discount',
  'reimbursement',
  'item',
] as const
export const SpecialLine = z.enum(SPECIAL_LINES)
export type SpecialLine = z.infer<typeof SpecialLine>

/** Lines alike of the month: of one system, with one wording. Amounts are in the entity's base currency. */
export const SpecialGroup = z.object({
  key: z.string(),
  what: SpecialLine.exclude(['item']),
  system: z.string(),
  wording: z.string(),
  documents: z.number(),
  amount: z.string(),
  /** By name; more than one where it depends on more than the wording. Nothing where nothing says. */
  treatments: z.array(z.string()).readonly(),
  accounts: z.array(z.string()).readonly(),
  rules: z.array(z.string()).readonly(),
  /** What it is left under, and taken up again. */
  rowId: z.string(),
  findings: z.array(FindingView).readonly(),
})
export type SpecialGroup = z.infer<typeof SpecialGroup>

const Choice = Named
type Choice = z.infer<typeof Choice>

export const RulesView = z.object({
  currency: z.string(),
  /** Names the list of rules that stands: another list, another name. */
  standing: z.string(),
  rules: z
    .array(
      LineRule.extend({
        documents: z.number(),
        amount: z.string(),
      }),
    )
    .readonly(),
  names: z.record(z.string(), z.string()),
  choices: z.object({
    codes: z.array(Choice).readonly(),
    methods: z.array(Choice).readonly(),
    dimensions: z.array(Choice).readonly(),
    regions: z.array(Choice).readonly(),
    accounts: z.array(Choice).readonly(),
    channels: z.array(z.string()).readonly(),
    /** Those whose documents lines may be of. */
    systems: z.array(Choice).readonly(),
  }),
  groups: z.array(SpecialGroup).readonly(),
  /** Of all groups, shown or not; open is what has no treatment or no account, and nobody left so. */
  total: z.number(),
  open: z.number(),
  /** Findings that count, among all of them. */
  findings: z.number(),
})
export type RulesView = z.infer<typeof RulesView>

/** What rules may change of a line. */
export const TRIED_FIELDS = ['Item', 'Item tax code', 'Account', 'Dimensions'] as const

/** One document that other rules would decide otherwise. */
export const DocumentTried = z.object({
  unit: z.string(),
  number: z.string(),
  system: z.string(),
  party: z.string(),
  date: z.string(),
  currency: z.string(),
  /** The tax that the baseline expects, before and after; null where it is not known. */
  taxBefore: z.string().nullable(),
  taxAfter: z.string().nullable(),
  lines: z
    .array(
      z.object({
        text: z.string(),
        changes: z
          .array(
            z.object({
              field: z.enum(TRIED_FIELDS),
              before: z.string(),
              after: z.string(),
            }),
          )
          .readonly(),
      }),
    )
    .readonly(),
  booked: z.boolean(),
})
export type DocumentTried = z.infer<typeof DocumentTried>

/** What other rules would have changed, tried on the newest documents. */
export const RulesTried = z.object({
  currency: z.string(),
  tried: z.number(),
  /** Documents there are in all. */
  of: z.number(),
  changed: z.number(),
  /** Of these, bookings that would go elsewhere: Post offers them again. */
  booked: z.number(),
  /** The tax that the baseline expects of the changed documents whose tax is known before and after, in the base currency; null where there are none. */
  taxBefore: z.string().nullable(),
  taxAfter: z.string().nullable(),
  /** Changed documents whose tax is known only under these rules, and what it comes to. */
  known: TaxedDocuments,
  /** Changed documents whose tax nobody can work out under these rules. */
  unknown: z.number(),
  documents: z.array(DocumentTried).readonly(),
  revision: z.string(),
})
export type RulesTried = z.infer<typeof RulesTried>
