import { groupBy, type BaselineIndex } from '../baseline/lookup.ts'
import { isTaxed, type Determination } from '../determination/determination.ts'
import type { TaxDocument } from '../determination/document.ts'

/** The baseline's combined rates that a document's lines are taxed at, by their item tax codes. */
export function combinedRatesOf(
  document: TaxDocument,
  { rows }: Determination,
  index: BaselineIndex,
): string[] {
  const rated = document.original?.document ?? document
  const found = [...groupBy(rows.filter(isTaxed), (row) => row.lineId)].flatMap(([lineId, of]) => {
    const line = document.lines.find((l) => l.id === lineId)
    const rate = index.combinedRateOf(
      [...new Set(of.map((row) => row.jurisdictionId))],
      rated.supplyDate,
      line?.itemTaxCode,
    )
    return rate ? [rate.id] : []
  })
  return [...new Set(found)]
}
