import type { BaselineIndex } from '../../baseline/lookup.ts'
import type { IsoDate } from '../../baseline/dates.ts'
import type { Assumed, Determination } from '../../determination/determination.ts'
import type { TaxDocument } from '../../determination/document.ts'
import type { VoiceFacts } from '../../tieout/facts.ts'

/** A unit as the baseline sees it, to be recomputed from. */
export interface Recomputable {
  readonly document: TaxDocument
  readonly determination: Determination
  readonly expected: VoiceFacts
  readonly index: BaselineIndex
}

/** What an assumption changes: the document, what is assumed of the baseline, or the voice that comes of both. */
export interface Changed {
  readonly document: TaxDocument
  readonly assumed: Assumed
  readonly voice: readonly ((voice: VoiceFacts, of: Recomputable) => VoiceFacts)[]
}

/** By what people know the objects of an assumption; an id where nobody has a name for it. */
export interface Names {
  readonly index: BaselineIndex
  /** The last day of the month that is looked at. */
  readonly day: IsoDate
  readonly jurisdiction: (id: string) => string
  readonly agency: (id: string) => string
  /** A rate as a system names it; with null, as the document's own source does. */
  readonly rate: (systemId: string | null, rateId: string) => string
  readonly account: (systemId: string, number: string) => string
}

/**
 * One kind of mistake (K10): what of it could have been made with a document, what it changes there, and what is said of it.
 * A is the assumption, F the facts that its sentence has beside the system whose voice is explained.
 */
export interface Cause<A extends { readonly kind: string }, F> {
  readonly kind: A['kind']
  /**
   * Its place among equals that explain as much, least first: what a snapshot shows, before what a document's own circumstances
   * suggest, before mistakes that could have been made anywhere.
   */
  readonly rank: (assumption: A) => number
  /** What makes it the same cause on another document. */
  readonly key: (assumption: A) => readonly unknown[]
  /** The mistakes of this kind that could have been made; none where a system's snapshot alone gives rise to them. */
  readonly candidates: (of: Recomputable) => readonly A[]
  /** @returns null where it does not concern the document, or would undo what is assumed already */
  readonly apply: (assumption: A, on: Changed, of: Recomputable) => Changed | null
  readonly facts: (assumption: A, names: Names) => F
  /** One sentence; `date` writes a date the way the reader is used to. */
  readonly says: (facts: F & { readonly system: string }, date: (iso: string) => string) => string
}

/** With something more assumed of the baseline; null where it is assumed otherwise already. */
export function assuming(on: Changed, more: Assumed): Changed | null {
  return Object.keys(more).some((key) => key in on.assumed)
    ? null
    : { ...on, assumed: { ...on.assumed, ...more } }
}

/** With the voice changed that comes of it. */
export function voicing(on: Changed, change: Changed['voice'][number]): Changed {
  return { ...on, voice: [...on.voice, change] }
}
