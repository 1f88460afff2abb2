import type { Columns } from '../database/row.ts'
import { DOCUMENT, type SpecialLine } from '@axion/contract'
import { accountOf, amountInBase, isTaxed, type BaselineIndex, type TaxRow } from '@axion/core'
import type { SourceUnit } from './units.ts'

/** SQL, of a line `s`: which lines are alike. */
export const SPECIAL_GROUP = `concat_ws('|', s.system_id, s.what, s.wording)`

/** A line that is no item of the catalogue (C3), or that a rule decided (C4), as it is kept; amounts in the base currency. */
export interface SpecialRow extends Columns<
  'special_line',
  | 'place'
  | 'what'
  | 'wording'
  | 'region'
  | 'amount'
  | 'taxed'
  | 'item_tax_code'
  | 'account'
  | 'open'
  | 'rules'
> {
  readonly what: SpecialLine
  /** Whether the source taxed it; `waived` where no tax is due for who buys or sells, whatever it is; `none` of what is no line. */
  readonly taxed: 'taxed' | 'untaxed' | 'waived' | 'none'
  /** It has no treatment, or no account. */
  readonly open: boolean
}

const WAIVED: readonly TaxRow['reason'][] = ['certificate', 'marketplace', 'not-registered']

/** The lines of a document that are no item, or that a rule decided; its discount and what a third party reimburses of it. */
export function specialLinesOf(
  { decoded, document, determination }: SourceUnit,
  index: BaselineIndex,
): SpecialRow[] {
  const where = document.outlet ?? document.shipTo
  const region = where.region ?? where.country
  const purchase = DOCUMENT[decoded.kind].purchase
  const taxes = new Map(decoded.taxes.map((tax) => [tax.taxRateId, tax.tax]))
  const found: (Omit<SpecialRow, 'amount' | 'region'> & { readonly units: bigint })[] = []
  document.lines.forEach((line, place) => {
    const wire = decoded.lines.find((one) => one.id === line.id)
    if (!wire) return
    const known = line.itemId != null && index.itemTaxCodeOf(line.itemId) !== undefined
    const what: SpecialLine = known
      ? 'item'
      : line.kind === 'shipping'
        ? 'shipping'
        : wire.itemCode === null
          ? 'no-item'
          : 'unknown-item'
    const rules = line.decision?.rules ?? []
    if (what === 'item' && rules.length === 0) return
    const account = accountOf(line.kind === 'shipping' ? 'shipping' : 'revenue', document, line, index)
    const rows = determination.rows.filter((row) => row.lineId === line.id)
    const waived = rows.length > 0 && !rows.some(isTaxed) && rows.some((row) => WAIVED.includes(row.reason))
    found.push({
      place,
      what,
      wording: wire.description,
      units: line.amount,
      taxed: waived
        ? 'waived'
        : wire.taxRateId !== null && (taxes.get(wire.taxRateId) ?? 0n) !== 0n
          ? 'taxed'
          : 'untaxed',
      item_tax_code: line.itemTaxCode,
      account: purchase ? (line.decision?.account ?? null) : account,
      open: line.itemTaxCode === null || (!purchase && account === null),
      rules,
    })
  })
  const whole = (what: 'discount' | 'reimbursement', wording: string, units: bigint): void => {
    const account = accountOf(what, document, undefined, index)
    // A discount without an account of its own lowers the revenue of its lines.
    if (units !== 0n)
      found.push({
        place: found.length + document.lines.length,
        what,
        wording,
        units,
        taxed: 'none',
        item_tax_code: null,
        account,
        open: what === 'reimbursement' && account === null,
        rules: [],
      })
  }
  whole('discount', 'Discount on the whole document', -document.discount)
  whole('reimbursement', 'Reimbursed by a third party', document.reimbursed)
  return found.map(({ units, ...line }) => ({
    ...line,
    region,
    amount: amountInBase(units, document.exchange).toString(),
  }))
}
