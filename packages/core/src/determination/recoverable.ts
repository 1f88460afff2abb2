import { groupBy, type BaselineIndex } from '../baseline/lookup.ts'
import { sum, type MinorUnits } from '../money/currency.ts'
import { unroundedTax } from '../money/decimal.ts'
import { round } from '../money/rounding.ts'
import type { Determination, TaxRow } from './determination.ts'
import type { TaxDocument } from './document.ts'

/** Tax on a purchase by agency, and what of it can be had back; the rest stays in the cost (K7). */
export interface Recoverable {
  readonly agencyId: string
  readonly tax: MinorUnits
  readonly recoverable: MinorUnits
}

/**
 * What of a purchase's tax can be had back, as the code rule of each row says: rounded once for each agency and share, so that what is
 * recovered whole is the whole tax. Nothing of a sale.
 */
export function recoverableTax(
  { purchase }: Pick<TaxDocument, 'purchase'>,
  { rows }: Pick<Determination, 'rows'>,
  { codeRule }: Pick<BaselineIndex, 'codeRule'>,
): Recoverable[] {
  if (purchase !== true) return []
  const shareOf = (row: TaxRow): bigint =>
    row.source.codeRule === null ? 0n : (codeRule(row.source.codeRule)?.recoverable ?? 0n)
  return [
    ...groupBy(
      rows.filter((row) => row.tax !== 0n),
      (row) => row.agencyId,
    ),
  ].map(([agencyId, own]) => ({
    agencyId,
    tax: sum(own.map((row) => row.tax)),
    recoverable: sum(
      [...groupBy(own, (row) => shareOf(row).toString())].map(([share, of]) =>
        round(unroundedTax(sum(of.map((row) => row.tax)), BigInt(share))),
      ),
    ),
  }))
}
