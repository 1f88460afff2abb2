import { NewItems, PostingKind } from './ofCore.ts'
import { z } from 'zod'
import { Named } from './common.ts'
import { FINDING_CODES } from '../sentences/findings.ts'

/** What is aligned, in the order of the tabs: a grid each. */
export const ALIGN_KINDS = [
  'rates',
  'agencies',
  'codes',
  'items',
  'parties',
  'accounts',
  'methods',
  'locations',
  'dimensions',
] as const
export const AlignKind = z.enum(ALIGN_KINDS)
export type AlignKind = z.infer<typeof AlignKind>
/** Where there are findings: in the grids, and among the amounts that are no item of the catalogue. */
export const FINDING_KINDS = [...ALIGN_KINDS, 'amounts'] as const
export const FindingKind = z.enum(FINDING_KINDS)

/** What a link of a system's object to the baseline is kept under; accounts meet by their numbers and have none. */
export const LINK_KINDS = [
  'agency',
  'combined-rate',
  'item-tax-code',
  'item',
  'party',
  'payment-method',
  'location',
  'dimension',
] as const
export const LinkKind = z.enum(LINK_KINDS)
export type LinkKind = z.infer<typeof LinkKind>
export const LINK_KIND_OF: Readonly<Record<AlignKind, LinkKind | null>> = {
  rates: 'combined-rate',
  agencies: 'agency',
  codes: 'item-tax-code',
  items: 'item',
  parties: 'party',
  accounts: null,
  methods: 'payment-method',
  locations: 'location',
  dimensions: 'dimension',
}

/** `linked` and agreeing, or differing; `proposed` and `question` are not linked yet. */
export const CELL_STATES = [
  'agrees',
  'differs',
  'proposed',
  'question',
  'absent',
  'not-needed',
  'not-pulled',
  'none',
] as const
export const CellState = z.enum(CELL_STATES)
export type CellState = z.infer<typeof CellState>

export type FindingKind = z.infer<typeof FindingKind>

/** A finding left as it is, with a reason; without one it is taken up again. */
export const LeaveRequest = z.object({
  kind: z.enum(FINDING_KINDS),
  rowId: z.string().max(300),
  code: z.enum(FINDING_CODES),
  systemId: z.string().max(60).nullable(),
  reason: z.string().trim().min(3, 'says too little').max(400).nullable(),
})
export type LeaveRequest = z.infer<typeof LeaveRequest>

/** A combined rate through time: spans between the days on which it changes anywhere, open at the end. */
export const TimelineView = z.object({
  name: z.string(),
  spans: z
    .array(
      z.object({
        from: z.string(),
        to: z.string().nullable(),
        /** Null where the baseline has no rate for some component then. */
        ours: z.string().nullable(),
        systems: z
          .array(
            z.object({
              system: z.string(),
              name: z.string(),
              percent: z.string(),
              agrees: z.boolean(),
              flat: z.boolean(),
            }),
          )
          .readonly(),
      }),
    )
    .readonly(),
})
export type TimelineView = z.infer<typeof TimelineView>

/** The row of a grid that stands for whatever is new. */
export const NEW_ROW = '(new)'

/** What new items and parties start with, as agreed and in each system, and how many there are that keep their own. */
export const DefaultsView = z.object({
  itemTaxCode: z.string().nullable(),
  partiesTaxable: z.boolean().nullable(),
  newItems: NewItems,
  codes: z.array(Named).readonly(),
  items: z.number(),
  parties: z.number(),
  systems: z
    .array(
      z.object({
        name: z.string(),
        code: z.string().nullable(),
        newPartiesTaxable: z.boolean().nullable(),
        onDefault: z.number(),
        items: z.number(),
        parties: z.number(),
      }),
    )
    .readonly(),
})
export type DefaultsView = z.infer<typeof DefaultsView>

/** Whom the customers of a source count as whom the baseline does not know; null: each as itself. */
export const GenericCustomer = z.strictObject({
  systemId: z.string().max(60),
  party: z.string().max(200).nullable(),
})
export type GenericCustomer = z.infer<typeof GenericCustomer>

/** The systems that sell, with how many of their customers the baseline does not know, and how many of these are held to be exempt there. */
export const GenericView = z.object({
  /** The customers of the baseline that stand for many. */
  choices: z.array(Named).readonly(),
  systems: z
    .array(
      z.object({
        systemId: z.string(),
        name: z.string(),
        party: z.string().nullable(),
        customers: z.number(),
        exempt: z.number(),
        exemptNames: z.array(z.string()).readonly(),
      }),
    )
    .readonly(),
})
export type GenericView = z.infer<typeof GenericView>

/** The ledger's accounts that a posting rule may go to, and how the rule came to what it is (E4). */
export const AccountChoices = z.object({
  /** The ledger; null where none is connected. */
  systemId: z.string().nullable(),
  kind: PostingKind.nullable(),
  /** What the rule's account is kept for, alone. */
  keptFor: z.array(PostingKind).readonly().nullable(),
  accounts: z
    .array(
      z.object({
        number: z.string(),
        name: z.string(),
      }),
    )
    .readonly(),
  /** What a new account for it would be numbered, empty where nothing can be proposed; null where the ledger lets nobody make one. */
  opens: z.string().nullable(),
  /** Where its amounts go, from when and until when; the first day is null where nobody said one. */
  spans: z
    .array(
      z.object({
        account: z.string(),
        name: z.string(),
        from: z.string().nullable(),
        to: z.string().nullable(),
      }),
    )
    .readonly(),
  /** Who changed it, the latest first. */
  changes: z
    .array(
      z.object({
        at: z.string(),
        person: z.string(),
        before: z.string(),
        after: z.string(),
        from: z.string(),
      }),
    )
    .readonly(),
})
export type AccountChoices = z.infer<typeof AccountChoices>
