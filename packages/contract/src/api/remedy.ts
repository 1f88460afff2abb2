import { z } from 'zod'

/**
 * What mends a cause: a change of a system's set-up to what the baseline says, with everything it explains booked again; a
 * correcting entry where booking again cannot help; a system's values taken into the baseline instead; booking again what was mended by hand; taking bookings back out; or accepting an edit that moved nothing.
 * What exactly is sent is worked out when it is previewed.
 */
export const Remedy = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('component-percent'), systemId: z.string(), objectId: z.string(), jurisdictionId: z.string() }),
  z.object({ kind: z.literal('liability-account'), systemId: z.string(), objectId: z.string() }),
  z.object({ kind: z.literal('item'), systemId: z.string(), objectId: z.string() }),
  z.object({ kind: z.literal('party'), systemId: z.string(), objectId: z.string() }),
  z.object({ kind: z.literal('name'), align: z.enum(['agencies', 'rates', 'items']), systemId: z.string(), objectId: z.string() }),
  z.object({ kind: z.literal('adopt'), align: z.enum(['agencies', 'rates', 'items', 'parties']), systemId: z.string(), objectId: z.string() }),
  z.object({ kind: z.literal('book-again'), cause: z.string().max(400) }),
  z.object({ kind: z.literal('correct'), cause: z.string().max(400) }),
  z.object({ kind: z.literal('take-back'), cause: z.string().max(400) }),
  z.object({ kind: z.literal('accept'), cause: z.string().max(400) }),
])
export type Remedy = z.infer<typeof Remedy>
/** A remedy that changes a system's set-up. */
export type SetUpRemedy = Exclude<Extract<Remedy, { readonly objectId: string }>, { readonly kind: 'adopt' }>
/** The other way about: the system's values are taken into the baseline, and nothing is sent. */
export type AdoptRemedy = Extract<Remedy, { readonly kind: 'adopt' }>

export interface RemedyPreview {
  readonly remedy: Remedy
  readonly system: string
  readonly object: string
  /** What the preview rests on; sent along, so that nothing else is done than what was seen. */
  readonly revision: string
  readonly changes: readonly { readonly field: string; readonly from: string; readonly to: string }[]
  /** Of correcting entries: what they come to together, by account. */
  readonly journal: readonly { readonly account: string; readonly debit: string | null; readonly credit: string | null }[]
  readonly documents: number
  readonly unproved: string
  readonly currency: string
}
