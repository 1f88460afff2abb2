import type { BaselineIndex } from '../baseline/lookup.ts'
import type { Determination } from '../determination/determination.ts'
import type { TaxDocument } from '../determination/document.ts'
import type { MinorUnits } from '../money/currency.ts'

/** Each line's discount where a posting rule keeps discounts in an account of their own; none where they lower revenue. */
export function discountsApart(
  document: TaxDocument,
  { lines }: Pick<Determination, 'lines'>,
  index: BaselineIndex,
): Map<string, MinorUnits> {
  const of = { party: document.partyId, channel: document.channel ?? null }
  if (document.pricesIncludeTax || !index.postingRuleFor('discount', of, document.documentDate))
    return new Map()
  return new Map(lines.filter((line) => line.discount !== 0n).map((line) => [line.lineId, line.discount]))
}
