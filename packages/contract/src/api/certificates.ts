import { z } from 'zod'
import { date, lastDate } from '../bridge/primitives.ts'

/** What has days ends no day before it begins. */
export const ENDS: [
  (c: { readonly from: string; readonly to: string | null }) => boolean,
  { error: string; path: string[] },
] = [(c) => c.to === null || c.from <= c.to, { error: 'ends before it begins', path: ['to'] }]

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
  .refine(...ENDS)
export type CertificateRequest = z.infer<typeof CertificateRequest>

/** A file that is kept beside what it proves; its size in bytes. */
export const AttachedFile = z.object({
  id: z.string(),
  name: z.string(),
  size: z.number(),
  person: z.string(),
  at: z.string(),
})
export type AttachedFile = z.infer<typeof AttachedFile>

export const CertificatesView = z.object({
  claims: z.string().nullable(),
  certificates: z
    .array(
      z.object({
        code: z.string(),
        number: z.string(),
        reason: z.string(),
        regions: z.array(z.string()).readonly(),
        from: z.string(),
        to: z.string().nullable(),
        files: z.array(AttachedFile).readonly(),
      }),
    )
    .readonly(),
  /** Regions that it may be for, with the reasons that each accepts. */
  regions: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        reasons: z.array(z.string()).readonly(),
      }),
    )
    .readonly(),
})
export type CertificatesView = z.infer<typeof CertificatesView>
