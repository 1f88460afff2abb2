import type { BaselineIndex } from '../baseline/lookup.ts'
import { leavesOpen, type Finding } from '../faults.ts'
import { isTaxed, type Assumed, type Determination } from './determination.ts'
import type { TaxDocument } from './document.ts'
import { rowsBeforeTax } from './exclusive.ts'
import { rowsWithinPrices } from './inclusive.ts'
import { certificateFor, leviesOn, type Circumstances } from './levies.ts'
import { priced } from './prices.ts'
import { withFollowedShipping } from './shipping.ts'
import { sourcedTo } from './sourcing.ts'

/** A document by its own lines and dates. */
export function determineAlone(document: TaxDocument, index: BaselineIndex, assumed: Assumed): Determination {
  const sourced = sourcedTo(document, index)
  const findings: Finding[] = assumed.jurisdictions ? [] : [...sourced.findings]
  const { region, rule } = sourced
  const taxedBy = rule?.taxedBy ?? 'supply-date'
  const date =
    taxedBy === 'payment-date'
      ? document.paymentDate
      : taxedBy === 'document-date'
        ? document.documentDate
        : document.supplyDate
  if (date === null)
    findings.push({
      code: 'AXION_NO_PAYMENT_DATE',
      facts: { document: document.number, region: region?.name ?? '' },
    })
  if (document.kind === 'credit-note')
    findings.push({ code: 'AXION_ORIGINAL_UNKNOWN', facts: { document: document.number } })

  const on = date ?? document.supplyDate
  const regionRounding = region && index.roundingOn(region.id, on)
  const rounding = assumed.rounding ?? regionRounding?.place ?? null
  const { certificate, remarks } = certificateFor(document, index, sourced, on)
  const at: Circumstances = {
    document,
    index,
    assumed,
    sourced,
    date: on,
    roundingId: regionRounding?.id ?? null,
    certificate,
  }
  const lines = priced(document, assumed.taxedBeforeDiscount ?? rule?.taxedBeforeDiscount ?? false).map(
    (line) => {
      const { levies, findings: found } = leviesOn(line.line, at)
      findings.push(...found)
      return { ...line, levies }
    },
  )
  const inclusive = assumed.pricesIncludeTax ?? document.pricesIncludeTax
  if (lines.some(({ levies }) => levies.some(isTaxed))) findings.push(...remarks)

  const { lines: levied, findings: shipped } = withFollowedShipping(document, lines, inclusive)
  findings.push(...shipped)
  const taxable = levied.some(({ parts }) => parts.some((part) => isTaxed(part) && part.waived === null))
  if (!rounding && taxable)
    findings.push({
      code: 'AXION_NO_ROUNDING_PLACE',
      facts: { region: region?.name ?? '', document: document.number },
    })

  const open = findings.some(leavesOpen)
  const place = open ? null : rounding
  const rated = inclusive ? rowsWithinPrices(levied, place, document.number) : rowsBeforeTax(levied, place)
  findings.push(...rated.findings)
  return {
    ...rated,
    findings,
    jurisdictions: assumed.jurisdictions ?? sourced.jurisdictions,
    rounding,
    complete: !findings.some(leavesOpen),
  }
}
