import type { ListChoices, POST_STATES } from './lists.ts'

/** Post. Amounts are decimal strings in `currency`; null is "nothing stated" or "not pulled yet", never nil. */

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
