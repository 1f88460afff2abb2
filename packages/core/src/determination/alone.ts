import type { BaselineIndex } from '../baseline/lookup.ts'
import { finding, leavesOpen, type Finding } from '../faults.ts'
import { isTaxed, type Assumed, type Determination } from './determination.ts'
import type { TaxDocument } from './document.ts'
import { rowsBeforeTax } from './exclusive.ts'
import { rowsWithinPrices, solvedLines, type SolvedLine } from './inclusive.ts'
import { certificateFor, leviesOn, type Circumstances } from './levies.ts'
import { priced } from './prices.ts'
import { withFollowedShipping } from './shipping.ts'
import { sourcedTo } from './sourcing.ts'

/** A document by its own lines and dates, and what its prices with tax inside come to exactly. */
export interface Rating {
  readonly determination: Determination
  /** Null where prices are before tax. */
  readonly solved: readonly SolvedLine[] | null
}

export function determineAlone(document: TaxDocument, index: BaselineIndex, assumed: Assumed): Determination {
  return rateAlone(document, index, assumed).determination
}

export function rateAlone(document: TaxDocument, index: BaselineIndex, assumed: Assumed): Rating {
  const sourced = assumed.place ?? sourcedTo(document, index)
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
    findings.push(finding('AXION_NO_PAYMENT_DATE', { document: document.number, region: region?.name ?? '' }))
  if (document.kind === 'credit-note')
    findings.push(finding('AXION_ORIGINAL_UNKNOWN', { document: document.number }))

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
  const undecided: string[] = []
  const lines = priced(document, {
    taxedBeforeDiscount: assumed.taxedBeforeDiscount ?? rule?.taxedBeforeDiscount ?? false,
  }).map((line) => {
    const { levies, findings: found } = leviesOn(line.line, at)
    findings.push(...found)
    // A line that the baseline cannot answer for holds up no other.
    const isOpen = found.some(leavesOpen)
    if (isOpen) undecided.push(line.line.id)
    return {
      line: line.line,
      amount: line.amount,
      taxable: line.taxable,
      discount: line.discount,
      levies: isOpen ? [] : levies,
    }
  })
  const inclusive = assumed.pricesIncludeTax ?? document.pricesIncludeTax
  if (lines.some(({ levies }) => levies.some(isTaxed))) findings.push(...remarks)

  const followed = withFollowedShipping(document, lines, { inclusive, undecided })
  const { lines: levied } = followed
  findings.push(...followed.findings)
  undecided.push(...followed.open)
  const taxable = levied.some(({ parts }) => parts.some((part) => isTaxed(part) && part.waived === null))
  if (!rounding && taxable)
    findings.push(
      finding('AXION_NO_ROUNDING_PLACE', { region: region?.name ?? '', document: document.number }),
    )

  // What is open of the document itself, and of no line, leaves all of them open.
  const whole = findings.some((finding) => leavesOpen(finding) && finding.facts.line === undefined)
  const place = whole ? null : rounding
  const solved = inclusive ? solvedLines(levied) : null
  const rated = solved ? rowsWithinPrices(solved, place, document.number) : rowsBeforeTax(levied, place)
  findings.push(...rated.findings)
  const open = whole ? document.lines.map((line) => line.id) : [...new Set([...undecided, ...rated.open])]
  const determination: Determination = {
    rows: rated.rows,
    lines: rated.lines,
    findings,
    open,
    jurisdictions: assumed.jurisdictions ?? sourced.jurisdictions,
    rounding,
    complete: !findings.some(leavesOpen),
  }
  return { determination, solved }
}
