import { allocate } from '../money/allocation.ts'
import { absolute, type MinorUnits } from '../money/currency.ts'
import type { DocumentLine, TaxDocument } from './document.ts'

/** A line's price after discounts: what revenue stands on, and what tax stands on. */
export interface PricedLine {
  readonly line: DocumentLine
  /** The line's amount less its share of the document discount. */
  readonly amount: MinorUnits
  /** What is taxed: the amount, or the undiscounted price where the region taxes before discount. */
  readonly taxable: MinorUnits
  readonly discount: MinorUnits
}

/**
 * Spreads a document's discount (K3, step 2): by K2 over the goods and service lines that go its way, over shipping only
 * if there is nothing else.
 */
export function priced(
  document: TaxDocument,
  { taxedBeforeDiscount }: { readonly taxedBeforeDiscount: boolean },
): PricedLine[] {
  const shares = sharesOf(document)
  return document.lines.map((line, at) => {
    const discount = shares[at] ?? 0n
    const amount = line.amount - discount
    return { line, discount, amount, taxable: taxedBeforeDiscount ? line.amount : amount }
  })
}

function sharesOf({ lines, discount }: TaxDocument): MinorUnits[] {
  const settled = lines.map((line) => line.discountShare)
  if (settled.some((share) => share !== undefined)) return settled.map((share) => share ?? 0n)
  if (discount === 0n) return lines.map(() => 0n)
  const alongside = (line: DocumentLine): boolean => (discount > 0n ? line.amount > 0n : line.amount < 0n)
  const sold = lines.some((line) => line.kind !== 'shipping' && alongside(line))
  return allocate(
    discount,
    lines.map((line) =>
      alongside(line) && (line.kind === 'shipping') !== sold ? absolute(line.amount) : 0n,
    ),
  )
}
