import { z } from 'zod'
import { date } from '../bridge/primitives.ts'
import { AGREED_KINDS, CELL_TYPES } from '../sheets/choices.ts'
import { BASELINE_SHEET_KEYS } from '../sheets/sheets.ts'

/** What is agreed, kind by kind and object by object: cells as a spreadsheet of the baseline has them, by the path of their column. */
export const AgreedKindKey = z.enum(AGREED_KINDS)
const cells = z.record(z.string().max(60), z.string().max(20_000))
/** As an object is known in its kind. */
const id = z.string().min(1).max(400)
/** The first day of a version; null where it holds from the beginning. */
const first = date.nullable()

export const AgreedQuery = z.object({
  search: z.string().max(200).optional(),
  /** Objects that stand so on the last day of the month. */
  state: z.enum(['holds', 'coming', 'ended']).optional(),
  /** What the page before ended with. */
  after: z.string().max(400).optional(),
})
export type AgreedQuery = z.infer<typeof AgreedQuery>

const version = { cells, from: first, to: first }

export const AgreedView = z.object({
  kind: AgreedKindKey,
  title: z.string(),
  dated: z.boolean(),
  fields: z
    .array(
      z.object({
        path: z.string(),
        title: z.string(),
        type: z.enum(CELL_TYPES),
        needed: z.boolean(),
        /** Whether an object is known by it: then it stays as it is. */
        known: z.boolean(),
        words: z.array(z.string()).readonly().nullable(),
        names: z.enum([...BASELINE_SHEET_KEYS, 'accounts']).nullable(),
      }),
    )
    .readonly(),
  /** How many objects there are of each kind. */
  counts: z.record(AgreedKindKey, z.number()),
  /** How those of this kind stand on the last day of the month. */
  standing: z.object({ holds: z.number(), coming: z.number(), ended: z.number() }),
  /** Of two objects that are the same, what is the same. */
  overlaps: z.array(z.object({ ids: z.array(z.string()).readonly(), what: z.string() })).readonly(),
  found: z.number(),
  rows: z
    .array(
      z.object({
        id,
        /** The version that holds on the last day of the month; else the next, else the last. */
        ...version,
        state: z.enum(['holds', 'coming', 'ended']),
        versions: z.number(),
      }),
    )
    .readonly(),
  next: z.string().nullable(),
})
export type AgreedView = z.infer<typeof AgreedView>

/** An object through its versions: what holds when, and what was believed before. */
export const AgreedObject = z.object({
  kind: AgreedKindKey,
  id,
  versions: z
    .array(
      z.object({
        ...version,
        recorded: z.string(),
        /** When something else took its place; null where it stands. */
        until: z.string().nullable(),
      }),
    )
    .readonly(),
})
export type AgreedObject = z.infer<typeof AgreedObject>

/** Codes that a field may name, found by words. */
export const AgreedNamesQuery = z.object({
  of: z.enum([...BASELINE_SHEET_KEYS, 'accounts']),
  search: z.string().max(200).default(''),
})

/** What is to become of an object. */
export const AgreedChange = z.discriminatedUnion('act', [
  z.strictObject({ act: z.literal('make'), cells }),
  z.strictObject({
    act: z.literal('change'),
    id,
    /** The version that is changed, by its first day. */
    version: first,
    cells,
    /** From this day on, until the version ends; at all its dates, those of its cells, where null. */
    since: first,
  }),
  z.strictObject({ act: z.literal('end'), id, version: first, last: date }),
  z.strictObject({ act: z.literal('remove'), id, version: first }),
])
export type AgreedChange = z.infer<typeof AgreedChange>

/** What a change would do, before it is done. Amounts in the base currency. */
export const AgreedPreview = z.object({
  what: z.string(),
  /** The day from which it is so; null where it is at all days of the version. */
  since: first,
  fields: z
    .array(z.object({ title: z.string(), before: z.string().nullable(), after: z.string().nullable() }))
    .readonly(),
  currency: z.string(),
  /** Documents that rest on it, and how many of them, the newest first, were worked out. */
  rest: z.number(),
  worked: z.number(),
  months: z
    .array(
      z.object({
        month: z.string(),
        rest: z.number(),
        /** Of those worked out: whose tax, or where it is owed, would be expected otherwise. */
        differ: z.number(),
        /** Of these: that are proved now. */
        proved: z.number(),
        /** Whose tax is known only then, and no more then. */
        known: z.number(),
        unknown: z.number(),
        before: z.string(),
        after: z.string(),
      }),
    )
    .readonly(),
  /** Documents whose booking would go elsewhere. */
  booked: z.number(),
  revision: z.string(),
})
export type AgreedPreview = z.infer<typeof AgreedPreview>

/** Places that documents name, of the newest of them, where the baseline leaves it open in which jurisdiction they lie. */
export const PlacesMet = z.object({
  documents: z.number(),
  of: z.number(),
  open: z.array(z.object({ says: z.string(), address: z.string(), documents: z.number() })).readonly(),
  more: z.number(),
})
export type PlacesMet = z.infer<typeof PlacesMet>
