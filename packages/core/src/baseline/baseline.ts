import type { Percent } from '../money/decimal.ts'
import type { TieMode } from '../money/rounding.ts'
import type { DateRange } from './dates.ts'

/** Who is owed the tax. */
export interface Agency {
  readonly id: string
  readonly code: string
  readonly name: string
}

export const LEVELS = ['country', 'region', 'county', 'city', 'district'] as const
export type Level = (typeof LEVELS)[number]

/**
 * A set of addresses. The fields that are present must all match; the narrowest match wins.
 * `country` is ISO 3166-1, `region` ISO 3166-2.
 */
export interface Cover {
  readonly country: string
  readonly region?: string | undefined
  readonly city?: string | undefined
  readonly postalCode?: string | undefined
  /** Inclusive range of the four further digits, "0000" to "9999". */
  readonly plus4?: { readonly from: string; readonly to: string } | undefined
}

/** A place that may levy tax, and the agency that collects it there; null where it levies none. */
export interface Jurisdiction {
  readonly id: string
  readonly name: string
  readonly level: Level
  readonly parentId: string | null
  readonly agencyId: string | null
  readonly covers: readonly Cover[]
}

/** One jurisdiction's standard percent over a span of dates. */
export interface RateVersion {
  readonly id: string
  readonly jurisdictionId: string
  readonly percent: Percent
  readonly valid: DateRange
}

/** A named set of components, each levied by a jurisdiction. Its percent on a date is the sum of theirs. */
export interface CombinedRate {
  readonly id: string
  readonly code: string
  readonly name: string
  readonly jurisdictionIds: readonly string[]
  readonly valid: DateRange
}

export interface ItemTaxCode {
  readonly id: string
  readonly name: string
}

export interface Item {
  readonly id: string
  readonly name: string
  readonly itemTaxCode: string
}

export type CodeTreatment = 'standard' | 'exempt'

/** How a jurisdiction, and those within it that have no rule of their own, treats an item tax code. */
export interface CodeRule {
  readonly id: string
  readonly jurisdictionId: string
  readonly itemTaxCode: string
  readonly treatment: CodeTreatment
  readonly valid: DateRange
}

export interface Registration {
  readonly id: string
  readonly agencyId: string
  readonly number: string
  readonly valid: DateRange
}

/** Where tax is rounded (K1): `unit` is a single unit of quantity times the quantity. */
export interface RoundingPlace {
  readonly level: 'unit' | 'line' | 'document'
  readonly unit: 'component' | 'combined'
  readonly tie: TieMode
}

export interface RegionRounding {
  readonly id: string
  readonly jurisdictionId: string
  readonly place: RoundingPlace
  readonly valid: DateRange
}

export const POSTING_KINDS = ['receivable', 'revenue', 'shipping', 'tax'] as const
export type PostingKind = (typeof POSTING_KINDS)[number]

/** Sends a kind of amount to a ledger account, by its number; tax is by agency. */
export interface PostingRule {
  readonly id: string
  readonly kind: PostingKind
  readonly agencyId: string | null
  readonly account: string
  readonly valid: DateRange
}

/** What the accountant has agreed to be true, as recorded at one time. */
export interface Baseline {
  readonly agencies: readonly Agency[]
  readonly jurisdictions: readonly Jurisdiction[]
  readonly rateVersions: readonly RateVersion[]
  readonly combinedRates: readonly CombinedRate[]
  readonly itemTaxCodes: readonly ItemTaxCode[]
  readonly items: readonly Item[]
  readonly codeRules: readonly CodeRule[]
  readonly registrations: readonly Registration[]
  readonly roundings: readonly RegionRounding[]
  readonly postingRules: readonly PostingRule[]
}
