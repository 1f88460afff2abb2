import { COLLECTING_ANSWERS, type CollectingStanding } from '@axion/core'
import { z } from 'zod'
import { CollectingSpan, RegistrationSpan, ThresholdSpan } from './baseline.ts'

/** All spans of one agency's registration, or of one region's thresholds: what is not among them is ended. */
export const RegistrationsRequest = z.strictObject({ versions: z.array(RegistrationSpan).max(60) })
export const ThresholdsRequest = z.strictObject({ versions: z.array(ThresholdSpan).max(60) })
export const CollectingRequest = z.strictObject({ versions: z.array(CollectingSpan).max(60) })
export type CollectingDraft = z.infer<typeof CollectingRequest>['versions'][number]
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

/** How what is said of a place stands to what is seen there; see `collectingStanding` of the core. */
export const COLLECTING_STANDINGS = [
  'agrees',
  'unsaid',
  'quiet',
  'not-registered',
  'charged',
  'registered',
  'own-sales',
] as const satisfies readonly CollectingStanding[]

/** Each country and region: what is sold there in a month, who is said to collect on its last day, and whether that agrees. Amounts in the base currency. */
export const CollectingView = z.object({
  currency: z.string(),
  /** The most that a place was charged without a word of the agency, or for one that is not linked: it counts in each place that its document was sold in. */
  unsplit: z.string(),
  /** Sales that lie in no country or region of the baseline. */
  nowhere: z.object({ documents: z.int(), net: z.string() }),
  rows: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        /** Documents sold there by the entity itself, and by marketplaces. */
        own: z.int(),
        marketplace: z.int(),
        /** What all of them come to, without tax. */
        net: z.string(),
        /** Tax that the entity's own documents charged there. */
        charged: z.string(),
        registered: z.boolean(),
        answer: z.enum(COLLECTING_ANSWERS).nullable(),
        /** The country of which it is said, where it is not said of the region itself. */
        by: z.string().nullable(),
        standing: z.enum(COLLECTING_STANDINGS),
        versions: z.array(CollectingSpan).readonly(),
      }),
    )
    .readonly(),
})
export type CollectingView = z.infer<typeof CollectingView>
