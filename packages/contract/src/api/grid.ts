import { z } from 'zod'

import { AlignKind, CellState } from './align.ts'
import { Named } from './common.ts'
import { Limits } from './connectViews.ts'
import { PAGE_ROWS } from './lists.ts'
import { CrosswalkEvidence, FindingCode, NamePiece, Severity } from './ofCore.ts'
import { Remedy } from './remedy.ts'

export const GRID_SORTS = ['name', 'stake', 'findings', 'documents'] as const

/** What of a grid is asked for: filters, the order, and which rows of it. */
export const GridQuery = z.object({
  search: z.string().max(200).default(''),
  only: z.enum(['differs', 'extra', 'left', 'stops', 'costs', 'settle']).optional(),
  system: z.string().max(60).optional().meta({ description: 'Only rows that have a finding in this system' }),
  code: z.string().max(60).optional().meta({ description: 'Only rows with this finding' }),
  sort: z.enum(GRID_SORTS).default('name'),
  offset: z.coerce.number().int().min(0).max(10000000).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(PAGE_ROWS),
})

export type GridQuery = z.infer<typeof GridQuery>
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

/** What the baseline's objects of a kind are called, for a choice. */
export const GridNames = z.object({
  names: z.array(Named).readonly(),
})

export type GridNames = z.infer<typeof GridNames>
