import type { Address, SaleKind, StatedFlag } from '../baseline/baseline.ts'
import type { IsoDate } from '../baseline/dates.ts'
import type { LineDecision } from '../baseline/lineRules.ts'
import type { MinorUnits } from '../money/currency.ts'
import type { Ratio } from '../money/decimal.ts'

export type LineKind = 'goods' | 'service' | 'shipping'

export interface DocumentLine {
  readonly id: string
  readonly kind: LineKind
  readonly itemTaxCode: string | null
  readonly quantity: Ratio
  /** As priced, less the seller's line discount: before tax, or with tax inside where the document's prices include it. */
  readonly amount: MinorUnits
  /** Its share of the document discount where that is settled already; otherwise it is spread (K3, step 2). */
  readonly discountShare?: MinorUnits
  /** On a credit note: the line of the original that it credits; null where the original has none such. */
  readonly credits?: string | null
  /** The baseline's item; absent where it is no item of the catalogue. */
  readonly itemId?: string | null
  /** As the source words it: what rules may look at. */
  readonly text?: string
  /** The source's own rate that the line names, and the combined rate that it is linked to; absent where it names none. */
  readonly names?: { readonly systemRateId: string; readonly combinedRateId: string }
  /** What its source's own flag says of it; absent where it says nothing. */
  readonly stated?: StatedFlag | null
  /** Who put another rate, or none, in the place of what its system would have charged; absent where nobody did. */
  readonly overridden?: LineOverride
  /** What rules decided of it; absent where none did. */
  readonly decision?: LineDecision
}

/** What a source says of a line whose tax somebody overrode. */
export interface LineOverride {
  readonly by: string | null
  readonly why: string | null
  /** It carries no rate by now. */
  readonly untaxed: boolean
}

/** Minor units of another currency for one minor unit of the document's, exactly. */
export interface Exchange {
  readonly currency: string
  readonly rate: Ratio
}

/** What a credit note credits: the original, and how much of each of its lines earlier credits took (positive amounts). */
export interface CreditedOriginal {
  readonly document: TaxDocument
  readonly before: ReadonlyMap<string, MinorUnits>
}

/**
 * What determination is asked about: a document as its source stated it, less the tax.
 * On a credit note all amounts are negative.
 */
export interface TaxDocument {
  readonly id: string
  readonly number: string
  readonly kind: 'invoice' | 'credit-note'
  readonly documentDate: IsoDate
  readonly supplyDate: IsoDate
  readonly paymentDate: IsoDate | null
  readonly currency: string
  /** Into the entity's base currency; null in that currency itself, and where no rate is known. */
  readonly exchange: Exchange | null
  readonly partyId: string | null
  readonly shipTo: Address
  readonly shipFrom: Address | null
  /** The outlet's own address, of a counter sale: its jurisdictions tax it, wherever the buyer lives. */
  readonly outlet?: Address | null
  /** Who collects and remits the tax in the entity's place (K3, step 5). */
  readonly marketplace?: string | null
  readonly channel?: string | null
  /** The system that it was sent by. */
  readonly system?: string | null
  /** What it is where it is no ordinary sale. */
  readonly saleKind?: SaleKind | null
  /** The baseline's payment methods that it was paid by. */
  readonly methods?: readonly string[]
  /** A purchase: the supplier's tax, which no registration and no certificate of the entity's own decides. */
  readonly purchase?: boolean
  /** Who entered it, where the source says so. */
  readonly enteredBy?: string | null
  readonly pricesIncludeTax: boolean
  /** A seller's discount on the whole document, of the same sign as its lines. */
  readonly discount: MinorUnits
  /** What a third party pays of the price: revenue and base stay whole, and that party owes it. */
  readonly reimbursed: MinorUnits
  readonly lines: readonly DocumentLine[]
  /** Null on an invoice, and on a credit note whose original nobody knows. */
  readonly original: CreditedOriginal | null
}
