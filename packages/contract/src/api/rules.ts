import { z } from 'zod'
import type { FindingView } from './align.ts'
import { LineRule, type LineRuleImport } from './baseline.ts'

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
export type SpecialLine = (typeof SPECIAL_LINES)[number]

/** Lines alike of the month: of one system, with one wording. Amounts are in the entity's base currency. */
export interface SpecialGroup {
  readonly key: string
  readonly what: Exclude<SpecialLine, 'item'>
  readonly system: string
  readonly wording: string
  readonly documents: number
  readonly amount: string
  /** By name; more than one where it depends on more than the wording. Nothing where nothing says. */
  readonly treatments: readonly string[]
  readonly accounts: readonly string[]
  readonly rules: readonly string[]
  /** What it is left under, and taken up again. */
  readonly rowId: string
  readonly findings: readonly FindingView[]
}

export interface RulesView {
  readonly currency: string
  /** Names the list of rules that stands: another list, another name. */
  readonly standing: string
  readonly rules: readonly (LineRuleImport & { readonly documents: number; readonly amount: string })[]
  readonly names: Readonly<Record<string, string>>
  readonly choices: {
    readonly codes: readonly Choice[]
    readonly methods: readonly Choice[]
    readonly dimensions: readonly Choice[]
    readonly regions: readonly Choice[]
    readonly accounts: readonly Choice[]
    readonly channels: readonly string[]
  }
  readonly groups: readonly SpecialGroup[]
  /** Of all groups, shown or not; open is what has no treatment or no account, and nobody left so. */
  readonly total: number
  readonly open: number
  /** Findings that count, among all of them. */
  readonly findings: number
}

interface Choice {
  readonly id: string
  readonly name: string
}

/** One document that other rules would decide otherwise. */
export interface DocumentTried {
  readonly unit: string
  readonly number: string
  readonly system: string
  readonly party: string
  readonly date: string
  readonly currency: string
  /** The tax that the baseline expects, before and after; null where it is not known. */
  readonly taxBefore: string | null
  readonly taxAfter: string | null
  readonly lines: readonly {
    readonly text: string
    readonly changes: readonly {
      readonly field: 'Item tax code' | 'Account' | 'Dimensions'
      readonly before: string
      readonly after: string
    }[]
  }[]
  readonly booked: boolean
}

/** What other rules would have changed, tried on the newest documents. */
export interface RulesTried {
  readonly currency: string
  readonly tried: number
  /** Documents there are in all. */
  readonly of: number
  readonly changed: number
  /** Of these, bookings that would go elsewhere: Post offers them again. */
  readonly booked: number
  /** The tax that the baseline expects of the changed documents whose tax is known before and after, in the base currency; null where there are none. */
  readonly taxBefore: string | null
  readonly taxAfter: string | null
  /** Changed documents whose tax is known only under these rules, and what it comes to. */
  readonly known: { readonly documents: number; readonly tax: string }
  /** Changed documents whose tax nobody can work out under these rules. */
  readonly unknown: number
  readonly documents: readonly DocumentTried[]
  readonly revision: string
}
