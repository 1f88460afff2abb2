import type { IsoDate } from '../baseline/dates.ts'
import type { MinorUnits } from '../money/currency.ts'
import type { Ratio } from '../money/decimal.ts'

export interface Address {
  readonly country: string
  readonly region: string | null
  readonly city: string | null
  /** With the optional +4: "40217" or "40217-0042". */
  readonly postalCode: string | null
}

export type LineKind = 'goods' | 'service' | 'shipping'

export interface DocumentLine {
  readonly id: string
  readonly kind: LineKind
  readonly itemTaxCode: string | null
  readonly quantity: Ratio
  /** The line's amount before tax. */
  readonly net: MinorUnits
}

/** What determination is asked about: a document as its source stated it, less the tax. */
export interface TaxDocument {
  readonly id: string
  readonly number: string
  readonly documentDate: IsoDate
  readonly supplyDate: IsoDate
  readonly currency: string
  readonly shipTo: Address
  readonly lines: readonly DocumentLine[]
}
