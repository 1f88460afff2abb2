import { groupBy } from '../baseline/lookup.ts'
import type { Determination } from '../determination/determination.ts'
import type { Exchange, TaxDocument } from '../determination/document.ts'
import { allocate } from '../money/allocation.ts'
import { absolute, sum, type MinorUnits } from '../money/currency.ts'
import { multiply, ratio } from '../money/decimal.ts'
import { round } from '../money/rounding.ts'
import { bookingParts } from './parts.ts'

/**
 * A journal's credits in another currency (K7): its total is converted once and rounded, then allocated to each side's lines
 * by K2, so that both sides agree and no rounding line is needed. A negative credit is a debit.
 * @param credits all lines but the receivable, which balances them
 */
export function creditsInBase(credits: readonly MinorUnits[], { rate }: Exchange): MinorUnits[] {
  const receivable = -sum(credits)
  const all = [...credits, receivable]
  const side = (sign: 1n | -1n): MinorUnits[] =>
    all.map((amount) => (amount * sign > 0n ? absolute(amount) : 0n))
  const [positive, negative] = [side(1n), side(-1n)]
  const total = sum(positive)
  if (total === 0n) return credits.map(() => 0n)
  const converted = round(multiply(ratio(total), rate))
  const [up, down] = [allocate(converted, positive), allocate(converted, negative)]
  return credits.map((_, at) => (up[at] ?? 0n) - (down[at] ?? 0n))
}

/** Each row's expected tax in the base currency; null where the document is in it, or no exchange rate is known. */
export function taxesInBase(document: TaxDocument, determination: Determination): MinorUnits[] | null {
  const { exchange } = document
  if (!exchange) return null
  const nets = bookingParts(document, determination).map((part) => part.net)
  const agencies = [
    ...groupBy(
      determination.rows.map((row, at) => ({ row, at })).filter(({ row }) => row.tax !== 0n),
      ({ row }) => row.agencyId,
    ).values(),
  ]
  const converted = creditsInBase(
    [...nets, ...agencies.map((of) => sum(of.map(({ row }) => row.tax)))],
    exchange,
  )
  const taxes = determination.rows.map(() => 0n)
  agencies.forEach((of, place) => {
    const whole = converted[nets.length + place] ?? 0n
    const oneSided = of.every(({ row }) => row.tax > 0n) || of.every(({ row }) => row.tax < 0n)
    const parts = oneSided
      ? allocate(
          whole,
          of.map(({ row }) => absolute(row.tax)),
        )
      : of.map((_, at) => (at === 0 ? whole : 0n))
    of.forEach(({ at }, index) => (taxes[at] = parts[index] ?? 0n))
  })
  return taxes
}
