import type { MinorUnits } from '../money/currency.ts'
import type { Percent, Ratio } from '../money/decimal.ts'
import type { TieMode } from '../money/rounding.ts'
import type { DateRange } from './dates.ts'
import type { PostingRule } from './postingRule.ts'
import type { Collecting, Registration, RegistrationThreshold } from './registering.ts'

export interface Address {
  readonly country: string
  readonly region: string | null
  readonly city: string | null
  /** With the optional +4: "40217" or "40217-0042". */
  readonly postalCode: string | null
}

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
  /** Jurisdictions whose tax on the same line is taxed too (tax on tax); side by side where there are none. */
  readonly onTopOf: readonly string[]
  readonly valid: DateRange
}

/** A named set of components, each levied by a jurisdiction. Its percent on a date is the sum of theirs. */
export interface CombinedRate {
  readonly id: string
  readonly code: string
  readonly name: string
  readonly jurisdictionIds: readonly string[]
  /** The item tax code whose rules give its percents; null for the standard percents. */
  readonly itemTaxCode: string | null
  readonly valid: DateRange
}

export interface ItemTaxCode {
  readonly id: string
  readonly name: string
}

export interface Item {
  readonly id: string
  readonly name: string
  /** The one that holds last. */
  readonly itemTaxCode: string
  /** What it stood under when, where that has changed; otherwise it always stood under the same. */
  readonly codes?: readonly { readonly itemTaxCode: string; readonly valid: DateRange }[]
}

export const CODE_TREATMENTS = [
  'standard',
  'reduced',
  'per-unit',
  'exempt',
  'zero-rated',
  'out-of-scope',
  'follows-goods',
] as const
export type CodeTreatment = (typeof CODE_TREATMENTS)[number]

/** Below the limit exempt; from there the whole price, or only the excess. Per article: the limit counts times the quantity. */
export interface Threshold {
  readonly limit: MinorUnits
  readonly taxes: 'whole' | 'excess'
}

/**
 * How a jurisdiction, and those within it that have no rule of their own, treats an item tax code.
 * A reduced percent and a tax per unit are the jurisdiction's own: those within it do not inherit them.
 */
export interface CodeRule {
  readonly id: string
  readonly jurisdictionId: string
  readonly itemTaxCode: string
  readonly treatment: CodeTreatment
  /** Of a reduced or special treatment; null otherwise. */
  readonly percent: Percent | null
  /** Minor units of tax for one unit of quantity, exactly; null unless taxed per unit. */
  readonly perUnit: Ratio | null
  readonly threshold: Threshold | null
  /** Only the first so much of an article is taxed. */
  readonly cap: MinorUnits | null
  /** The currency of limits and of a tax per unit; null where there are none. */
  readonly currency: string | null
  /** How much of the tax on a purchase can be had back; null where nothing can. */
  readonly recoverable: Percent | null
  readonly valid: DateRange
}

/** How a region decides what rates and discounts count (K3), over a span of dates. */
export interface RegionRule {
  readonly id: string
  readonly jurisdictionId: string
  /** Levels that go by the origin for sales within the region; all others by the destination. */
  readonly originLevels: readonly Level[]
  /** Which of a document's dates decides rate, rule, certificate and registration. */
  readonly taxedBy: 'supply-date' | 'document-date' | 'payment-date'
  /** Tax stands on the price before a document's discount; the discount lowers revenue alone. */
  readonly taxedBeforeDiscount: boolean
  /** Reasons of exemption that the region accepts. */
  readonly exemptionReasons: readonly string[]
  readonly valid: DateRange
}

/** Somebody the entity sells to, by the id that sources know them under. */
export interface Party {
  readonly id: string
  readonly name: string
  /** The reason for which they claim to be exempt; null where they claim nothing. */
  readonly claims: string | null
  /** Stands for many buyers: never exempt. */
  readonly catchAll: boolean
  readonly address: Address | null
}

export interface Certificate {
  readonly id: string
  readonly number: string
  readonly partyId: string
  readonly reason: string
  readonly regionIds: readonly string[]
  readonly valid: DateRange
}

