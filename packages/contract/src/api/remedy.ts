import { z } from 'zod'

/**
 * A change of a system's set-up to what the baseline says. What exactly is sent is worked out when it is previewed,
 * from the baseline and the system's own revision.
 */
export const Remedy = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('component-percent'), systemId: z.string(), objectId: z.string(), jurisdictionId: z.string() }),
  z.object({ kind: z.literal('liability-account'), systemId: z.string(), objectId: z.string() }),
])
export type Remedy = z.infer<typeof Remedy>

export interface RemedyPreview {
  readonly remedy: Remedy
  readonly system: string
  readonly object: string
  /** The revision that the change is based on. */
  readonly revision: string
  readonly changes: readonly { readonly field: string; readonly from: string; readonly to: string }[]
  readonly booksAgain: number
  readonly unproved: string
  readonly currency: string
}
