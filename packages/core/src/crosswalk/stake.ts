import type { Address } from '../baseline/baseline.ts'
import { groupBy, type BaselineIndex } from '../baseline/lookup.ts'
import type { TaxDocument } from '../determination/document.ts'
import type { Determination } from '../determination/determination.ts'
import { determine } from '../determination/determine.ts'
import { absolute, sum, type MinorUnits } from '../money/currency.ts'
import type { Percent } from '../money/decimal.ts'

/**
 * Tax at stake on one document when a system holds other percents than the baseline: the system's tax less the
 * baseline's, per jurisdiction, too much and too little summed apart and the larger taken.
 */
export function stakeOfPercents(
  document: TaxDocument,
  determination: Determination,
  {
    percents,
    itemTaxCode,
  }: { readonly percents: ReadonlyMap<string, Percent>; readonly itemTaxCode: string | null },
  index: BaselineIndex,
): MinorUnits {
  return between(
    determine(document, index, {
      percentOf: (id, code) => (code === itemTaxCode ? percents.get(id) : undefined),
    }),
    determination,
  )
}

/** Tax at stake on one document when a system has some of its lines under other item tax codes; by line. */
export function stakeOfCodes(
  document: TaxDocument,
  determination: Determination,
  codes: ReadonlyMap<string, string>,
  index: BaselineIndex,
): MinorUnits {
  const lines = document.lines.map((line) =>
    codes.has(line.id) ? { ...line, itemTaxCode: codes.get(line.id) ?? line.itemTaxCode } : line,
  )
  return between(determine({ ...document, lines }, index), determination)
}

/** Tax at stake on one document when a system exempts its party, or taxes it, against the baseline. */
export function stakeOfExemption(
  document: TaxDocument,
  determination: Determination,
  certificates: 'ignored' | 'everyone',
  index: BaselineIndex,
): MinorUnits {
  return between(determine(document, index, { certificates }), determination)
}

/** Tax at stake on a counter sale when its system has the outlet at another address than the baseline. */
export function stakeOfPlace(
  document: TaxDocument,
  determination: Determination,
  outlet: Address,
  index: BaselineIndex,
): MinorUnits {
  return between(determine({ ...document, outlet }, index), determination)
}

/** Another determination's tax less the baseline's, by jurisdiction; nothing where the other cannot be worked out. */
function between(other: Determination, determination: Determination): MinorUnits {
  if (!other.complete) return 0n
  const theirs = taxByJurisdiction(other)
  const ours = taxByJurisdiction(determination)
  const gaps = [...new Set([...theirs.keys(), ...ours.keys()])].map(
    (id) => (theirs.get(id) ?? 0n) - (ours.get(id) ?? 0n),
  )
  const over = sum(gaps.filter((gap) => gap > 0n))
  const short = absolute(sum(gaps.filter((gap) => gap < 0n)))
  return over > short ? over : short
}

/** Where a rate has no components, the whole tax on the document loses its split: all of it is at stake. */
export function stakeOfLostSplit(determination: Determination): MinorUnits {
  return absolute(sum(determination.rows.map((row) => row.tax)))
}

/** An agency's tax, in the wrong account or with nobody: all of what the document owes it. */
export function stakeOfAgency(determination: Determination, agencyId: string): MinorUnits {
  return absolute(sum(determination.rows.filter((row) => row.agencyId === agencyId).map((row) => row.tax)))
}

function taxByJurisdiction({ rows }: Determination): Map<string, MinorUnits> {
  return new Map(
    [...groupBy(rows, (row) => row.jurisdictionId)].map(([id, of]) => [id, sum(of.map((row) => row.tax))]),
  )
}
