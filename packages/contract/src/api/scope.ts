import { z } from 'zod'
import { date, timeOfDay } from '../bridge/primitives.ts'
import { SYSTEM_ROLES, type SystemRole } from '../bridge/kinds.ts'

/** So often a system is pulled at most, and at least, where it is pulled every so often. */
export const PULLED_EVERY = { least: 5, most: 1440 } as const

const names = z.array(z.string().max(200)).max(200)

/** When a system is pulled without anybody asking; null: on demand alone. Times are the entity's. */
const PullSchedule = z.union([
  z.strictObject({ everyMinutes: z.int().min(PULLED_EVERY.least).max(PULLED_EVERY.most) }),
  z.strictObject({ at: z.array(timeOfDay).min(1).max(24) }),
])

/**
 * What of a system's documents is taken, which way, from when, and how often it is pulled. What is switched off is named, so that what is
 * new there flows; a document that names no channel or place goes by the empty name. Drafts are never taken, and voids always follow.
 */
export const Scope = z.strictObject({
  from: date.nullable(),
  /** Whether its documents are taken at all, and whether anything of ours is sent to it. */
  comesIn: z.boolean(),
  goesOut: z.boolean(),
  off: z.strictObject({
    channels: names,
    places: names,
    kinds: names,
    statuses: z.array(z.enum(['open', 'paid'])),
  }),
  schedule: PullSchedule.nullable(),
})
export type Scope = z.infer<typeof Scope>

/** Everything flows, and nothing is pulled before somebody asks. */
export const WHOLE_SCOPE: Scope = {
  from: null,
  comesIn: true,
  goesOut: true,
  off: { channels: [], places: [], kinds: [], statuses: [] },
  schedule: null,
}

/** What can be switched off; a list of a scope's `off`. */
export const SCOPE_PARTS = ['channels', 'places', 'kinds', 'statuses'] as const
export const ScopePart = z.enum(SCOPE_PARTS)
export type ScopePart = z.infer<typeof ScopePart>

/** Roles whose documents come in; a ledger's journal always does, or nothing could be proved, and so does what a tax service keeps of others' documents. */
export const COMING_IN: readonly SystemRole[] = SYSTEM_ROLES.filter(
  (role) => role !== 'ledger' && role !== 'tax-service',
)

/** Documents with what they come to and their tax, in the entity's base currency; null where what comes in carries no tax, as bank lines do, or no exchange rate says. */
export const ScopeAmount = z.object({
  documents: z.number(),
  tax: z.string().nullable(),
  total: z.string().nullable(),
})
export type ScopeAmount = z.infer<typeof ScopeAmount>

/** A system's scope with what it means for the month. */
export const ScopeView = z.object({
  currency: z.string(),
  scope: Scope,
  changedBy: z.string().nullable(),
  nextPullAt: z.string().nullable(),
  comesIn: z.boolean(),
  /** What its documents name, with what the month has of it, whether it flows or not. */
  parts: z.record(
    ScopePart,
    z
      .array(
        ScopeAmount.extend({
          key: z.string(),
          name: z.string(),
        }),
      )
      .readonly(),
  ),
  taken: ScopeAmount,
  tooOld: ScopeAmount,
  off: ScopeAmount,
  /** The first documents of the month that are not taken, by date, though nothing is wrong with them. */
  left: z
    .array(
      z.object({
        number: z.string(),
        party: z.string(),
        date: z.string(),
        why: z.enum(['out-of-range', 'kind-off']),
        tax: z.string().nullable(),
        total: z.string().nullable(),
        booked: z.boolean(),
      }),
    )
    .readonly(),
})
export type ScopeView = z.infer<typeof ScopeView>

/** What a change of scope would do, over all months. */
export const ScopePreview = z.object({
  currency: z.string(),
  leaves: ScopeAmount,
  comes: ScopeAmount,
  /** Booked already: it stays booked, and follows its source. */
  staysBooked: ScopeAmount,
  revision: z.string(),
})
export type ScopePreview = z.infer<typeof ScopePreview>
