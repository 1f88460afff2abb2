import type { Evidence as CrosswalkEvidence, NamePiece, NewItems, PostingKind } from '@axion/core'
import { z } from 'zod'
import { FINDING_CODES, type FindingCode, type Severity } from '../sentences/findings.ts'
import type { Remedy } from './remedy.ts'
import type { Limits } from './connectViews.ts'

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
export type AlignKind = (typeof ALIGN_KINDS)[number]

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
export type LinkKind = (typeof LINK_KINDS)[number]
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
export type CellState = (typeof CELL_STATES)[number]

export const GRID_SORTS = ['name', 'stake', 'findings', 'documents'] as const
/** What of a grid is asked for: filters, the order, and which rows of it. */
export const GridQuery = z.object({
  search: z.string().max(200).default(''),
  only: z.enum(['differs', 'extra', 'left', 'stops', 'costs', 'settle']).optional(),
  system: z.string().max(60).optional().meta({ description: 'Only rows that have a finding in this system' }),
  code: z.string().max(60).optional().meta({ description: 'Only rows with this finding' }),
  sort: z.enum(GRID_SORTS).default('name'),
  offset: z.coerce.number().int().min(0).max(10_000_000).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(200),
})
export type GridQuery = z.infer<typeof GridQuery>

/** Where there are findings: in the grids, and among the amounts that are no item of the catalogue. */
export const FINDING_KINDS = [...ALIGN_KINDS, 'amounts'] as const
export type FindingKind = (typeof FINDING_KINDS)[number]

/** A finding left as it is, with a reason; without one it is taken up again. */
export const LeaveRequest = z.object({
  kind: z.enum(FINDING_KINDS),
  rowId: z.string().max(300),
  code: z.enum(FINDING_CODES),
  systemId: z.string().max(60).nullable(),
  reason: z.string().trim().min(3, 'says too little').max(400).nullable(),
})
export type LeaveRequest = z.infer<typeof LeaveRequest>

export interface FindingView {
  readonly key: string
  readonly code: FindingCode
  readonly severity: Severity
  readonly says: string
  readonly mend: string
  readonly system: string | null
  readonly systemId: string | null
  /** Why somebody left it as it is; null where it counts. */
  readonly left: { readonly reason: string; readonly person: string; readonly at: string } | null
}

export interface GridObject {
  readonly id: string
  readonly name: string
  readonly linked: boolean
  /** Linked, and its system does not have it any more. */
  readonly gone: boolean
  readonly agrees: boolean
  readonly words: string
  readonly evidence: readonly CrosswalkEvidence[]
  readonly clear: boolean
  readonly names: { readonly left: readonly NamePiece[]; readonly right: readonly NamePiece[] } | null
  /** Component by component, or field by field, beside the baseline. */
  readonly fields: readonly {
    readonly field: string
    readonly ours: string
    readonly theirs: string | null
    readonly agrees: boolean
  }[]
  /** Under which its tax at stake is kept. */
  readonly finding: string
}

export interface GridCell {
  readonly systemId: string
  readonly state: CellState
  readonly words: string
  readonly objects: readonly GridObject[]
  readonly remedies: readonly Remedy[]
}

/** One object of the baseline, or of a system where the baseline has nothing of it. */
export interface GridRow {
  readonly id: string
  /** Null in the baseline's own rows. */
  readonly extra: {
    readonly systemId: string
    readonly system: string
    readonly objectId: string
    readonly candidates: readonly {
      readonly id: string
      readonly name: string
      readonly evidence: readonly CrosswalkEvidence[]
    }[]
  } | null
  readonly name: string
  /** Another of the baseline bears the name too: the code tells them apart. */
  readonly shared: boolean
  readonly group: string
  readonly detail: string
  readonly total: string
  readonly cells: readonly GridCell[]
  readonly findings: readonly FindingView[]
  /** Keys of what is at stake, for its evidence. */
  readonly keys: string
  readonly documents: number
  readonly stake: string
  /** Of a posting rule: what its account moved in the month, as the ledger has it, credits counting up; null of anything else, or where nobody knows. */
  readonly moved: string | null
}

export interface GridView {
  readonly kind: AlignKind
  readonly currency: string
  readonly systems: readonly {
    readonly id: string
    readonly name: string
    readonly role: string
    readonly webAddress: string | null
    readonly pulledAt: string | null
    readonly changes: number
  }[]
  readonly limits: Limits
  readonly offset: number
  readonly rows: readonly GridRow[]
  /** Rows that the filters leave, and rows of the baseline in all. */
  readonly total: number
  readonly inBaseline: number
  readonly clearLinks: number
  /** Over all kinds. */
  readonly clearInAll: number
  readonly findings: number
  readonly stake: string
  /** Findings of the kind by code, the heaviest first. */
  readonly byCode: readonly {
    readonly code: FindingCode
    readonly title: string
    readonly severity: Severity
    readonly findings: number
    readonly stake: string
  }[]
}

/** A combined rate through time: spans between the days on which it changes anywhere, open at the end. */
export interface TimelineView {
  readonly name: string
  readonly spans: readonly {
    readonly from: string
    readonly to: string | null
    /** Null where the baseline has no rate for some component then. */
    readonly ours: string | null
    readonly systems: readonly {
      readonly system: string
      readonly name: string
      readonly percent: string
      readonly agrees: boolean
      readonly flat: boolean
    }[]
  }[]
}

/** The row of a grid that stands for whatever is new. */
export const NEW_ROW = '(new)'

/** What new items and parties start with, as agreed and in each system, and how many there are that keep their own. */
export interface DefaultsView {
  readonly itemTaxCode: string | null
  readonly partiesTaxable: boolean | null
  readonly newItems: NewItems
  readonly codes: readonly { readonly id: string; readonly name: string }[]
  readonly items: number
  readonly parties: number
  readonly systems: readonly {
    readonly name: string
    readonly code: string | null
    readonly newPartiesTaxable: boolean | null
    readonly onDefault: number
    readonly items: number
    readonly parties: number
  }[]
}

/** What the baseline's objects of a kind are called, for a choice. */
export interface GridNames {
  readonly names: readonly { readonly id: string; readonly name: string }[]
}

/** The ledger's accounts that a posting rule may go to, and how the rule came to what it is (E4). */
export interface AccountChoices {
  /** The ledger; null where none is connected. */
  readonly systemId: string | null
  readonly kind: PostingKind | null
  /** What the rule's account is kept for, alone. */
  readonly keptFor: readonly PostingKind[] | null
  readonly accounts: readonly { readonly number: string; readonly name: string }[]
  /** What a new account for it would be numbered, empty where nothing can be proposed; null where the ledger lets nobody make one. */
  readonly opens: string | null
  /** Where its amounts go, from when and until when; the first day is null where nobody said one. */
  readonly spans: readonly {
    readonly account: string
    readonly name: string
    readonly from: string | null
    readonly to: string | null
  }[]
  /** Who changed it, the latest first. */
  readonly changes: readonly {
    readonly at: string
    readonly person: string
    readonly before: string
    readonly after: string
    readonly from: string
  }[]
}
