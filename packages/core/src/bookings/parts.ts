import { groupBy } from '../baseline/lookup.ts'
import { isTaxed, type Determination } from '../determination/determination.ts'
import type { LineKind, TaxDocument } from '../determination/document.ts'
import { absolute, sum, type MinorUnits } from '../money/currency.ts'

/** A line as it goes to the ledger: shipping of which a part is taxed is two. */
export interface BookingPart {
  readonly lineId: string
  readonly kind: LineKind
  /** Revenue, before tax. */
  readonly net: MinorUnits
  /** What tax stands on: what a ledger that computes by rate takes its percent of. Nil on an untaxed part. */
  readonly taxable: MinorUnits
}

/** A document's lines before tax, with what of each is taxed (K3, step 7: both treatments of shipping stay two lines). */
export function bookingParts(document: TaxDocument, { rows, lines, open }: Determination): BookingPart[] {
  const kinds = new Map(document.lines.map((line) => [line.id, line]))
  return lines.flatMap(({ lineId, net }): BookingPart[] => {
    const line = kinds.get(lineId)
    if (!line) return []
    const part = { lineId, kind: line.kind }
    if (open.includes(lineId)) return [{ ...part, net, taxable: net }]
    const own = rows.filter((row) => row.lineId === lineId && isTaxed(row))
    const bases = [...groupBy(own, (row) => row.jurisdictionId).values()].map((of) =>
      sum(of.map((row) => row.base)),
    )
    const taxable = bases.reduce((most, base) => (absolute(base) > absolute(most) ? base : most), 0n)
    if (line.kind !== 'shipping' || taxable === 0n || absolute(taxable) >= absolute(net))
      return [{ ...part, net, taxable }]
    return [
      { ...part, net: taxable, taxable },
      { ...part, net: net - taxable, taxable: 0n },
    ]
  })
}
