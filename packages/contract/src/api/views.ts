import type { FindingKind } from './align.ts'
import type { ListChoices, POST_STATES } from './lists.ts'
import type { CauseFacts } from './evidence.ts'
import type { Remedy } from './remedy.ts'
import type { Scope, ScopeAmount } from './scope.ts'

/** What each page reads. Amounts are decimal strings in `currency`; null is "nothing stated" or "not pulled yet", never nil. */

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

export interface PathView {
  readonly currency: string
  readonly connect: {
    readonly ready: number
    readonly systems: number
    readonly pulled: boolean
    readonly failing: number
    /** Systems whose last reading failed: what is shown of them is from before. */
    readonly stale: number
    /** Of the systems that charge tax or book it. */
    readonly limits: Limits
  }
  readonly align: {
    readonly findings: number
    readonly byKind: Readonly<Record<FindingKind, number>>
    readonly stake: string
  }
  readonly post: { readonly waiting: number; readonly failed: number; readonly tax: string }
  readonly tieout: {
    readonly unproved: string
    readonly unprovedNet: string
    readonly documents: number
    /** Documents whose difference is kept, or given back: no part of what is not proved, nor proved. */
    readonly apart: number
  }
  readonly run: RunView | null
}

export interface RunView {
  readonly id: string
  readonly kind: string
  readonly state: 'queued' | 'running' | 'done' | 'failed' | 'cancelled'
  readonly step: string
  readonly total: number
  readonly done: number
  readonly failed: number
  readonly startedBy: string
  readonly problem: { readonly says: string; readonly mend: string } | null
  /** Of a run over many things: what could not be done of it. */
  readonly problems: readonly { readonly what: string; readonly says: string; readonly mend: string }[]
  readonly pulled: readonly PulledView[]
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

export type PostState = (typeof POST_STATES)[number]

export interface PostRow {
  readonly unit: string
  readonly externalId: string | null
  readonly number: string
  readonly kind: string
  readonly party: string
  readonly date: string
  readonly state: PostState
  readonly tax: string
  readonly total: string
  /** The total in the document's own currency, where that is another. */
  readonly foreign: { readonly currency: string; readonly total: string } | null
  readonly remarks: readonly {
    readonly code: string
    readonly says: string
    readonly mend: string
    readonly blocks: boolean
  }[]
  readonly reason: { readonly says: string; readonly mend: string } | null
}

/** Documents of kinds that are not posted so far, beside what is tied out and no part of it; the tax is what their sources stated. */
export interface NotPosted {
  readonly sold: NotPostedSum
  readonly bought: NotPostedSum
}

export interface NotPostedSum {
  readonly documents: number
  readonly tax: string
}

export interface PostView {
  readonly currency: string
  readonly counts: Readonly<Partial<Record<PostState, number>>>
  readonly tax: Readonly<Partial<Record<PostState, string>>>
  readonly blocking: readonly string[]
  /** Where people open the ledger; null where none is connected, or it says nothing. */
  readonly ledger: { readonly name: string; readonly address: string } | null
  /** Why documents failed, each reason once: where to mend it, and how many it holds up. */
  readonly reasons: readonly {
    readonly code: string
    readonly says: string
    readonly mend: string
    readonly documents: number
    readonly tax: string
    readonly state: PostState
  }[]
  readonly remarked: { readonly documents: number; readonly tax: string }
  readonly notPosted: NotPosted
  readonly choices: ListChoices
  readonly rows: readonly PostRow[]
  readonly total: number
  /** What the next page comes after; null where this is the last. */
  readonly next: string | null
}

/** What summing every fact anew says beside the quick proof. */
export interface FullProofView {
  readonly documents: number
  readonly facts: number
  readonly astray: number
  /** Documents on which the two proofs do not agree: a fault of Axion's own. */
  readonly disagreeing: number
  readonly named: readonly {
    readonly unit: string
    readonly number: string
    readonly quick: 'differs' | 'agrees'
  }[]
}

/** Where somebody is signed in. */
export interface SessionsView {
  readonly sessions: readonly {
    readonly id: string
    readonly began: string
    readonly ends: string
    readonly from: string | null
    /** What the browser calls itself. */
    readonly agent: string
    readonly own: boolean
  }[]
}

export interface MembersView {
  readonly members: readonly {
    readonly name: string
    readonly email: string
    readonly role: 'viewer' | 'preparer' | 'reviewer' | 'administrator'
  }[]
}

/** The trail, newest first; `next` continues it. */
export interface TrailView {
  readonly entries: readonly {
    readonly id: string
    readonly at: string
    readonly person: string
    readonly from: string | null
    readonly action: string
    readonly object: string
    readonly fields: readonly { readonly field: string; readonly from: string; readonly to: string }[]
  }[]
  readonly people: readonly string[]
  readonly actions: readonly string[]
  readonly next: string | null
}

/** The months of an entity, newest first: nothing of it pulled, open, or proved whole. */
export interface MonthsView {
  readonly currency: string
  /** The month before the one that runs today: the one that is worked at by habit. */
  readonly before: string
  readonly months: readonly {
    readonly month: string
    readonly state: 'nothing' | 'open' | 'proved'
    readonly unproved: string
    readonly documents: number
    /** How many documents and entries are kept or given back: neither proved nor open. */
    readonly apart: number
  }[]
}

/** One row a legal entity that the person belongs to: what waits at each stage of a month. */
export interface PracticeView {
  readonly month: string
  /** Every month of any of the legal entities, newest first, with how many of them are in which state. */
  readonly months: readonly (Readonly<Record<MonthsView['months'][number]['state'], number>> & {
    readonly month: string
  })[]
  /** What is not proved comes first, and of that what waits most. */
  readonly entities: readonly {
    readonly id: string
    readonly name: string
    readonly role: string
    readonly month: string
    readonly path: PathView
    /** The month before this one, and what is not proved in it. */
    readonly before: MonthsView['months'][number]
    readonly causes: number
    readonly findings: number
  }[]
}

/** What withdrawing would take out of the ledger. */
export interface WithdrawPreview {
  readonly currency: string
  readonly ledger: string
  /** By the ledger's own void, or by a booking for the same amounts on the other side. */
  readonly way: 'void' | 'reversal'
  readonly documents: readonly {
    readonly unit: string
    readonly number: string
    readonly party: string
    readonly date: string
    readonly entry: string
    readonly tax: string
    readonly total: string
  }[]
  /** Chosen ones that stay, and why. */
  readonly kept: readonly { readonly unit: string; readonly number: string; readonly why: string }[]
  readonly journal: readonly {
    readonly account: string
    readonly debit: string | null
    readonly credit: string | null
  }[]
  readonly revision: string
}

export interface CauseView {
  readonly key: string
  readonly facts: CauseFacts
  readonly others: readonly CauseFacts[]
  readonly headline: string
  readonly documents: number
  readonly unproved: string
  readonly unprovedNet: string
  /** What can be done about it here, the best first; none where it is mended at its source. */
  readonly remedies: readonly Remedy[]
  /** More than one kind of explanation is left: somebody has to say which it is. */
  readonly asks: boolean
  /** Documents whose ledger holds what was charged: their difference can be kept as it is; and how many of them wait for a review of that. */
  readonly keepable: number
  readonly keptWaiting: number
}

/** Differences of a month that are settled: kept with a reason and reviewed, or given back by a credit. */
export interface KeptSums {
  readonly kept: number
  readonly cured: number
  /** Charged too much: it has to be remitted, or was given back. */
  readonly over: string
  /** Charged too little: it is still owed. */
  readonly under: string
  /** Kept, and not reviewed yet: they count as not proved. */
  readonly waiting: number
}

export interface KeptView {
  readonly currency: string
  readonly documents: readonly {
    readonly unit: string
    readonly number: string
    readonly party: string
    readonly over: string
    readonly under: string
    readonly kept: {
      readonly reason: string
      readonly by: string
      readonly at: string
      readonly reviewedBy: string | null
      readonly reviewedAt: string | null
    } | null
    /** The documents that give it back, or that it gives back. */
    readonly givenBackWith: string | null
  }[]
}

/** What keeping the differences of a cause would set apart. */
export interface KeepPreview {
  readonly documents: number
  readonly over: string
  readonly under: string
  readonly currency: string
  readonly revision: string
}

/** What of a cause is corrected elsewhere, document by document. */
export interface WorkList {
  readonly currency: string
  readonly cause: string
  readonly documents: readonly {
    readonly unit: string
    readonly number: string
    readonly party: string
    readonly date: string
    readonly system: string
    /** Where people open it there. */
    readonly address: string | null
    readonly lines: readonly {
      readonly agency: string | null
      readonly account: string | null
      readonly stated: string | null
      readonly expected: string | null
      readonly booked: string | null
    }[]
    /** Who says that it is corrected; `stillWrong` where a pull since found it as it was. */
    readonly ticked: { readonly by: string; readonly at: string; readonly stillWrong: boolean } | null
  }[]
}

export interface TieOutRow {
  readonly unit: string
  readonly number: string
  readonly party: string
  readonly date: string
  readonly agency: string | null
  readonly agencyName: string | null
  readonly account: string | null
  readonly stated: string | null
  readonly expected: string | null
  readonly booked: string | null
  readonly unproved: string
  readonly headline: string | null
  readonly facets: readonly string[]
  readonly cause: string | null
  /** Whether documents of its kind are posted so far. */
  readonly posted: boolean
  readonly proved: boolean
  /** Kept, or given back by a credit. */
  readonly settled: 'kept' | 'cured' | null
  readonly first: boolean
  /** Whether the baseline can say what is expected: of no line, of some, of all. */
  readonly known: 'no' | 'partly' | 'yes'
  /** The ledger names no agency on a tax line of this document. */
  readonly bookedUnnamed: boolean
  /** Its document is not proved, and no line of it is astray: it stands for the document. */
  readonly unprovedAlone: boolean
}

export interface TieOutView {
  readonly currency: string
  readonly unproved: string
  readonly unprovedNet: string
  readonly expected: string
  readonly documents: number
  readonly proved: number
  readonly pulled: boolean
  /** Systems that were never pulled and without which nothing can be said to be proved. */
  readonly awaits: readonly string[]
  readonly notFresh: readonly NotFresh[]
  readonly kept: KeptSums
  readonly notPosted: NotPosted
  readonly causes: readonly CauseView[]
  readonly rows: readonly TieOutRow[]
  readonly totals: {
    readonly stated: string
    readonly expected: string
    readonly booked: string
    readonly unproved: string
  }
  readonly choices: ListChoices
  /** Documents that the filter finds; what the next page comes after. */
  readonly total: number
  readonly next: string | null
}

export interface CloseRow {
  readonly agency: string | null
  readonly agencyName: string
  readonly account: string | null
  readonly accountName: string
  readonly stated: string | null
  /** Tax expected on documents whose source states no split: stated is silent about it. */
  readonly unsplit: string
  readonly expected: string
  readonly booked: string | null
  /** The account's balance at the end of the month; null on further rows of the same account, and before a pull. */
  readonly balance: string | null
  readonly balanceGap: string
  readonly sharesAccount: boolean
  /** Where too much on some documents and too little on others would hide each other: expected less stated, and booked less expected. */
  readonly statedApart: { readonly over: string; readonly under: string }
  readonly bookedApart: { readonly over: string; readonly under: string }
  readonly unproved: string
}

export interface CloseView {
  readonly currency: string
  readonly pulledAt: string | null
  /** Systems that were never pulled and without which nothing can be said to be proved. */
  readonly awaits: readonly string[]
  readonly notFresh: readonly NotFresh[]
  readonly unproved: string
  readonly unprovedNet: string
  readonly expected: string
  readonly documents: number
  readonly kept: KeptSums
  readonly notPosted: NotPosted
  readonly causes: readonly {
    readonly key: string
    readonly unit: string
    readonly agency: string | null
    readonly unproved: string
  }[]
  readonly rows: readonly CloseRow[]
  readonly totals: {
    readonly stated: string
    readonly expected: string
    readonly booked: string
    readonly balance: string
    readonly unproved: string
  }
  readonly history: readonly { readonly at: string; readonly unproved: string; readonly share: number }[]
}
