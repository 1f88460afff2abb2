import { z } from 'zod'
import { FieldChange } from './common.ts'
import { ALIGN_KINDS } from './align.ts'
import { GridQuery } from './grid.ts'

/** What may be done to many rows at once: accept their clear links, send the baseline's values or take the systems', make what a system lacks, send kinds of amount that go nowhere to an account and make those that the ledger lacks, take in what only a system has, or leave findings with a reason. */
export const BULK_ACTIONS = ['link', 'send', 'create', 'open', 'adopt', 'take-in', 'leave'] as const
export const BulkAction = z.enum(BULK_ACTIONS)
export type BulkAction = z.infer<typeof BulkAction>

/** Rows by their ids, or all that a filter leaves. */
export const BulkRequest = z
  .object({
    kind: z.enum(ALIGN_KINDS),
    action: z.enum(BULK_ACTIONS),
    rows: z.union([
      z.object({ ids: z.array(z.string().max(300)).min(1).max(5000) }),
      z.object({ filter: GridQuery.omit({ offset: true, limit: true, sort: true }) }),
    ]),
    systemId: z
      .string()
      .max(60)
      .nullable()
      .default(null)
      .meta({ description: 'Only what concerns this system' }),
    reason: z
      .string()
      .trim()
      .min(3, 'says too little')
      .max(400)
      .nullable()
      .default(null)
      .meta({ description: 'Of leaving' }),
  })
  .refine((r) => (r.action === 'leave') === (r.reason !== null), {
    error: 'leaving, and only that, has a reason',
  })
export type BulkRequest = z.infer<typeof BulkRequest>
export type BulkInput = z.input<typeof BulkRequest>

/** What would be done, row by row, and what would not and why; the first so many of each. */
export const BulkPreview = z.object({
  action: BulkAction,
  revision: z.string(),
  does: z
    .array(
      z.object({
        row: z.string(),
        system: z.string(),
        changes: z.array(FieldChange).readonly(),
      }),
    )
    .readonly(),
  skips: z
    .array(
      z.object({
        row: z.string(),
        system: z.string(),
        why: z.string(),
      }),
    )
    .readonly(),
  total: z.number(),
  skipped: z.number(),
})
export type BulkPreview = z.infer<typeof BulkPreview>

/** What was done at once, and whether it can be taken back at once. */
export const BatchView = z.object({
  id: z.string(),
  action: z.string(),
  says: z.string(),
  person: z.string(),
  at: z.string(),
  size: z.number(),
  undoneBy: z.string().nullable(),
  canUndo: z.boolean(),
})
export type BatchView = z.infer<typeof BatchView>
