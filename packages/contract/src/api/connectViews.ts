import type { Scope, ScopeAmount } from './scope.ts'

/** Connect: systems, what they hold and how fresh it is. Amounts are decimal strings in `currency`; null is "nothing stated" or "not pulled yet", never nil. */

/** A system whose last pull failed: what is known of it is from `since`, null where it was never read. */
export interface NotFresh {
  readonly system: string
  readonly since: string | null
  readonly failedAt: string
  readonly says: string
  readonly mend: string
}

/** What a page could not look at: nothing that it says is said of that. */
export interface Limits {
  /** Systems that were never pulled to the end. */
  readonly notPulled: readonly string[]
  /** Systems whose last pull failed: what is known of them is from before. */
  readonly failed: readonly string[]
  /** Objects that could not be read. */
  readonly unread: number
  /** Whether nothing at all was pulled. */
  readonly all: boolean
}

export interface PulledView {
  readonly system: string
  readonly counts: readonly {
    readonly resource: string
    readonly added: number
    readonly changed: number
    readonly removed: number
    readonly unreadable: number
  }[]
  readonly problem: { readonly says: string; readonly mend: string } | null
}

export interface ConnectView {
  readonly currency: string
  readonly systems: readonly {
    readonly id: string
    readonly role: string
    readonly name: string
    readonly product: string
    readonly company: string
    readonly webAddress: string | null
    /** The last pull that read it to the end. */
    readonly pulledAt: string | null
    /** Where a later one failed. */
    readonly notFresh: NotFresh | null
    readonly lastPull: readonly PulledView['counts'][number][]
    readonly checks: readonly {
      readonly code: string
      readonly group: string
      readonly question: string
      readonly why: string
      readonly mend: string
      readonly blocks: boolean
      readonly state: 'passes' | 'fails' | 'open' | 'not-checked'
      readonly fact: string
    }[]
    readonly changes: readonly {
      readonly resource: string
      readonly label: string
      readonly kind: string
      readonly fields: readonly { readonly field: string; readonly from: string; readonly to: string }[]
    }[]
    readonly moreChanges: number
    readonly findings: readonly { readonly says: string; readonly mend: string }[]
    /** What it sent in the month by outlet or channel, and since when that is silent. */
    readonly streams: readonly {
      readonly name: string
      readonly documents: number
      readonly silence: {
        readonly since: string
        readonly days: number
        readonly least: number
        readonly most: number
      } | null
    }[]
    /** Whether its set-up comes as spreadsheets. */
    readonly byFiles: boolean
    /** What its scope leaves out of the month, though nothing is wrong with it; when it is pulled by itself. */
    readonly leftOut: ScopeAmount
    readonly schedule: Scope['schedule']
    readonly goesOut: boolean
  }[]
  /** Systems that were taken off, with all that is known of them kept. */
  readonly disconnected: readonly {
    readonly id: string
    readonly name: string
    readonly role: string
    readonly at: string
  }[]
}

interface RoundingSaid {
  readonly level: 'unit' | 'line' | 'document'
  readonly unit: 'component' | 'combined'
  readonly tie: 'half-away' | 'half-even' | 'truncate'
}

/** What a system's own documents show of its ways (K17), beside what its settings claim and what is agreed. */
export interface WaysView {
  readonly system: string
  /** Looked at, and in the month in all. */
  readonly documents: number
  readonly total: number
  readonly claims: RoundingSaid | null
  readonly regions: readonly {
    readonly name: string
    readonly documents: number
    /** Every place that reproduces all of them, as equals. */
    readonly places: readonly RoundingSaid[]
    readonly agreed: RoundingSaid | null
    readonly claimHolds: boolean | null
    /** Rates that it takes otherwise than agreed. */
    readonly rates: readonly { readonly rate: string; readonly as: readonly string[] }[]
    readonly nearest: RoundingSaid | null
    readonly unpredicted: readonly string[]
    readonly more: number
    readonly changedOn: string | null
  }[]
  readonly onDefault: {
    readonly code: string
    readonly items: readonly string[]
    readonly documents: number
  } | null
  /** When each outlet's day ends, as its sales are dated: after `after`, and at `until` at the latest. */
  readonly cutOffs: readonly {
    readonly outlet: string
    readonly documents: number
    readonly after: string | null
    readonly until: string | null
    readonly claims: string | null
    readonly claimHolds: boolean
    readonly odd: readonly string[]
  }[]
}

/** What somebody is told who was invited to complete a connection. */
export interface InvitationView {
  readonly entity: string
  readonly system: string
  readonly role: string
  readonly by: string
  readonly until: string
}

/** What pulls and files found otherwise than before, newest first; `next` continues it. */
export interface ChangesView {
  readonly changes: readonly {
    readonly id: string
    readonly at: string
    readonly system: string
    readonly resource: string
    readonly kind: 'added' | 'changed' | 'removed' | 'unreadable' | 'readable'
    readonly label: string
    readonly fields: readonly { readonly field: string; readonly from: string; readonly to: string }[]
  }[]
  readonly systems: readonly { readonly id: string; readonly name: string }[]
  readonly resources: readonly string[]
  readonly next: string | null
}
