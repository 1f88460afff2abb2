import { z } from 'zod'
import type { AgreedKind } from '../sheets/choices.ts'

/** What of a baseline is no client's own, and may be taken from one legal entity of a practice to another: what agencies say, and how codes are named. */
export const COPIED_KINDS = [
  'agencies',
  'jurisdictions',
  'rateVersions',
  'combinedRates',
  'itemTaxCodes',
  'codeRules',
  'roundings',
  'regionRules',
  'thresholds',
] as const satisfies readonly AgreedKind[]
export type CopiedKind = (typeof COPIED_KINDS)[number]

/**
 * How an object stands to the one that it may be taken from.
 * `new`: it was never here. `changed`: here it stands as it was taken, there it is another now. `differs`: it is another here than there, and was never taken, or was
 * changed on both sides since. `gone`: here it stands as it was taken, and there it is no more. `own`: there it stands as it was taken, here it is another, or was
 * left so. `off`: it was taken, or left, and is not here.
 */
export const COPY_STANDINGS = ['new', 'changed', 'differs', 'gone', 'own', 'off'] as const
export type CopyStanding = (typeof COPY_STANDINGS)[number]

/** Legal entities that something may be taken from: all others that whoever asks is a member of. */
export const CopySources = z.object({
  sources: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        /** Since when something of it was taken, by whom, and whether its changes are waited for. */
        taken: z.object({ at: z.string(), person: z.string(), follows: z.boolean() }).nullable(),
        /** Objects of one that is followed, which are new or another there since something was taken. */
        waiting: z.int().nullable(),
        /** Why nothing is known of one that is followed, just now. */
        away: z.object({ code: z.string(), says: z.string(), mend: z.string() }).nullable(),
      }),
    )
    .readonly(),
  /** What is followed and whoever asks is no member of: it is not named. */
  unseen: z.int(),
})
export type CopySources = z.infer<typeof CopySources>

/** Its fields in words, and its days; null where it holds from the beginning, or on. */
export const CopyVersion = z.object({
  says: z.string(),
  from: z.string().nullable(),
  to: z.string().nullable(),
})
export type CopyVersion = z.infer<typeof CopyVersion>

export const CopyView = z.object({
  from: z.object({ id: z.string(), name: z.string() }),
  taken: z.object({ at: z.string(), person: z.string(), follows: z.boolean() }).nullable(),
  /** Objects that are here as they are there. */
  same: z.int(),
  /** Objects that are new or another there since something was taken. */
  waiting: z.int(),
  counts: z.record(z.enum(COPY_STANDINGS), z.int()),
  rows: z
    .array(
      z.object({
        key: z.string(),
        kind: z.enum(COPIED_KINDS),
        id: z.string(),
        standing: z.enum(COPY_STANDINGS),
        name: z.string(),
        /** What is agreed of it, version by version; none where nothing is. */
        here: z.array(CopyVersion).readonly(),
        there: z.array(CopyVersion).readonly(),
      }),
    )
    .readonly(),
  /** Rows beyond those that are listed. */
  more: z.int(),
  /** As it was looked at: both baselines. */
  revision: z.string(),
})
export type CopyView = z.infer<typeof CopyView>

export const CopyKeys = z.array(z.string().min(1).max(500)).min(1).max(10_000)

/** What is taken: all of some standings, or object by object. */
export const CopyChoice = z.union([
  z.strictObject({ standings: z.array(z.enum(COPY_STANDINGS)).min(1) }),
  z.strictObject({ keys: CopyKeys }),
])
export type CopyChoice = z.infer<typeof CopyChoice>
