import type { Rate } from '../shared/rates.ts'

/** A rate may round line by line, as somebody once set it; otherwise by document. */
export type LedgerRate = Rate & { readonly rounds?: 'line' }

export interface LedgerAgency {
  readonly code: string | null
  readonly name: string
  readonly liabilityAccountId: string | null
}

export interface LedgerAccount {
  readonly number: string
  readonly name: string
  readonly type: string
}

interface RequestLine {
  readonly id: string
  readonly kind: string
  readonly description: string
  readonly accountId: string
  readonly quantity: string
  readonly net: string
  readonly taxable: string
  readonly gross: string | null
  readonly taxRate: { readonly id?: string; readonly name?: string } | null
  /** Values of tracking dimensions; a sender of before may leave them out. */
  readonly dimensionIds?: readonly string[]
}

export interface BookingRequest {
  readonly externalId: string
  readonly number: string
  readonly kind: string
  readonly postingDate: string
  readonly currency: string
  readonly exchangeRate: string | null
  readonly party: { readonly id: string; readonly name: string }
  readonly receivableAccountId: string
  readonly reimbursed: { readonly accountId: string; readonly amount: string } | null
  readonly memo: string
  readonly pricesIncludeTax: boolean
  readonly lines: readonly RequestLine[]
  readonly taxes:
    | readonly {
        readonly agencyId: string
        readonly accountId: string
        readonly base: string
        readonly tax: string
      }[]
    | null
  readonly journal:
    | readonly {
        readonly accountId: string
        readonly description: string
        readonly agencyId: string | null
        readonly debit: string
        readonly credit: string
        readonly base: string | null
      }[]
    | null
}

export interface EntryLine {
  readonly accountId: string
  readonly description: string
  readonly debit: string
  readonly credit: string
  readonly agencyId: string | null
  readonly taxRateId: string | null
  readonly base: string | null
  readonly baseDebit: string | null
  readonly baseCredit: string | null
  readonly dimensionIds: readonly string[]
}

export interface LedgerSettings {
  readonly company: { readonly id: string; readonly name: string }
  readonly baseCurrency: string
  readonly currencies: readonly string[]
  readonly timeZone: string
  readonly keepsDocumentNumbers: boolean
  readonly lockedThrough: string | null
  readonly taxComputation: 'by-rate' | 'as-given'
  readonly keepsKeysSeconds: number
  readonly longestLateCommitSeconds: number | null
  readonly voids: boolean
  /** A convention of this ledger: amounts in another currency are taken over unit for unit. Somebody may have left it so. */
  readonly exchange: 'as-stated' | 'at-one'
  /** Likewise: a credit note is taken over as one more sale. */
  readonly credits: 'as-credits' | 'as-sales'
  /** Likewise: prices that have tax inside get it on top. */
  readonly inside: 'taken-out' | 'put-on-top'
  /** Likewise: how many lines of a document its form takes; null for all of them. */
  readonly mostLines: number | null
}

/** A line before it gets its side: credits count up. */
export interface Line {
  readonly accountId: string
  readonly description: string
  readonly agencyId: string | null
  readonly taxRateId: string | null
  readonly base: bigint | null
  readonly credit: bigint
  readonly dimensionIds?: readonly string[]
}
