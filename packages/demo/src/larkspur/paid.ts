import type { SystemData } from '../shared/sale.ts'

/** A way in which what moved is not what was sold: planted, to be found one day. */
export interface MoneyException {
  readonly kind:
    | 'charge-missing'
    | 'charge-twice'
    | 'charge-amount'
    | 'charge-day'
    | 'charge-fee'
    | 'charge-elsewhere'
    | 'charge-without-sale'
    | 'refund-without-return'
    | 'chargeback'
    | 'market-on-card'
    | 'payout-short'
    | 'payout-missing'
    | 'deposit-short'
    | 'deposit-missing'
  readonly system: 'payments' | 'payments-web' | 'bank' | 'commerce'
  /** The sale's, the settlement's, or the bank line's; of a deposit, its outlet and week. */
  readonly number: string
}

interface Tender {
  readonly paymentMethodId: string
  readonly amount: string
}

interface Paid {
  readonly number: string
  readonly kind: string
  readonly documentDate: string
  readonly soldAt: string
  readonly locationId: string | null
  readonly marketplace: string | null
  readonly total: string
  readonly lines: readonly { readonly id: string }[]
  readonly tenders: readonly Tender[]
}

export type Sold = Objects[number] & { readonly value: Paid }
export type Objects = SystemData['objects'][number][]
export const units = (text: string): bigint => BigInt(text.replace('.', ''))
export const dayOf = (at: string): number => Number(at.slice(8, 10))
export const september = (day: number): string => `2026-09-${String(day).padStart(2, '0')}`
export const WEEKS = [1, 2, 3, 4]
export const weekOf = (day: number): number | null => (day <= 28 ? Math.ceil(day / 7) : null)
