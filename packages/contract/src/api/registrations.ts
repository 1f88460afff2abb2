import { z } from 'zod'
import { RegistrationSpan, ThresholdSpan } from './baseline.ts'

/** All spans of one agency's registration, or of one region's thresholds: what is not among them is ended. */
export const RegistrationsRequest = z.strictObject({ versions: z.array(RegistrationSpan).max(60) })
export const ThresholdsRequest = z.strictObject({ versions: z.array(ThresholdSpan).max(60) })
export type RegistrationDraft = z.infer<typeof RegistrationsRequest>['versions'][number]
export type ThresholdDraft = z.infer<typeof ThresholdsRequest>['versions'][number]

/** Where the entity is registered since when, beside the tax that the month's sources charged for each agency; and from how much on a region wants registration (K16's data). */
export const RegistrationsView = z.object({
  /** Whether anything that charges tax was pulled for the month: before, nobody can say. */
  known: z.boolean(),
  currency: z.string(),
  agencies: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        /** Of what it collects for. */
        regions: z.array(z.string()).readonly(),
        versions: z.array(RegistrationSpan).readonly(),
        /** Whether one holds on the last day of the month. */
        holds: z.boolean(),
        /** Tax that sources charged for it in the month, in the base currency. */
        charged: z.string(),
      }),
    )
    .readonly(),
  regions: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        agency: z.string().nullable(),
        versions: z.array(ThresholdSpan).readonly(),
      }),
    )
    .readonly(),
})
export type RegistrationsView = z.infer<typeof RegistrationsView>
