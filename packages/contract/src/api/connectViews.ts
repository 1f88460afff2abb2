import { z } from 'zod'
import { FieldChange, Named } from './common.ts'
import { SystemRole } from './ofCore.ts'
import { Scope, ScopeAmount } from './scope.ts'

/** Connect: systems, what they hold and how fresh it is. Amounts are decimal strings in `currency`; null is "nothing stated" or "not pulled yet", never nil. */

/** A system whose last pull failed: what is known of it is from `since`, null where it was never read. */
export const NotFresh = z.object({
  system: z.string(),
  since: z.string().nullable(),
  failedAt: z.string(),
  says: z.string(),
  mend: z.string(),
})
export type NotFresh = z.infer<typeof NotFresh>

/** What a page could not look at: nothing that it says is said of that. */
export const Limits = z.object({
  /** Systems that were never pulled to the end. */
  notPulled: z.array(z.string()).readonly(),
  /** Systems whose last pull failed: what is known of them is from before. */
  failed: z.array(z.string()).readonly(),
  /** Objects that could not be read. */
  unread: z.number(),
  /** Since when figures are older than what they rest on: a change that is still to be proved; null where none is. */
  older: z.string().nullable(),
  /** Whether nothing at all was pulled. */
  all: z.boolean(),
})
export type Limits = z.infer<typeof Limits>

export const PulledView = z.object({
  system: z.string(),
  counts: z
    .array(
      z.object({
        resource: z.string(),
        added: z.number(),
        changed: z.number(),
        removed: z.number(),
        unreadable: z.number(),
      }),
    )
    .readonly(),
  problem: z
    .object({
      says: z.string(),
      mend: z.string(),
    })
    .nullable(),
})
export type PulledView = z.infer<typeof PulledView>

/** A check of a system's readiness, and how it came out. */
export const CheckView = z.object({
  code: z.string(),
  group: z.string(),
  question: z.string(),
  why: z.string(),
  mend: z.string(),
  blocks: z.boolean(),
  state: z.enum(['passes', 'fails', 'open', 'not-checked']),
  fact: z.string(),
})
export type CheckView = z.infer<typeof CheckView>

/** Who answers at a bridge's address, before anything is kept of it. */
export const AskedView = z.object({
  product: z.string(),
  company: z.object({ id: z.string(), name: z.string() }),
  webAddress: z.string().nullable(),
  baseCurrency: z.string(),
  timeZone: z.string(),
  /** What can be read of it, and what a system of its role has and it does not. */
  offers: z.array(z.string()).readonly(),
  lacks: z.array(z.string()).readonly(),
  /** What it lets others write: bookings, and set-up. */
  takes: z.array(z.string()).readonly(),
  /** Connected systems that may be the same one. */
  twins: z.array(z.string()).readonly(),
  checks: z.array(CheckView).readonly(),
})
export type AskedView = z.infer<typeof AskedView>

