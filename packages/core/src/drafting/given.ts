import type { Address, Baseline, Location, PaymentMethod, RoundingPlace } from '../baseline/baseline.ts'
import type { DateRange, IsoDate } from '../baseline/dates.ts'
import type { TaxDocument } from '../determination/document.ts'
import type { MinorUnits } from '../money/currency.ts'
import type { Percent, Ratio } from '../money/decimal.ts'
import type { DraftedLink } from './decision.ts'

/** A component of a rate as a system holds it. */
export interface ComponentHeld {
  /** The system's own id of the agency. */
  readonly agencyId: string
  readonly name: string
  readonly percent: Percent
  /** Minor units of the books' currency for one unit of quantity; null where it is a percent. */
  readonly perUnit: Ratio | null
  /** Places of earlier components whose tax is taxed too. */
  readonly onTopOf: readonly number[]
  readonly from: IsoDate | null
  readonly to: IsoDate | null
}

export interface HeldRate {
  readonly id: string
  readonly code: string | null
  readonly name: string
  readonly percent: Percent
  /** Null where the rate states none: nobody can say from it who is owed what. */
  readonly components: readonly ComponentHeld[] | null
  readonly active: boolean
}

export interface HeldItem {
  readonly id: string
  readonly code: string
  readonly name: string
  readonly kind: string
  /** Null where it stands under none there. */
  readonly itemTaxCode: string | null
}

export interface HeldParty {
  readonly id: string
  readonly name: string
  /** The reason for which the system holds it to be exempt; null where it does not. */
  readonly claims: string | null
  readonly address: Address | null
}

/** What one system holds, as far as a baseline can be drafted from it. */
export interface Holder {
  readonly id: string
  readonly agencies: readonly {
    readonly id: string
    readonly code: string | null
    readonly name: string
    /** The account that it owes the agency in, by number; null where it names none. */
    readonly account: string | null
  }[]
  readonly rates: readonly HeldRate[]
  readonly codes: readonly { readonly id: string; readonly code: string; readonly name: string }[]
  readonly items: readonly HeldItem[]
  readonly parties: readonly HeldParty[]
  readonly accounts: readonly { readonly number: string; readonly name: string; readonly type: string }[]
  readonly methods: readonly (PaymentMethod & { readonly code: string | null })[]
  readonly locations: readonly (Location & { readonly code: string | null })[]
  readonly defaultItemTaxCode: string | null
  /** Where it says that it rounds tax; null where it does not say. */
  readonly rounding: RoundingPlace | null
  readonly isLedger: boolean
}

/** A document with what its system charged; its lines name items and rates by the system's own ids. */
export interface Sale {
  readonly id: string
  readonly holderId: string
  readonly document: TaxDocument
  /** By line. */
  readonly named: ReadonlyMap<string, { readonly itemCode: string | null; readonly rateId: string | null }>
  readonly taxes: readonly {
    readonly rateId: string
    readonly base: MinorUnits
    readonly tax: MinorUnits
    readonly components: readonly { readonly agencyId: string; readonly tax: MinorUnits }[] | null
  }[]
}

/** What a baseline is drafted from. */
export interface Given {
  /** The ledger first. */
  readonly holders: readonly Holder[]
  readonly sales: readonly Sale[]
  /** The days that the sales are of; what holds on them is what can be seen. */
  readonly seen: DateRange & { readonly to: IsoDate }
  readonly currency: string
  /** What a system's object is agreed to stand for already. */
  readonly linked: (kind: DraftedLink['kind'], holderId: string, objectId: string) => string | null
  /** The baseline as it stands: what is in it is not drafted again. */
  readonly known: Baseline
}
