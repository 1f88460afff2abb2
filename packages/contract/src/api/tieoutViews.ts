import type { NotFresh } from './connectViews.ts'
import type { CauseFacts } from './evidence.ts'
import type { ListChoices } from './lists.ts'
import type { NotPosted } from './postViews.ts'
import type { Remedy } from './remedy.ts'

/** Tie out and the close sheet. Amounts are decimal strings in `currency`; null is "nothing stated" or "not pulled yet", never nil. */

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
