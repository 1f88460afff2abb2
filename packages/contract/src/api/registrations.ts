import { z } from 'zod'
import { RegistrationSpan, ThresholdSpan } from './baseline.ts'

/** All spans of one agency's registration, or of one region's thresholds: what is not among them is ended. */
export const RegistrationsRequest = z.strictObject({ versions: z.array(RegistrationSpan).max(60) })
export const ThresholdsRequest = z.strictObject({ versions: z.array(ThresholdSpan).max(60) })
export type RegistrationDraft = z.infer<typeof RegistrationsRequest>['versions'][number]
export type ThresholdDraft = z.infer<typeof ThresholdsRequest>['versions'][number]

/** Where the entity is registered since when, beside the tax that the month's sources charged for each agency; and from how much on a region wants registration (K16's data). */
export interface RegistrationsView {
  /** Whether anything that charges tax was pulled for the month: before, nobody can say. */
  readonly known: boolean

  readonly currency: string
  readonly agencies: readonly {
    readonly id: string
    readonly name: string
    /** Of what it collects for. */
    readonly regions: readonly string[]
    readonly versions: readonly RegistrationDraft[]
    /** Whether one holds on the last day of the month. */
    readonly holds: boolean
    /** Tax that sources charged for it in the month, in the base currency. */
    readonly charged: string
  }[]
  readonly regions: readonly {
    readonly id: string
    readonly name: string
    readonly agency: string | null
    readonly versions: readonly ThresholdDraft[]
  }[]
}
