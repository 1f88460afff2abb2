import type { RoundingPlace } from '../baseline/baseline.ts'
import type { Finding } from '../faults.ts'
import { absolute } from '../money/currency.ts'
import {
  add,
  compare,
  divide,
  least,
  multiply,
  ratio,
  subtract,
  unroundedTax,
  type Ratio,
} from '../money/decimal.ts'
import { round } from '../money/rounding.ts'
import { isTaxed } from './determination.ts'
import { rowOf, signed, type Rated } from './exclusive.ts'
import type { Levy } from './levies.ts'
import type { LeviedLine, PartedLine } from './shipping.ts'
import { breaksOf, negated, taxedPart, type Slice } from './slice.ts'
import { extractAt } from './taxRounding.ts'

interface Levied {
  readonly jurisdictionId: string
  readonly percent: bigint
  readonly perUnit: Ratio | null
  readonly onTopOf: readonly string[]
  readonly slice: Slice
}

/** A price with tax inside, solved: net + each tax on its base of the net = gross, exactly. */
export interface Solved {
  readonly net: Ratio
  readonly taxes: readonly Ratio[]
  readonly bases: readonly Ratio[]
}

/**
 * Solves net + Σ percent × base(net) = gross (K4). With a whole-price threshold, a gross that no net gives counts as below it.
 * Between two limits everything is a straight line, so two points of it give the net; the result is checked to be exact.
 * @returns null where no net gives the gross
 */
export function solve(gross: Ratio, quantity: Ratio, levies: readonly Levied[]): Solved | null {
  if (gross.numerator < 0n) {
    const mirrored = solve(negated(gross), { ...quantity, numerator: absolute(quantity.numerator) }, levies)
    return (
      mirrored && {
        net: negated(mirrored.net),
        taxes: mirrored.taxes.map(negated),
        bases: mirrored.bases.map(negated),
      }
    )
  }
  const limits = levies
    .flatMap(({ slice }) => breaksOf(slice, quantity))
    .sort((a, b) => (compare(a, b) < 0n ? -1 : 1))
  const from = [ratio(0n), ...limits]
  let below: Solved | null = null
  for (const [at, start] of from.entries()) {
    const end = from[at + 1]
    const within = end ? multiply(add(start, end), ratio(1n, 2n)) : add(start, ratio(1n))
    if (compare(within, start) === 0n) continue
    const left = taxesOn(start, start, quantity, levies)
    const slope = divide(
      subtract(taxesOn(within, start, quantity, levies).gross, left.gross),
      subtract(within, start),
    )
    const net = add(start, divide(subtract(gross, left.gross), slope))
    if (compare(net, start) < 0n) break
    const solved = taxesOn(net, start, quantity, levies)
    below = { net, taxes: solved.taxes, bases: solved.bases }
    if (!end || compare(net, end) < 0n) return compare(solved.gross, gross) === 0n ? below : null
  }
  return below
}

function taxesOn(
  net: Ratio,
  decidedAt: Ratio,
  quantity: Ratio,
  levies: readonly Levied[],
): { gross: Ratio; taxes: Ratio[]; bases: Ratio[] } {
  const bases = levies.map(({ slice }) => taxedPart(slice, net, quantity, decidedAt))
  const taxOf = (at: number): Ratio => {
    const levy = levies[at] as Levied
    const own = bases[at] as Ratio
    if (levy.perUnit !== null) return own.numerator === 0n ? ratio(0n) : multiply(quantity, levy.perUnit)
    const earlier = levies
      .map((_, other) => other)
      .filter((other) => levy.onTopOf.includes((levies[other] as Levied).jurisdictionId))
    const base = earlier.reduce((sum, other) => {
      const its = bases[other] as Ratio
      return its.numerator === 0n ? sum : add(sum, multiply(taxOf(other), divide(least(own, its), its)))
    }, own)
    return multiply(base, unroundedTax(1n, levy.percent))
  }
  const taxes = levies.map((_, at) => taxOf(at))
  return { gross: taxes.reduce((sum, tax) => add(sum, tax), net), taxes, bases }
}

const standing = (levies: readonly Levy[]): Levy[] =>
  levies.filter((levy) => isTaxed(levy) && levy.waived === null)

/** The exact net of a line whose price has tax inside. */
export function exactNetOf(line: LeviedLine): Ratio {
  return solve(ratio(line.taxable), line.line.quantity, standing(line.levies))?.net ?? ratio(line.taxable)
}

/** Rows of prices with tax inside (K4); without a place, all taxes nil. */
export function rowsWithinPrices(
  lines: readonly PartedLine[],
  place: RoundingPlace | null,
  number: string,
): Rated {
  const findings: Finding[] = []
  const solved = lines.map((line) => {
    const levies = standing(line.parts)
    const solution = solve(ratio(line.taxable), signed(line), levies)
    if (!solution)
      findings.push({ code: 'AXION_PRICE_WITHOUT_SOLUTION', facts: { document: number, line: line.line.id } })
    return { line, levies, solution }
  })
  const taxes =
    place && findings.length === 0
      ? extractAt(
          place,
          solved.map(({ line, levies, solution }) => ({
            gross: line.taxable,
            exactNet: solution?.net ?? ratio(line.taxable),
            components: levies.map((levy, at) => ({
              key: `${levy.jurisdictionId}@${levy.percent}`,
              exact: solution?.taxes[at] ?? ratio(0n),
            })),
          })),
        )
      : solved.map(() => [])
  const rated = solved.map(({ line, levies, solution }, at) => {
    const own = taxes[at] ?? []
    const tax = own.reduce((sum, part) => sum + part, 0n)
    const net = line.amount - tax
    const taxableNet = ratio(line.taxable - tax)
    const rows = line.parts.map((part) => {
      const place = levies.indexOf(part)
      const whole = part.slice.share.numerator === part.slice.share.denominator
      const partNet = whole ? net : round(multiply(ratio(net), part.slice.share))
      const base =
        place < 0 || solution === null
          ? 0n
          : whole && part.slice.threshold === null && part.slice.cap === null
            ? line.taxable - tax
            : round(limited(part.slice, solution.bases[place] as Ratio, taxableNet))
      return { ...rowOf(line.line.id, part, partNet, base), tax: own[place] ?? 0n }
    })
    return { rows, line: { lineId: line.line.id, net, discount: line.discount } }
  })
  return { rows: rated.flatMap(({ rows }) => rows), lines: rated.map(({ line }) => line), findings }
}

/** The exact base of a slice, never more than the rounded net where the slice is all of it. */
function limited(slice: Slice, base: Ratio, net: Ratio): Ratio {
  return slice.cap === null && slice.threshold?.taxes !== 'excess' && base.numerator !== 0n
    ? multiply(net, slice.share)
    : base
}
