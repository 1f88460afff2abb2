import { z } from 'zod'
import { date, lastDate } from '../bridge/primitives.ts'

/** A certificate, new where it has no code yet. */
export const CertificateRequest = z
  .object({
    code: z.string().max(60).nullable().default(null),
    number: z.string().trim().min(1).max(100),
    reason: z.string().trim().min(1).max(60),
    regions: z.array(z.string().min(1).max(60)).min(1),
    from: date,
    to: lastDate.nullable(),
  })
  .refine((c) => c.to === null || c.from <= c.to, { error: 'ends before it begins', path: ['to'] })
export type CertificateRequest = z.infer<typeof CertificateRequest>

export interface CertificatesView {
  readonly claims: string | null
  readonly certificates: readonly {
    readonly code: string
    readonly number: string
    readonly reason: string
    readonly regions: readonly string[]
    readonly from: string
    readonly to: string | null
    readonly files: readonly {
      readonly id: string
      readonly name: string
      readonly size: number
      readonly person: string
      readonly at: string
    }[]
  }[]
  /** Regions that it may be for, with the reasons that each accepts. */
  readonly regions: readonly {
    readonly id: string
    readonly name: string
    readonly reasons: readonly string[]
  }[]
}
