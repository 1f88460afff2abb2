import type { RoundingPlace } from '../baseline/baseline.ts'
import { finding, type Finding } from '../faults.ts'
import { absolute, type MinorUnits } from '../money/currency.ts'
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
import { isTaxed, type TaxRow } from './determination.ts'
import { rowOf, signed, type Rated } from './exclusive.ts'
import type { Levy } from './levies.ts'
import type { LeviedLine, Part, PartedLine } from './shipping.ts'
import { breaksOf, negated, taxedPart, type Slice } from './slice.ts'
import { extractAt, rateKey } from './taxRounding.ts'

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
 * Within two limits everything is a straight line (a tax per unit stands on it from its very beginning), so two points inside
 * give the net; the result is checked to be exact.
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
  if (gross.numerator === 0n)
    return { net: gross, taxes: levies.map(() => gross), bases: levies.map(() => gross) }
  const limits = levies
    .flatMap(({ slice }) => breaksOf(slice, quantity))
    .sort((a, b) => (compare(a, b) < 0n ? -1 : 1))
  const from = [ratio(0n), ...limits]
  let below: Solved | null = null
  for (const [at, start] of from.entries()) {
    const end = from[at + 1]
    const step = end ? multiply(subtract(end, start), ratio(1n, 3n)) : ratio(1n)
    if (step.numerator === 0n) continue
    const [one, two] = [add(start, step), add(add(start, step), step)]
    const grossAt = (net: Ratio): Ratio => taxesOn(net, start, quantity, levies).gross
    const slope = divide(subtract(grossAt(two), grossAt(one)), step)
    const net = add(one, divide(subtract(gross, grossAt(one)), slope))
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

/** A line whose price has tax inside, and what it comes to exactly; a null solution is a price that no net gives. */
export interface SolvedLine {
  readonly line: PartedLine
  readonly levies: readonly Levy[]
  readonly solution: Solved | null
}

export function solvedLines(lines: readonly PartedLine[]): SolvedLine[] {
  return lines.map((line) => {
    const levies = standing(line.parts)
    return { line, levies, solution: solve(ratio(line.taxable), signed(line), levies) }
  })
}

/** As much of a solved line as is credited of it: its exact parts times the share, so that all of it is the line itself. */
export function scaledLine({ line, levies, solution }: SolvedLine, amount: MinorUnits): SolvedLine {
  const share = line.amount === 0n ? ratio(0n) : ratio(amount, line.amount)
  const scale = (part: Ratio): Ratio => multiply(part, share)
  return {
    line: { ...line, amount, taxable: round(scale(ratio(line.taxable))) },
    levies,
    solution: solution && {
      net: scale(solution.net),
      taxes: solution.taxes.map(scale),
      bases: solution.bases.map(scale),
    },
  }
}

/** Rows of prices with tax inside (K4); without a place, all taxes nil. */
export function rowsWithinPrices(
  solved: readonly SolvedLine[],
  place: RoundingPlace | null,
  number: string,
): Rated {
  const without = solved.filter(({ solution }) => solution === null).map(({ line }) => line.line.id)
  const findings = without.map((line): Finding =>
    finding('AXION_PRICE_WITHOUT_SOLUTION', { document: number, line }),
  )
  const taxes = place
    ? extractAt(
        place,
        solved.map(({ line, levies, solution }) => ({
          gross: line.taxable,
          exactNet: solution?.net ?? ratio(line.taxable),
          components: solution
            ? levies.map((levy, at) => ({
                key: rateKey(levy),
                exact: solution.taxes[at] ?? ratio(0n),
              }))
            : [],
        })),
      )
    : solved.map(() => [])
  const rated = solved.map((of, at) => {
    const { line } = of
    const own = taxes[at] ?? []
    const net = line.amount - own.reduce((sum, part) => sum + part, 0n)
    return {
      rows: of.solution === null ? [] : rowsOf(of, own, net),
      line: { lineId: line.line.id, net, discount: line.discount },
    }
  })
  return {
    rows: rated.flatMap(({ rows }) => rows),
    lines: rated.map(({ line }) => line),
    findings,
    open: without,
  }
}

function rowsOf(
  { line, levies, solution }: SolvedLine,
  taxes: readonly MinorUnits[],
  net: MinorUnits,
): TaxRow[] {
  const taxableNet = line.taxable - (line.amount - net)
  return line.parts.map((part) => {
    const place = levies.indexOf(part)
    const base =
      place < 0 || solution === null || solution.bases[place]?.numerator === 0n
        ? 0n
        : isWhole(part.slice)
          ? taxableNet
          : round(solution.bases[place] as Ratio)
    return { ...rowOf(line.line.id, part, netOf(part, line, net, solution), base), tax: taxes[place] ?? 0n }
  })
}

/** A part's exact net times its exact share, rounded once; the last part of a jurisdiction takes what is left of the line. */
function netOf(part: Part, { parts }: PartedLine, net: MinorUnits, solution: Solved | null): MinorUnits {
  const siblings = parts.filter((other) => other.jurisdictionId === part.jurisdictionId)
  const share = ({ slice }: Part): MinorUnits => round(multiply(solution?.net ?? ratio(net), slice.share))
  return part === siblings.at(-1)
    ? siblings.slice(0, -1).reduce((left, other) => left - share(other), net)
    : share(part)
}

/** Whether a slice is all of a price once it is reached: then its base is the net as rounded. */
function isWhole({ threshold, cap, share }: Slice): boolean {
  return cap === null && threshold?.taxes !== 'excess' && share.numerator === share.denominator
}
