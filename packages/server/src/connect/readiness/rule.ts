import type { About, Settings, SystemRole } from '@axion/contract'
import { type Address, type BaselineIndex } from '@axion/core'
import type { SystemRow } from '../../setUp/held.ts'

/** `open`: not to be told before the next pull. Only a failing check that `blocks` holds posting up. */
export type CheckState = 'passes' | 'fails' | 'open'

export interface Check {
  readonly code: string
  readonly group: 'Tax' | 'Money' | 'Identity' | 'Structure' | 'Places' | 'History'
  readonly question: string
  readonly why: string
  readonly mend: string
  readonly blocks: boolean
}

export interface CheckResult {
  readonly code: string
  readonly state: CheckState
  /** The fact that was read, in words. */
  readonly fact: string
}

/** What the checks look at: facts read through the bridges, and what the entity has agreed. */
export interface ReadinessFacts {
  readonly system: SystemRow
  readonly about: About
  readonly settings: Settings
  readonly others: readonly {
    readonly name: string
    readonly role: string
    readonly settings: Settings | null
    /** Whether a tax service is said to compute for it. */
    readonly served: boolean
  }[]
  /** The tax services that are said to compute for this system. */
  readonly servedBy: readonly string[]
  readonly entity: { readonly currency: string; readonly name: string }
  readonly baseline: BaselineIndex
  readonly rates: number
  readonly accountNumbers: ReadonlySet<string>
  readonly entriesOfOthers: number
  /** Whether it was ever pulled to the end. */
  readonly pulled: boolean
  /** The values of tracking dimensions that it has in use, as the baseline names them. */
  readonly dimensions: ReadonlySet<string>
  /** Its own addresses, and those its documents ship from, by what they are called. */
  readonly places: readonly { readonly name: string; readonly address: Address }[]
  readonly month: string
}

export interface Rule extends Check {
  readonly roles: readonly SystemRole[]
  readonly test: (facts: ReadinessFacts) => readonly [CheckState, string]
}

/** A check that holds, or fails, by a fact in words. */
export const pass = ({
  holds,
  fact,
}: {
  readonly holds: boolean
  readonly fact: string
}): readonly [CheckState, string] => [holds ? 'passes' : 'fails', fact]
