import type { RoundingPlace } from '../baseline/baseline.ts'
import { groupBy } from '../baseline/lookup.ts'
import { allocateByRatio } from '../money/allocation.ts'
import type { MinorUnits } from '../money/currency.ts'
import { add, multiply, ratio, unroundedTax, type Percent, type Ratio } from '../money/decimal.ts'
import { round } from '../money/rounding.ts'

/** One levy on a line: a percent of its base, or so much for each unit of quantity. */
export interface TaxedComponent {
  readonly jurisdictionId: string
  readonly percent: Percent
  readonly perUnit: Ratio | null
  readonly base: MinorUnits
  /** Jurisdictions whose tax on this line is taxed too. */
  readonly onTopOf: readonly string[]
}

export interface TaxedLine {
  readonly lineId: string
  readonly quantity: Ratio
  readonly isReturn: boolean
  readonly components: readonly TaxedComponent[]
}

interface Cell {
  readonly line: TaxedLine
  readonly component: TaxedComponent
  readonly earlier: readonly { readonly cell: Cell; readonly part: Ratio }[]
  tax: MinorUnits
}

/**
 * Works out tax at one of K1's places. Sales and returns on one document form groups of their own, so each is rounded by
 * itself; a group's tax goes over its components, then each component's over its lines (K2).
 * @returns for each line, in its order, the tax of each of its components, in theirs
 */
export function taxAt(place: RoundingPlace, lines: readonly TaxedLine[]): MinorUnits[][] {
  const cells = lines.map(cellsOf)
  for (const returns of [false, true]) {
    const side = cells.filter((_, at) => lines[at]?.isReturn === returns)
    if (place.unit === 'combined')
      for (const group of combinedGroups(place, side)) settleCombined(place, group)
    else settleByComponent(place, side.flat())
  }
  return cells.map((of) => of.map((cell) => cell.tax))
}

/** A line's cells; where bases differ, only the part of an earlier tax that stands on the shared base counts. */
function cellsOf(line: TaxedLine): Cell[] {
  const cells: Cell[] = line.components.map((component) => ({ line, component, earlier: [], tax: 0n }))
  if (line.components.every(({ onTopOf }) => onTopOf.length === 0)) return cells
  return cells.map((cell) =>
    Object.assign(cell, {
      earlier: cells
        .filter((other) => cell.component.onTopOf.includes(other.component.jurisdictionId))
        .map((other) => ({ cell: other, part: shared(cell.component.base, other.component.base) })),
    }),
  )
}

function shared(own: MinorUnits, its: MinorUnits): Ratio {
  const [a, b] = [own < 0n ? -own : own, its < 0n ? -its : its]
  return b === 0n || a >= b ? ratio(1n) : ratio(a, b)
}

/** Unrounded tax of a cell; what it stands on of earlier taxes is read as `taxOf` gives it. */
function exactTax({ line, component, earlier }: Cell, taxOf: (cell: Cell) => Ratio): Ratio {
  if (component.perUnit !== null) return multiply(line.quantity, component.perUnit)
  if (earlier.length === 0) return unroundedTax(component.base, component.percent)
  const base = earlier.reduce(
    (sum, { cell, part }) => add(sum, multiply(taxOf(cell), part)),
    ratio(component.base),
  )
  return multiply(base, unroundedTax(1n, component.percent))
}

/** What makes two levies the same rate of the same jurisdiction. */
export function rateKey(levy: Pick<TaxedComponent, 'jurisdictionId' | 'percent' | 'perUnit'>): string {
  const rate = levy.perUnit ? `${levy.perUnit.numerator}/${levy.perUnit.denominator}` : levy.percent
  return `${levy.jurisdictionId}@${rate}`
}

const keyOf = ({ component }: Cell): string => rateKey(component)

/** By component: earlier taxes first, as rounded at the same place; then what stands on them. */
function settleByComponent(place: RoundingPlace, cells: readonly Cell[]): void {
  if (cells.every(({ earlier }) => earlier.length === 0)) return settleLayer(place, cells)
  const depthOf = (cell: Cell): number =>
    cell.earlier.reduce((most, { cell: other }) => Math.max(most, 1 + depthOf(other)), 0)
  for (const [, layer] of [...groupBy(cells, (cell) => String(depthOf(cell)))].sort(
    ([a], [b]) => Number(a) - Number(b),
  ))
    settleLayer(place, layer)
}

