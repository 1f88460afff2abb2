import { halfUp, money } from '../shared/exact.ts'
import type { SystemData } from '../shared/sale.ts'
import {
  dayOf,
  september,
  units,
  weekOf,
  WEEKS,
  type MoneyException,
  type Objects,
  type Sold,
} from './paid.ts'

export interface Moved {
  readonly number: string
  readonly kind: 'charge' | 'refund' | 'chargeback' | 'payout'
  readonly at: string
  readonly amount: bigint
  readonly fee: bigint
  readonly documentNumber: string | null
}

export interface Terms {
  readonly system: 'payments' | 'payments-web'
  readonly prefix: string
  readonly name: string
  readonly method: string
  readonly hundredths: bigint
  readonly each: bigint
}

export const BROOK: Terms = {
  system: 'payments',
  prefix: 'brk',
  name: 'Cards at the till',
  method: 'pm_card',
  hundredths: 260n,
  each: 10n,
}

export const TARN: Terms = {
  system: 'payments-web',
  prefix: 'trn',
  name: 'Cards on the web',
  method: 'pm_web_card',
  hundredths: 290n,
  each: 30n,
}

export const feeOf = ({ hundredths, each }: Terms, amount: bigint): bigint =>
  halfUp(amount * hundredths, 10000n) + each

/** Each card tender of a sale is one charge, of a refund one refund; in the order of their instants. */
export function movesOf(terms: Terms, sales: readonly Sold[]): Moved[] {
  return sales
    .flatMap(({ value }) =>
      value.tenders
        .filter((tender) => tender.paymentMethodId === terms.method)
        .map((tender): Moved => {
          const back = value.kind === 'refund' || value.kind === 'return'
          const amount = units(tender.amount)
          return {
            number: value.number,
            kind: back ? 'refund' : 'charge',
            at: value.soldAt,
            amount: back ? -amount : amount,
            fee: back ? 0n : feeOf(terms, amount),
            documentNumber: terms === TARN ? value.number : null,
          }
        }),
    )
    .sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : a.number < b.number ? -1 : 1))
}

export type Plant = (moved: Moved, at: number) => readonly Moved[] | null

/** Changes some moves and keeps count of what was planted. */
export function planted(
  terms: Terms,
  moves: readonly Moved[],
  by: readonly (readonly [at: number, kind: MoneyException['kind'], plant: Plant])[],
  key: MoneyException[],
): Moved[] {
  const charges = moves.filter((moved) => moved.kind === 'charge')
  return moves.flatMap((moved) => {
    const found = by.find(([at]) => charges[at] === moved)
    if (!found) return [moved]
    key.push({ kind: found[1], system: terms.system, number: moved.number })
    return found[2](moved, found[0]) ?? [moved]
  })
}

export function settlements(
  terms: Terms,
  moves: readonly Moved[],
): { data: SystemData; payouts: { number: string; amount: bigint; day: number }[] } {
  const inOrder = [...moves].sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : 0))
  const rows = inOrder.map((moved, at): Objects[number] => {
    const week = weekOf(dayOf(moved.at))
    return {
      resource: 'settlements',
      id: `${terms.prefix}_ch_${at + 1}`,
      value: {
        number: `${terms.prefix.toUpperCase()}-${1001 + at}`,
        kind: moved.kind,
        at: moved.at,
        paymentMethodId: `${terms.prefix}_card`,
        currency: 'USD',
        amount: money(moved.amount),
        fee: money(moved.fee),
        documentNumber: moved.documentNumber,
        payoutId: week === null ? null : `${terms.prefix}_po_${week}`,
      },
    }
  })
  const payouts = WEEKS.map((week) => ({
    number: `${terms.prefix.toUpperCase()}-P${week}`,
    day: week * 7,
    amount: inOrder
      .filter((moved) => weekOf(dayOf(moved.at)) === week)
      .reduce((sum, moved) => sum + moved.amount - moved.fee, 0n),
  }))
  return {
    payouts,
    data: {
      settings: {},
      objects: [
        ...rows,
        ...payouts.map(({ number, day, amount }, at): Objects[number] => ({
          resource: 'settlements',
          id: `${terms.prefix}_po_${at + 1}`,
          value: {
            number,
            kind: 'payout',
            at: `${september(day)}T23:59:00-05:00`,
            paymentMethodId: null,
            currency: 'USD',
            amount: money(-amount),
            fee: '0.00',
            documentNumber: null,
            payoutId: null,
          },
        })),
      ],
    },
  }
}
