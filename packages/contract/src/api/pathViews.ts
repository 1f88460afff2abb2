import type { FindingKind } from './align.ts'
import type { Limits, PulledView } from './connectViews.ts'

/** The path of a month, its runs, and months and entities side by side. Amounts are decimal strings in `currency`; null is "nothing stated" or "not pulled yet", never nil. */

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
  readonly post: {
    readonly waiting: number
    readonly failed: number
    readonly tax: string
    /** Documents of kinds that are not posted so far: no part of what is posted, nor of what is proved. */
    readonly notYet: number
  }
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
    /** Documents of kinds that are not posted so far. */
    readonly notYet: number
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
