import type { CodeTreatment, Jurisdiction, RoundingPlace } from '../baseline/baseline.ts'
import type { IsoDate } from '../baseline/dates.ts'
import type { Finding } from '../faults.ts'
import { groupBy } from '../baseline/lookup.ts'
import { absolute, sum, type MinorUnits } from '../money/currency.ts'
import type { Percent, Ratio } from '../money/decimal.ts'
import type { Sourced } from './sourcing.ts'

/** Why a row is taxed as it is, or is not; the first that holds in the order of K3's steps. */
export type Reason =
  | Exclude<CodeTreatment, 'follows-goods'>
  | 'below-threshold'
  | 'certificate'
  | 'marketplace'
  | 'not-registered'

const TAXED: readonly Reason[] = ['standard', 'reduced', 'per-unit']

export function isTaxed({ reason }: { readonly reason: Reason }): boolean {
  return TAXED.includes(reason)
}

/** What a row was computed from, so that a change knows exactly what it touches. */
export interface RowSource {
  readonly rateVersion: string | null
  readonly codeRule: string | null
  readonly certificate: string | null
  readonly registration: string | null
  readonly rounding: string | null
}

/** One line's tax in one jurisdiction. An untaxed row has percent 0 and base 0; its reason stands on the net. */
export interface TaxRow {
  readonly lineId: string
  readonly jurisdictionId: string
  readonly agencyId: string
  readonly percent: Percent
  readonly perUnit: Ratio | null
  readonly onTopOf: readonly string[]
  readonly net: MinorUnits
  readonly base: MinorUnits
  readonly tax: MinorUnits
  readonly reason: Reason
  readonly source: RowSource
}

/**
 * What stands under an agency's tax: each line once, at the largest base among its jurisdictions (K9); parts of one jurisdiction stand
 * beside each other.
 */
export function agencyBase(rows: readonly Pick<TaxRow, 'lineId' | 'jurisdictionId' | 'base'>[]): MinorUnits {
  const byLine = groupBy(rows, (row) => row.lineId).values()
  return sum([...byLine].map((of) => largestOf([...groupBy(of, (row) => row.jurisdictionId).values()])))
}

function largestOf(jurisdictions: readonly (readonly { readonly base: MinorUnits }[])[]): MinorUnits {
  return jurisdictions
    .map((of) => sum(of.map((row) => row.base)))
    .reduce((most, base) => (absolute(base) > absolute(most) ? base : most), 0n)
}

/** A line's revenue, and how much of it anybody taxes. */
export interface DeterminedLine {
  readonly lineId: string
  /** Before tax, less its share of the document discount. */
  readonly net: MinorUnits
  readonly discount: MinorUnits
}

export interface Determination {
  readonly rows: readonly TaxRow[]
  readonly lines: readonly DeterminedLine[]
  readonly findings: readonly Finding[]
  readonly jurisdictions: readonly Jurisdiction[]
  /** Null where the region has none: then nothing taxable is worked out, and a finding says so. */
  readonly rounding: RoundingPlace | null
  /** Lines about which nothing can be said yet; the rows are a claim about all the others. */
  readonly open: readonly string[]
  /** Whether no line is open. */
  readonly complete: boolean
}

/** The rate of some jurisdictions for an item tax code; the standard rate of what they reduce where the code is null. */
export interface RatedAs {
  readonly jurisdictions: readonly Jurisdiction[]
  readonly itemTaxCode: string | null
  /** Taxed at the standard rate of those places, whatever its own item tax code says. */
  readonly taxed?: boolean
}

/** What may be asked to differ from the baseline: diagnosis recomputes under one or two of these. */
export interface Assumed {
  /** Other percents: of a jurisdiction's standard rate, or of its rate for an item tax code. */
  readonly percentOf?: (jurisdictionId: string, reducedCode: string | null) => Percent | undefined
  readonly rounding?: RoundingPlace
  /** Moves only the rate. */
  readonly ratesOn?: IsoDate
  /** The jurisdictions of another place. */
  readonly jurisdictions?: readonly Jurisdiction[]
  /** Another place whole: with its certificates, discount and rounding as well. */
  readonly place?: Sourced
  /** What a line is taxed as where it goes by the rate that it names: other jurisdictions, another item tax code, or the standard rate. */
  readonly ratedAs?: ReadonlyMap<string, RatedAs>
  /** A component that is lost. */
  readonly without?: string
  /** Stands for every item's own code. */
  readonly itemTaxCode?: string
  readonly certificates?: 'ignored' | 'everyone'
  readonly shipping?: 'taxed' | 'untaxed'
  readonly taxedBeforeDiscount?: boolean
  readonly pricesIncludeTax?: boolean
}
