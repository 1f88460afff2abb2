import { groupBy, type BaselineIndex } from '../baseline/lookup.ts'
import type { Determination } from '../determination/determination.ts'
import type { Exchange, TaxDocument } from '../determination/document.ts'
import { allocate } from '../money/allocation.ts'
import { absolute, sum, type MinorUnits } from '../money/currency.ts'
import { multiply, ratio } from '../money/decimal.ts'
import { round } from '../money/rounding.ts'
import { discountsApart } from './discounts.ts'
import { bookingParts } from './parts.ts'

/** A journal's line for conversion: credits positive, debits negative. */
export interface Convertible {
  readonly credit: MinorUnits
  readonly isTax: boolean
}

/**
 * A balanced journal in another currency (K7). The total, the sum of its debits, is converted once and rounded; each tax line is
 * its own amount converted and rounded; what is left of the total on a side goes over that side's other lines by K2, or over its
 * tax lines where there are no others. So no rounding line is needed, and the tax in the books is the tax of the return.
 * @returns each line's amount, credits positive
 */
export function convertLines(lines: readonly Convertible[], exchange: Pick<Exchange, 'rate'>): MinorUnits[] {
  const inOther = (amount: MinorUnits): MinorUnits => amountInBase(amount, exchange)
  const total = inOther(sum(lines.map(({ credit }) => (credit < 0n ? -credit : 0n))))
  const converted = lines.map(({ credit, isTax }) => (isTax ? inOther(credit) : 0n))
  for (const sign of [1n, -1n]) {
    const side = lines.map(({ credit }, at) => ({ credit, at })).filter(({ credit }) => credit * sign > 0n)
    if (side.length === 0) continue
    const others = side.filter(({ at }) => !lines[at]?.isTax)
    const over = others.length > 0 ? others : side
    const left = total * sign - sum(side.map(({ at }) => converted[at] ?? 0n))
    const parts = allocate(
      left,
      over.map(({ credit }) => absolute(credit)),
    )
    over.forEach(({ at }, place) => (converted[at] = (converted[at] ?? 0n) + (parts[place] ?? 0n)))
  }
  return converted
}

/** One amount in the other currency, by itself. */
export function amountInBase(amount: MinorUnits, exchange: Pick<Exchange, 'rate'> | null): MinorUnits {
  return exchange ? round(multiply(ratio(amount), exchange.rate)) : amount
}

/** Each row's expected tax in the base currency; null where the document is in it, or no exchange rate is known. */
export function taxesInBase(
  document: TaxDocument,
  determination: Determination,
  index: BaselineIndex,
): MinorUnits[] | null {
  const { exchange } = document
  if (!exchange) return null
  const discounts = [...discountsApart(document, determination, index)]
  const nets = bookingParts(document, determination).map(({ lineId, net }) => ({
    credit: net + (discounts.find(([id]) => id === lineId)?.[1] ?? 0n),
    isTax: false,
  }))
  const agencies = [
    ...groupBy(
      determination.rows.map((row, at) => ({ row, at })).filter(({ row }) => row.tax !== 0n),
      ({ row }) => row.agencyId,
    ).values(),
  ]
  const taxes = agencies.map((of) => ({ credit: sum(of.map(({ row }) => row.tax)), isTax: true }))
  const off = -sum(discounts.map(([, discount]) => discount))
  const owing = [-document.reimbursed, off].map((credit) => ({ credit, isTax: false }))
  const lines = [...taxes, ...nets, ...owing]
  const receivable = { credit: -sum(lines.map(({ credit }) => credit)), isTax: false }
  const converted = convertLines([...lines, receivable], exchange)
  const inBase = determination.rows.map(() => 0n)
  agencies.forEach((of, place) => {
    const whole = converted[place] ?? 0n
    const oneSided = of.every(({ row }) => row.tax > 0n) || of.every(({ row }) => row.tax < 0n)
    const parts = oneSided
      ? allocate(
          whole,
          of.map(({ row }) => absolute(row.tax)),
        )
      : of.map((_, at) => (at === 0 ? whole : 0n))
    of.forEach(({ at }, index) => (inBase[at] = parts[index] ?? 0n))
  })
  return inBase
}