export const METHOD_KINDS = [
  'cash',
  'card',
  'transfer',
  'direct-debit',
  'gift-card',
  'store-credit',
  'loyalty',
  'other',
] as const
export type MethodKind = (typeof METHOD_KINDS)[number]

/** How somebody pays. */
export interface PaymentMethod {
  readonly id: string
  readonly name: string
  readonly kind: MethodKind
}

/** An outlet or a warehouse of the entity's own. */
export interface Location {
  readonly id: string
  readonly name: string
  readonly timeZone: string
  /** Before this time of day it is still the trading day before; null where the day ends at midnight. */
  readonly cutOff: string | null
  readonly address: Address
}

/** A value of a tracking dimension: a department, a project. */
export interface DimensionValue {
  readonly id: string
  readonly dimension: string
  readonly code: string
  readonly name: string
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

/** What a source may say of a line by a flag of its own. */
export const STATED_FLAGS = ['taxable', 'not-taxable'] as const
export type StatedFlag = (typeof STATED_FLAGS)[number]

/** What a document may be instead of an ordinary sale (C6): each is a treatment that somebody has to agree upon. */
export const SALE_KINDS = ['own-use', 'warranty', 'internal'] as const
export type SaleKind = (typeof SALE_KINDS)[number]

/**
 * Decides lines that meet all of its conditions (C4): which item tax code they stand on, which account and dimension they go to.
 * A condition that is null is none; so is an outcome. At least one of each is there.
 */
export interface LineRule {
  readonly id: string
  readonly name: string
  readonly when: {
    /** The baseline's item. */
    readonly item: string | null
    /** What the line's text contains. */
    readonly text: string | null
    /** ISO 3166-2, or a whole country by ISO 3166-1. */
    readonly region: string | null
    readonly party: string | null
    /** A payment method that the document was paid by. */
    readonly method: string | null
    readonly channel: string | null
    /** The system whose document it stands on. */
    readonly system: string | null
    /** What its source's own flag says of the line. */
    readonly stated: StatedFlag | null
    readonly saleKind: SaleKind | null
  }
  readonly then: {
    /** What a line counts as that is no item of the catalogue: all that goes by item goes by this one. */
    readonly item: string | null
    readonly itemTaxCode: string | null
    readonly account: string | null
    readonly dimension: string | null
  }
  readonly valid: DateRange
}

/** What a posting does with items that only its documents name: it leaves them open, or takes them into the baseline (C5). */
export const NEW_ITEMS = ['left-open', 'taken-in'] as const
export type NewItems = (typeof NEW_ITEMS)[number]

/** What the accountant has agreed to be true, as recorded at one time. */
export interface Baseline {
  /** Where the entity is at home; null where nobody said. */
  readonly homeAddress: Address | null
  readonly agencies: readonly Agency[]
  readonly jurisdictions: readonly Jurisdiction[]
  readonly rateVersions: readonly RateVersion[]
  readonly combinedRates: readonly CombinedRate[]
  readonly itemTaxCodes: readonly ItemTaxCode[]
  readonly items: readonly Item[]
  readonly codeRules: readonly CodeRule[]
  readonly registrations: readonly Registration[]
  readonly roundings: readonly RegionRounding[]
  readonly regionRules: readonly RegionRule[]
  readonly parties: readonly Party[]
  readonly certificates: readonly Certificate[]
  readonly postingRules: readonly PostingRule[]
  readonly thresholds: readonly RegistrationThreshold[]
  readonly collecting: readonly Collecting[]
  readonly paymentMethods: readonly PaymentMethod[]
  readonly locations: readonly Location[]
  readonly dimensions: readonly DimensionValue[]
  /** What new items and new parties start with; null where nobody agreed on it. Whatever is there keeps its own. */
  readonly defaults: {
    readonly itemTaxCode: string | null
    readonly partiesTaxable: boolean | null
    readonly newItems: NewItems
  }
  /** In their order: the first that decides something counts. */
  readonly lineRules: readonly LineRule[]
}
