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
export type ScopePart = (typeof SCOPE_PARTS)[number]

/** Roles whose documents come in; a ledger's journal always does, or nothing could be proved. */
export const COMING_IN: readonly SystemRole[] = SYSTEM_ROLES.filter((role) => role !== 'ledger')

/** Documents with what they come to and their tax, in the entity's base currency; null where what comes in carries no tax, as bank lines do, or no exchange rate says. */
export interface ScopeAmount {
  readonly documents: number
  readonly tax: string | null
  readonly total: string | null
}

/** A system's scope with what it means for the month. */
export interface ScopeView {
  readonly currency: string
  readonly scope: Scope
  readonly changedBy: string | null
  readonly nextPullAt: string | null
  readonly comesIn: boolean
  /** What its documents name, with what the month has of it, whether it flows or not. */
  readonly parts: Readonly<
    Record<ScopePart, readonly (ScopeAmount & { readonly key: string; readonly name: string })[]>
  >
  readonly taken: ScopeAmount
  readonly tooOld: ScopeAmount
  readonly off: ScopeAmount
  /** The first documents of the month that are not taken, by date, though nothing is wrong with them. */
  readonly left: readonly {
    readonly number: string
    readonly party: string
    readonly date: string
    readonly why: 'out-of-range' | 'kind-off'
    readonly tax: string | null
    readonly total: string | null
    readonly booked: boolean
  }[]
}

/** What a change of scope would do, over all months. */
export interface ScopePreview {
  readonly currency: string
  readonly leaves: ScopeAmount
  readonly comes: ScopeAmount
  /** Booked already: it stays booked, and follows its source. */
  readonly staysBooked: ScopeAmount
  readonly revision: string
}
