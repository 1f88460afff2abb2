import { groupBy, type BaselineIndex } from '../baseline/lookup.ts'
import { finding, leavesOpen, type Finding } from '../faults.ts'
import { allocate } from '../money/allocation.ts'
import { absolute, sum, type MinorUnits } from '../money/currency.ts'
import { multiply, ratio, type Ratio } from '../money/decimal.ts'
import { round } from '../money/rounding.ts'
import { determineAlone, rateAlone } from './alone.ts'
import {
  isTaxed,
  type Assumed,
  type Determination,
  type DeterminedLine,
  type TaxRow,
} from './determination.ts'
import type { CreditedOriginal, DocumentLine, TaxDocument } from './document.ts'
import { rowsWithinPrices, scaledLine, type SolvedLine } from './inclusive.ts'
import { priced } from './prices.ts'
import { taxAt } from './taxRounding.ts'

/**
 * A credit note takes the circumstances of what it credits (K3), cumulatively: each original line scaled to the share of its
 * amount credited so far, rated as the original, less the same before this credit. So the credit that completes its original
 * takes what is left of every row.
 */
export function determineCredit(
  credit: TaxDocument,
  { document: original, before }: CreditedOriginal,
  index: BaselineIndex,
  assumed: Assumed,
): Determination {
  const { determination: rated, solved } = rateAlone(original, index, assumed)
  const inclusive = solved !== null
  const prices = new Map(
    priced(original, { taxedBeforeDiscount: false }).map(({ line, amount }) => [line.id, amount]),
  )
  const credited = priced(credit, { taxedBeforeDiscount: false })
  const known = credited.filter(({ line }) => line.credits != null && prices.has(line.credits))
  const strangers = credited.filter((line) => !known.includes(line))

  const now = new Map(before)
  for (const { line, amount } of known)
    now.set(line.credits as string, (now.get(line.credits as string) ?? 0n) - amount)
  const scale = (so: ReadonlyMap<string, MinorUnits>): readonly TaxRow[] =>
    solved ? scaledWithin(rated, solved, original.number, so) : scaledBeforeTax(rated, original, prices, so)
  const [until, upTo] = [scale(before), scale(now)]

  const byOriginalLine = groupBy(known, ({ line }) => line.credits as string)
  const taken = rated.rows.map((row, at): TaxRow => {
    const [past, present] = [until[at] as TaxRow, upTo[at] as TaxRow]
    return {
      ...row,
      net: past.net - present.net,
      base: past.base - present.base,
      tax: past.tax - present.tax,
    }
  })
  const rows = onCreditedLines(taken, (lineId) => byOriginalLine.get(lineId)?.[0]?.line.id)
  const lines = [...byOriginalLine.values()].flatMap((of): DeterminedLine[] => {
    const tax = inclusive
      ? sum(rows.filter((row) => row.lineId === of[0]?.line.id).map((row) => row.tax))
      : 0n
    const nets = allocate(
      sum(of.map(({ amount }) => amount)) - tax,
      of.map(({ amount }) => absolute(amount) + (of.every((l) => l.amount === 0n) ? 1n : 0n)),
    )
    return of.map(({ line, discount }, at) => ({ lineId: line.id, net: nets[at] ?? 0n, discount }))
  })
  const alone = strangers.map(({ line, amount }) => ratedAlone(line, amount, { original, index, assumed }))
  // What is open of a line that this credit does not take is not this credit's matter.
  const concerns = (finding: Finding): boolean =>
    !leavesOpen(finding) || finding.facts.line === undefined || byOriginalLine.has(finding.facts.line)
  const findings: Finding[] = [...rated.findings.filter(concerns), ...alone.flatMap((a) => a.findings)]
  for (const { line } of strangers)
    findings.push(
      finding('AXION_LINE_NOT_ON_ORIGINAL', {
        document: credit.number,
        line: line.id,
        original: original.number,
      }),
    )
  if ([...now].some(([id, amount]) => absolute(amount) > absolute(prices.get(id) ?? 0n)))
    findings.push(finding('AXION_CREDITED_BEYOND', { document: credit.number, original: original.number }))
  return {
    ...rated,
    findings,
    rows: [...rows, ...alone.flatMap((a) => a.rows)],
    lines: inOrder(credit, [...lines, ...alone.flatMap((a) => a.lines)]),
    open: [
      ...known.filter(({ line }) => rated.open.includes(line.credits as string)).map(({ line }) => line.id),
      ...alone.flatMap((a) => a.open),
    ],
    complete: !findings.some(leavesOpen),
  }
}