export const ConnectView = z.object({
  currency: z.string(),
  systems: z
    .array(
      z.object({
        id: z.string(),
        role: SystemRole,
        name: z.string(),
        product: z.string(),
        company: z.string(),
        webAddress: z.string().nullable(),
        /** Of a tax service: the systems that sell, and whether it is said to compute for each; null of any other. */
        computesFor: z
          .array(z.object({ id: z.string(), name: z.string(), said: z.boolean() }))
          .readonly()
          .nullable(),
        /** Where its bridge is, for administrators alone; null for others, and where it has none. */
        bridgeAddress: z.string().nullable(),
        /** The last pull that read it to the end. */
        pulledAt: z.string().nullable(),
        /** Where a later one failed. */
        notFresh: NotFresh.nullable(),
        lastPull: z.array(PulledView.shape.counts.unwrap().element).readonly(),
        checks: z.array(CheckView).readonly(),
        changes: z
          .array(
            z.object({
              resource: z.string(),
              label: z.string(),
              kind: z.string(),
              fields: z.array(FieldChange).readonly(),
            }),
          )
          .readonly(),
        moreChanges: z.number(),
        findings: z
          .array(
            z.object({
              says: z.string(),
              mend: z.string(),
            }),
          )
          .readonly(),
        /** What it sent in the month by outlet or channel, and since when that is silent. */
        streams: z
          .array(
            z.object({
              name: z.string(),
              documents: z.number(),
              silence: z
                .object({
                  since: z.string(),
                  days: z.number(),
                  least: z.number(),
                  most: z.number(),
                })
                .nullable(),
            }),
          )
          .readonly(),
        /** Whether its set-up comes as spreadsheets. */
        byFiles: z.boolean(),
        /** What its scope leaves out of the month, though nothing is wrong with it; when it is pulled by itself. */
        leftOut: ScopeAmount,
        schedule: Scope.shape.schedule,
        goesOut: z.boolean(),
      }),
    )
    .readonly(),
  /** Systems that were taken off, with all that is known of them kept. */
  disconnected: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        role: SystemRole,
        /** Whether it has no bridge. */
        byFiles: z.boolean(),
        at: z.string(),
      }),
    )
    .readonly(),
})
export type ConnectView = z.infer<typeof ConnectView>

const RoundingSaid = z.object({
  level: z.enum(['unit', 'line', 'document']),
  unit: z.enum(['component', 'combined']),
  tie: z.enum(['half-away', 'half-even', 'truncate']),
})
type RoundingSaid = z.infer<typeof RoundingSaid>

/** What a system's own documents show of its ways (K17), beside what its settings claim and what is agreed. */
export const WaysView = z.object({
  system: z.string(),
  /** Looked at, and in the month in all. */
  documents: z.number(),
  total: z.number(),
  claims: RoundingSaid.nullable(),
  regions: z
    .array(
      z.object({
        name: z.string(),
        documents: z.number(),
        /** Every place that reproduces all of them, as equals. */
        places: z.array(RoundingSaid).readonly(),
        agreed: RoundingSaid.nullable(),
        claimHolds: z.boolean().nullable(),
        /** Rates that it takes otherwise than agreed. */
        rates: z
          .array(
            z.object({
              rate: z.string(),
              as: z.array(z.string()).readonly(),
            }),
          )
          .readonly(),
        nearest: RoundingSaid.nullable(),
        unpredicted: z.array(z.string()).readonly(),
        more: z.number(),
        changedOn: z.string().nullable(),
      }),
    )
    .readonly(),
  onDefault: z
    .object({
      code: z.string(),
      items: z.array(z.string()).readonly(),
      documents: z.number(),
    })
    .nullable(),
  /** When each outlet's day ends, as its sales are dated: after `after`, and at `until` at the latest. */
  cutOffs: z
    .array(
      z.object({
        outlet: z.string(),
        documents: z.number(),
        after: z.string().nullable(),
        until: z.string().nullable(),
        claims: z.string().nullable(),
        claimHolds: z.boolean(),
        odd: z.array(z.string()).readonly(),
      }),
    )
    .readonly(),
})
export type WaysView = z.infer<typeof WaysView>

/** What somebody is told who was invited to complete a connection. */
export const InvitationView = z.object({
  entity: z.string(),
  system: z.string(),
  role: z.string(),
  by: z.string(),
  until: z.string(),
})
export type InvitationView = z.infer<typeof InvitationView>

/** What pulls and files found otherwise than before, newest first; `next` continues it. */
export const ChangesView = z.object({
  changes: z
    .array(
      z.object({
        id: z.string(),
        at: z.string(),
        system: z.string(),
        resource: z.string(),
        kind: z.enum(['added', 'changed', 'removed', 'unreadable', 'readable']),
        label: z.string(),
        fields: z.array(FieldChange).readonly(),
      }),
    )
    .readonly(),
  systems: z.array(Named).readonly(),
  resources: z.array(z.string()).readonly(),
  next: z.string().nullable(),
})
export type ChangesView = z.infer<typeof ChangesView>
