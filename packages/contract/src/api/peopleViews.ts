/** Who may do what, and who did. Amounts are decimal strings in `currency`; null is "nothing stated" or "not pulled yet", never nil. */

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