/**
 * The rows of the lines that this credit names. At document level a unit of tax, and inside prices of its base, may have moved between lines
 * that were credited before and those credited now: it stands on a line of now, so that the document takes back what it should.
 */
function onCreditedLines(
  taken: readonly TaxRow[],
  ownerOf: (lineId: string) => string | undefined,
): TaxRow[] {
  const rows = taken.flatMap((row) => {
    const lineId = ownerOf(row.lineId)
    return lineId === undefined ? [] : [{ ...row, lineId }]
  })
  const hasMoved = (row: TaxRow): boolean =>
    ownerOf(row.lineId) === undefined && (row.tax !== 0n || row.base !== 0n || row.net !== 0n)
  for (const moved of taken.filter(hasMoved)) {
    const at = rows.findIndex(
      (row) => row.jurisdictionId === moved.jurisdictionId && row.percent === moved.percent && isTaxed(row),
    )
    const row = rows[at]
    if (row)
      rows[at] = {
        ...row,
        net: row.net + moved.net,
        base: row.base + moved.base,
        tax: row.tax + moved.tax,
      }
  }
  return rows
}

function ratedAlone(
  line: DocumentLine,
  amount: MinorUnits,
  {
    original,
    index,
    assumed,
  }: { readonly original: TaxDocument; readonly index: BaselineIndex; readonly assumed: Assumed },
): Determination {
  return determineAlone(
    { ...original, discount: 0n, lines: [{ ...line, amount, discountShare: 0n }] },
    index,
    assumed,
  )
}

function inOrder({ lines }: TaxDocument, determined: readonly DeterminedLine[]): DeterminedLine[] {
  return lines.flatMap((line) => determined.filter((d) => d.lineId === line.id))
}

/** Prices with tax inside: the exact parts of each line times the share that is credited of it. */
function scaledWithin(
  rated: Determination,
  solved: readonly SolvedLine[],
  number: string,
  so: ReadonlyMap<string, MinorUnits>,
): readonly TaxRow[] {
  const lines = solved.map((of) => scaledLine(of, so.get(of.line.line.id) ?? 0n))
  return rowsWithinPrices(lines, rated.open.length < solved.length ? rated.rounding : null, number).rows
}

/** The original's rows, each line scaled to what is credited of it, with tax at the original's place. */
function scaledBeforeTax(
  rated: Determination,
  original: TaxDocument,
  prices: ReadonlyMap<string, MinorUnits>,
  so: ReadonlyMap<string, MinorUnits>,
): readonly TaxRow[] {
  const shareOf = (lineId: string): Ratio => {
    const price = prices.get(lineId) ?? 0n
    return price === 0n ? ratio(0n) : ratio(so.get(lineId) ?? 0n, price)
  }
  const rows = rated.rows.map((row) => ({
    ...row,
    net: round(multiply(ratio(row.net), shareOf(row.lineId))),
    base: round(multiply(ratio(row.base), shareOf(row.lineId))),
    tax: 0n,
  }))
  const { rounding } = rated
  if (!rounding || rated.open.length === original.lines.length) return rows
  const taxedRows = original.lines.map((line) =>
    rows.map((row, at) => ({ row, at })).filter(({ row }) => row.lineId === line.id && isTaxed(row)),
  )
  const tax = new Map<number, MinorUnits>()
  const taxes = taxAt(
    rounding,
    original.lines.map((line, at) => ({
      lineId: line.id,
      quantity: multiply(line.quantity, shareOf(line.id)),
      isReturn: (prices.get(line.id) ?? 0n) < 0n,
      components: (taxedRows[at] ?? []).map(({ row }) => row),
    })),
  )
  taxedRows.forEach((of, line) => of.forEach(({ at }, place) => tax.set(at, taxes[line]?.[place] ?? 0n)))
  return rows.map((row, at) => ({ ...row, tax: tax.get(at) ?? 0n }))
}
