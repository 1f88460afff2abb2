/** What the generator knows of a document: how it is rightly taxed, and how its billing system charges it. */

export interface Item {
  readonly code: string
  readonly name: string
  readonly kind: 'goods' | 'service' | 'shipping'
  readonly taxCode: string
  /** Minor units of the base currency. */
  readonly price: number
  readonly most: number
  /** Typed on the document by hand: no item of the catalogue. */
  readonly typed?: true
}

export interface Place {
  readonly country: string
  readonly city: string
  readonly region: string
  readonly postalCode: string
  /** The combined rate that applies there; null where the entity is not registered. */
  readonly rate: string | null
  /** Invoices a month. */
  readonly invoices: number
}

export interface Customer {
  readonly id: string
  readonly name: string
}

/** The rate of a line, and what of it is taxed where that is not all. */
export interface Charge {
  readonly rate: string | null
  readonly taxable?: bigint
}

export interface SoldLine {
  readonly item: Item
  readonly quantity: number
  readonly unitPrice: bigint
  readonly discount: bigint
  readonly amount: bigint
  readonly right: Charge
  /** As billing charges it, where that is not right. */
  readonly charged?: Charge
  /** On a credit note: the line of the original, from 1. */
  readonly credits?: number
}

export interface Sale {
  readonly date: string
  readonly supply: string
  readonly kind: 'invoice' | 'credit-note'
  readonly status: 'open' | 'draft' | 'void'
  readonly place: Place
  readonly customer: Customer
  readonly currency: string
  readonly exchangeRate: string | null
  readonly inside: boolean
  readonly lines: readonly SoldLine[]
  readonly discount: bigint
  readonly reimbursed: bigint
  /** A credit note's original. */
  readonly credits: Sale | null
  /** The agency that billing puts all of its tax down to, where that is not right. */
  readonly taxTo: string | null
  /** What was planted here, in one word; null where nothing was. */
  readonly mishap: string | null
}

export interface Component {
  readonly jurisdiction: string
  readonly agency: string
  readonly name: string
  readonly percent: string
  readonly perUnit?: string
  readonly onTopOf?: readonly number[]
  readonly from?: string
  readonly to?: string
}

export interface Rate {
  readonly code: string
  readonly name: string
  readonly components: readonly Component[]
  readonly itemTaxCode?: string
}

export interface SystemData {
  readonly settings: object
  readonly objects: { readonly resource: string; readonly id: string; readonly value: unknown }[]
}