/** Cells that stand on none of each other. */
function settleLayer(place: RoundingPlace, layer: readonly Cell[]): void {
  const exactOf = (cell: Cell): Ratio => exactTax(cell, ({ tax }) => ratio(tax))
  const groups =
    place.level === 'document' ? [...groupBy(layer, keyOf).values()] : layer.map((cell) => [cell])
  for (const group of groups) {
    const [first] = group
    if (group.length === 1 && first) first.tax = roundedTax(place, group, exactOf(first))
    else {
      const exact = group.map(exactOf)
      const parts = allocateByRatio(roundedTax(place, group, total(exact)), exact)
      group.forEach((cell, at) => (cell.tax = parts[at] ?? 0n))
    }
  }
}

/** Lines that carry the same set of (jurisdiction, rate), or each line by itself. */
function combinedGroups(place: RoundingPlace, lines: readonly (readonly Cell[])[]): Cell[][] {
  if (place.level !== 'document') return lines.map((cells) => [...cells])
  return [...groupBy(lines, (cells) => cells.map(keyOf).sort().join(' ')).values()].map((group) =>
    group.flat(),
  )
}

function settleCombined(place: RoundingPlace, cells: readonly Cell[]): void {
  const exactOf = (cell: Cell): Ratio => exactTax(cell, exactOf)
  const exact = cells.map(exactOf)
  spread(roundedTax(place, cells, total(exact)), cells, exact)
}

/** A group's tax over its components, then each component's over its lines (K2). */
function spread(whole: MinorUnits, cells: readonly Cell[], exact: readonly Ratio[]): void {
  const byComponent = [
    ...groupBy(
      cells.map((_, at) => at),
      (at) => keyOf(cells[at] as Cell),
    ).values(),
  ]
  const parts = allocateByRatio(
    whole,
    byComponent.map((of) => total(of.map((at) => exact[at] as Ratio))),
  )
  byComponent.forEach((of, index) => {
    const overLines = allocateByRatio(
      parts[index] ?? 0n,
      of.map((at) => exact[at] as Ratio),
    )
    of.forEach((at, place) => ((cells[at] as Cell).tax = overLines[place] ?? 0n))
  })
}

/** By the single unit, its tax is rounded and multiplied; a broken quantity rounds the product again. */
function roundedTax(place: RoundingPlace, cells: readonly Cell[], exact: Ratio): MinorUnits {
  const quantity = cells[0]?.line.quantity
  if (place.level !== 'unit' || !quantity || quantity.numerator === 0n) return round(exact, place.tie)
  const perUnit = multiply(exact, ratio(quantity.denominator, quantity.numerator))
  return round(multiply(ratio(round(perUnit, place.tie)), quantity), place.tie)
}

/** A line whose price has tax inside: the exact net, and each component's exact tax on it. */
export interface InclusiveLine {
  readonly gross: MinorUnits
  readonly exactNet: Ratio
  readonly components: readonly { readonly key: string; readonly exact: Ratio }[]
}

/**
 * Takes the tax out of prices that include it (K4): by line, or by document and rate set, always in the combined unit.
 * @returns for each line the tax of each of its components; what is left of its gross is its net
 */
export function extractAt(place: RoundingPlace, lines: readonly InclusiveLine[]): MinorUnits[][] {
  const taxes: MinorUnits[][] = lines.map(() => [])
  const indexes = lines.map((_, at) => at)
  // A levy that levies nothing on a line (below a threshold, say) is no part of its rate set.
  const setOf = (at: number): string =>
    `${(lines[at] as InclusiveLine).gross < 0n ? '-' : ''}${(lines[at] as InclusiveLine).components
      .filter((c) => c.exact.numerator !== 0n)
      .map((c) => c.key)
      .sort()
      .join(' ')}`
  const groups =
    place.level === 'document' ? [...groupBy(indexes, setOf).values()] : indexes.map((at) => [at])
  for (const group of groups) {
    const of = group.map((at) => lines[at] as InclusiveLine)
    const gross = of.reduce((sum, line) => sum + line.gross, 0n)
    const tax = gross - round(total(of.map((line) => line.exactNet)), place.tie)
    const keys = [...new Set(of.flatMap((line) => line.components.map((c) => c.key)))]
    if (keys.length === 0) continue
    const exactOf = (line: InclusiveLine, key: string): Ratio =>
      total(line.components.filter((c) => c.key === key).map((c) => c.exact))
    const parts = allocateByRatio(
      tax,
      keys.map((key) => total(of.map((line) => exactOf(line, key)))),
    )
    keys.forEach((key, index) => {
      const overLines = allocateByRatio(
        parts[index] ?? 0n,
        of.map((line) => exactOf(line, key)),
      )
      group.forEach((at, place) =>
        (lines[at] as InclusiveLine).components.forEach((c, component) => {
          if (c.key === key) (taxes[at] as MinorUnits[])[component] = overLines[place] ?? 0n
        }),
      )
    })
  }
  return taxes
}

function total(exact: readonly Ratio[]): Ratio {
  return exact.reduce((sum, part) => add(sum, part), ratio(0n))
}
