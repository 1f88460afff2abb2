import type { RoundingPlace } from '../baseline/baseline.ts'
import { groupBy } from '../baseline/lookup.ts'
import { allocateByRatio } from '../money/allocation.ts'
import type { MinorUnits } from '../money/currency.ts'
import { add, multiply, ratio, unroundedTax, type Percent, type Ratio } from '../money/decimal.ts'
import { round } from '../money/rounding.ts'

/** A taxed line: its base, and what is levied on it. */
export interface TaxedLine {
  readonly lineId: string
  readonly base: MinorUnits
  readonly quantity: Ratio
  readonly components: readonly { readonly jurisdictionId: string; readonly percent: Percent }[]
}

/** One component's tax on one line, rounded. */
export interface ComponentTax {
  readonly lineId: string
  readonly jurisdictionId: string
  readonly tax: MinorUnits
}

interface Cell {
  readonly lineId: string
  readonly jurisdictionId: string
  readonly percent: Percent
  readonly exact: Ratio
}

/**
 * Works out tax at one of K1's places. Sales and returns on one document form groups of their own,
 * so each is rounded by itself; a group's tax goes over its components, then each component's over its lines (K2).
 */
export function taxAt(place: RoundingPlace, lines: readonly TaxedLine[]): ComponentTax[] {
  const sales = lines.filter((line) => line.base >= 0n)
  const returns = lines.filter((line) => line.base < 0n)
  return [sales, returns].flatMap((side) => groupsOf(place, side).flatMap((group) => taxOfGroup(place, group)))
}

function groupsOf(place: RoundingPlace, lines: readonly TaxedLine[]): TaxedLine[][] {
  if (place.level !== 'document') return lines.flatMap((line) => splitByUnit(place, [line]))
  return splitByUnit(place, lines)
}

/** Combined: lines that carry the same set of (jurisdiction, percent). Component: one group for each of them. */
function splitByUnit(place: RoundingPlace, lines: readonly TaxedLine[]): TaxedLine[][] {
  const keyOf = (c: TaxedLine['components'][number]): string => `${c.jurisdictionId}@${c.percent}`
  if (place.unit === 'combined') {
    return [...groupBy(lines, (line) => line.components.map(keyOf).sort().join(' ')).values()]
  }
  const single = lines.flatMap((line) => line.components.map((component) => ({ ...line, components: [component] })))
  return [...groupBy(single, (line) => line.components.map(keyOf).join('')).values()]
}

function taxOfGroup(place: RoundingPlace, lines: readonly TaxedLine[]): ComponentTax[] {
  const cells: Cell[] = lines.flatMap((line) =>
    line.components.map((c) => ({ lineId: line.lineId, ...c, exact: unroundedTax(line.base, c.percent) })),
  )
  const byComponent = [...groupBy(cells, (cell) => cell.jurisdictionId).values()]
  const whole = roundedTax(place, lines, total(cells))
  const parts = allocateByRatio(whole, byComponent.map(total))
  return byComponent.flatMap((component, index) => {
    const overLines = allocateByRatio(parts[index] ?? 0n, component.map((cell) => cell.exact))
    return component.map(({ lineId, jurisdictionId }, at) => ({ lineId, jurisdictionId, tax: overLines[at] ?? 0n }))
  })
}

/** By the single unit, its tax is rounded and multiplied; a broken quantity rounds the product again. */
function roundedTax(place: RoundingPlace, lines: readonly TaxedLine[], exact: Ratio): MinorUnits {
  const [line] = lines
  if (place.level !== 'unit' || !line || line.quantity.numerator === 0n) return round(exact, place.tie)
  const perUnit = multiply(exact, ratio(line.quantity.denominator, line.quantity.numerator))
  return round(multiply(ratio(round(perUnit, place.tie)), line.quantity), place.tie)
}

function total(cells: readonly Cell[]): Ratio {
  return cells.reduce((sum, cell) => add(sum, cell.exact), ratio(0n))
}
