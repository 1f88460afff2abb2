import { FindingCode, Severity, NewItems, PostingKind, NamePiece, CrosswalkEvidence } from './ofCore.ts'
import { z } from 'zod'
import { Named } from './common.ts'
import { FINDING_CODES } from '../sentences/findings.ts'
import { Remedy } from './remedy.ts'
import { Limits } from './connectViews.ts'

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
export const FindingKind = z.enum(FINDING_KINDS)
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

export const FindingView = z.object({
  key: z.string(),
  code: FindingCode,
  severity: Severity,
  says: z.string(),
  mend: z.string(),
  system: z.string().nullable(),
  systemId: z.string().nullable(),
  /** Why somebody left it as it is; null where it counts. */
  left: z
    .object({
      reason: z.string(),
      person: z.string(),
      at: z.string(),
    })
    .nullable(),
})
export type FindingView = z.infer<typeof FindingView>

export const GridObject = z.object({
  id: z.string(),
  name: z.string(),
  linked: z.boolean(),
  /** Linked, and its system does not have it any more. */
  gone: z.boolean(),
  agrees: z.boolean(),
  words: z.string(),
  evidence: z.array(CrosswalkEvidence).readonly(),
  clear: z.boolean(),
  names: z
    .object({
      left: z.array(NamePiece).readonly(),
      right: z.array(NamePiece).readonly(),
    })
    .nullable(),
  /** Component by component, or field by field, beside the baseline. */
  fields: z
    .array(
      z.object({
        field: z.string(),
        ours: z.string(),
        theirs: z.string().nullable(),
        agrees: z.boolean(),
      }),
    )
    .readonly(),
  /** Under which its tax at stake is kept. */
  finding: z.string(),
})
export type GridObject = z.infer<typeof GridObject>

export const GridCell = z.object({
  systemId: z.string(),
  state: CellState,
  words: z.string(),
  objects: z.array(GridObject).readonly(),
  remedies: z.array(Remedy).readonly(),
})
export type GridCell = z.infer<typeof GridCell>

/** One object of the baseline, or of a system where the baseline has nothing of it. */
export const GridRow = z.object({
  id: z.string(),
  /** Null in the baseline's own rows. */
  extra: z
    .object({
      systemId: z.string(),
      system: z.string(),
      objectId: z.string(),
      candidates: z
        .array(
          z.object({
            id: z.string(),
            name: z.string(),
            evidence: z.array(CrosswalkEvidence).readonly(),
          }),
        )
        .readonly(),
    })
    .nullable(),
  name: z.string(),
  /** Another of the baseline bears the name too: the code tells them apart. */
  shared: z.boolean(),
  group: z.string(),
  detail: z.string(),
  total: z.string(),
  cells: z.array(GridCell).readonly(),
  findings: z.array(FindingView).readonly(),
  /** Keys of what is at stake, for its evidence. */
  keys: z.string(),
  documents: z.number(),
  stake: z.string(),
  /** Of a posting rule: what its account moved in the month, as the ledger has it, credits counting up; null of anything else, or where nobody knows. */
  moved: z.string().nullable(),
})
export type GridRow = z.infer<typeof GridRow>

export const GridView = z.object({
  kind: AlignKind,
  currency: z.string(),
  systems: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        role: z.string(),
        webAddress: z.string().nullable(),
        pulledAt: z.string().nullable(),
        changes: z.number(),
      }),
    )
    .readonly(),
  limits: Limits,
  offset: z.number(),
  rows: z.array(GridRow).readonly(),
  /** Rows that the filters leave, and rows of the baseline in all. */
  total: z.number(),
  inBaseline: z.number(),
  clearLinks: z.number(),
  /** Over all kinds. */
  clearInAll: z.number(),
  findings: z.number(),
  stake: z.string(),
  /** Findings of the kind by code, the heaviest first. */
  byCode: z
    .array(
      z.object({
        code: FindingCode,
        title: z.string(),
        severity: Severity,
        findings: z.number(),
        stake: z.string(),
      }),
    )
    .readonly(),
})
export type GridView = z.infer<typeof GridView>

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

/** What the baseline's objects of a kind are called, for a choice. */
export const GridNames = z.object({
  names: z.array(Named).readonly(),
})
export type GridNames = z.infer<typeof GridNames>

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
