import type { RoundingPlace } from '../baseline/baseline.ts'
import type { Finding } from '../faults.ts'
import type { MinorUnits } from '../money/currency.ts'
import { ratio } from '../money/decimal.ts'
import { round } from '../money/rounding.ts'
import { isTaxed, type DeterminedLine, type Reason, type TaxRow } from './determination.ts'
import type { Levy } from './levies.ts'
import type { PartedLine } from './shipping.ts'
import { taxedPart } from './slice.ts'
import { taxAt } from './taxRounding.ts'

export interface Rated {
  readonly rows: readonly TaxRow[]
  readonly lines: readonly DeterminedLine[]
  readonly findings: readonly Finding[]
  /** Lines that nobody can work out. */
  readonly open: readonly string[]
}

/** Rows of prices before tax: each part's base, then tax at the place; without a place, all taxes nil. */
export function rowsBeforeTax(lines: readonly PartedLine[], place: RoundingPlace | null): Rated {
  const based = lines.map((line) => {
    let left = line.amount
    const rows = line.parts.map((part, at) => {
      const taxable = part.taxable ?? line.taxable
      const base =
        isTaxed(part) && part.waived === null
          ? round(taxedPart(part.slice, ratio(taxable), line.line.quantity))
          : 0n
      const siblings = line.parts.filter((other) => other.jurisdictionId === part.jurisdictionId)
      const first = siblings[0] === line.parts[at]
      if (first) left = line.amount
      const last = siblings.at(-1) === line.parts[at]
      // Parts of one jurisdiction add up to the line: the last takes what a discount after tax leaves.
      const net = last ? left : taxable
      left -= net
      return rowOf(line.line.id, part, net, base)
    })
    return { line, rows }
  })
  const taxed = based.map(({ line, rows }) => ({
    lineId: line.line.id,
    quantity: signed(line),
    isReturn: line.taxable < 0n,
    components: rows.filter(isTaxed),
  }))
  const taxes = place ? taxAt(place, taxed) : []
  based.forEach(({ rows }, at) => {
    let next = 0
    for (const row of rows) if (isTaxed(row)) row.tax = taxes[at]?.[next++] ?? 0n
  })
  return {
    rows: based.flatMap(({ rows }) => rows),
    lines: lines.map(({ line, amount, discount }) => ({ lineId: line.id, net: amount, discount })),
    findings: [],
    open: [],
  }
}

/** The quantity with the sign of what is sold, for taxes per unit. */
export function signed({
  line,
  taxable,
}: Pick<PartedLine, 'line' | 'taxable'>): PartedLine['line']['quantity'] {
  const { numerator, denominator } = line.quantity
  return taxable < 0n === numerator < 0n ? line.quantity : { numerator: -numerator, denominator }
}

/** A row whose tax is still to be worked out. */
export type OpenRow = TaxRow & { tax: MinorUnits }

/** Why a levy on a base comes to nothing; null where it is taxed. */
function idleFor(levy: Levy, base: MinorUnits): Reason | null {
  if (!isTaxed(levy)) return levy.reason
  if (base === 0n && levy.slice.threshold !== null && levy.waived === null) return 'below-threshold'
  return levy.waived
}

/** A row before its tax; one that is not taxed after all has percent 0 and base 0. One literal: rows are what there is most of. */
export function rowOf(lineId: string, levy: Levy, net: MinorUnits, base: MinorUnits): OpenRow {
  const idle = idleFor(levy, base)
  return {
    lineId,
    jurisdictionId: levy.jurisdictionId,
    agencyId: levy.agencyId,
    net,
    tax: 0n,
    source: levy.source,
    percent: idle === null ? levy.percent : 0n,
    perUnit: idle === null ? levy.perUnit : null,
    onTopOf: idle === null ? levy.onTopOf : NONE,
    base: idle === null ? base : 0n,
    reason: idle ?? levy.reason,
  }
}

const NONE: readonly string[] = []
