import type { RoundingPlace } from '../baseline/baseline.ts'
import { extractAt, taxAt } from '../determination/taxRounding.ts'
import { sum, type MinorUnits } from '../money/currency.ts'
import {
  add,
  divide,
  multiply,
  PERCENT_SCALE,
  ratio,
  subtract,
  type Percent,
  type Ratio,
} from '../money/decimal.ts'

/** One component of a rate as a ledger holds it. */
export interface HeldComponent {
  /** Whose tax it is; null where the rate names no agency. */
  readonly agencyId: string | null
  /** The account that it would be booked on; null where the ledger has none for the agency. */
  readonly account: string | null
  readonly percent: Percent
  /** Minor units for each unit of quantity, instead of a percent. */
  readonly perUnit: Ratio | null
  /** Components of the same rate, by their place, whose tax is taxed too. */
  readonly onTopOf: readonly number[]
}

/** A line of a booking as a ledger reads it: its rate there, and what that is taken of. */
export interface LineToTax {
  readonly id: string
  readonly rateId: string
  readonly components: readonly HeldComponent[]
  readonly quantity: Ratio
  readonly taxable: MinorUnits
  /** With tax inside; null where prices have none. */
  readonly gross: MinorUnits | null
}

/** Tax that a ledger would book, by agency and account. */
export interface ForetoldTax {
  readonly agencyId: string | null
  readonly account: string | null
  readonly tax: MinorUnits
}

/**
 * What a ledger that computes would book of a document, from the rates that it holds: each rate by itself, at one place of K1.
 * @returns null where its prices cannot be solved: a levy by the unit inside a price, under a tax on tax, or more than the price
 */
export function foretell(lines: readonly LineToTax[], place: RoundingPlace): readonly ForetoldTax[] | null {
  const inside = lines.some((line) => line.gross !== null)
  const taxes = inside ? within(lines, place) : onTop(lines, place)
  if (taxes === null) return null
  const sums = new Map<string, ForetoldTax>()
  lines.forEach(({ components }, at) =>
    components.forEach(({ agencyId, account }, component) => {
      const key = `${agencyId ?? ''}|${account ?? ''}`
      const known = sums.get(key) ?? { agencyId, account, tax: 0n }
      sums.set(key, { ...known, tax: known.tax + (taxes[at]?.[component] ?? 0n) })
    }),
  )
  return [...sums.values()].filter(({ tax }) => tax !== 0n)
}

const keyOf = ({ rateId }: LineToTax, component: number): string => `${rateId}#${component}`

function onTop(lines: readonly LineToTax[], place: RoundingPlace): MinorUnits[][] {
  return taxAt(
    place,
    lines.map((line) => ({
      lineId: line.id,
      quantity: line.taxable < 0n === line.quantity.numerator < 0n ? line.quantity : negative(line.quantity),
      isReturn: line.taxable < 0n,
      components: line.components.map(({ percent, perUnit, onTopOf }, at) => ({
        jurisdictionId: keyOf(line, at),
        percent,
        perUnit,
        base: line.taxable,
        onTopOf: onTopOf.map((other) => keyOf(line, other)),
      })),
    })),
  )
}

function within(lines: readonly LineToTax[], place: RoundingPlace): MinorUnits[][] | null {
  const solved = lines.map((line) => solve(line))
  if (solved.some((line) => line === null)) return null
  return extractAt(
    place,
    lines.map((line, at) => ({
      gross: line.gross ?? 0n,
      exactNet: solved[at]?.net ?? ratio(0n),
      components: (solved[at]?.taxes ?? []).map((exact, component) => ({
        key: keyOf(line, component),
        exact,
      })),
    })),
  )
}

/** Net and taxes within a gross: a component comes to its percent of the net and of the taxes that it stands on. */
function solve({ components, gross, quantity }: LineToTax): { net: Ratio; taxes: Ratio[] } | null {
  const whole = ratio(gross ?? 0n)
  const isReturn = whole.numerator < 0n
  const count = isReturn === quantity.numerator < 0n ? quantity : negative(quantity)
  const parts: ({ percent: Ratio } | { amount: Ratio } | null)[] = []
  for (const { percent, perUnit, onTopOf } of components) {
    if (perUnit !== null) {
      parts.push({ amount: multiply(count, perUnit) })
      continue
    }
    const below = onTopOf.map((place) => parts[place] ?? null)
    if (below.some((part) => part === null || 'amount' in part)) return null
    const base = below.reduce<Ratio>(
      (total, part) => add(total, part && 'percent' in part ? part.percent : ratio(0n)),
      ratio(1n),
    )
    parts.push({ percent: multiply(base, ratio(percent, PERCENT_SCALE)) })
  }
  const rate = parts.reduce<Ratio>(
    (total, part) => (part && 'percent' in part ? add(total, part.percent) : total),
    ratio(1n),
  )
  const fixed = parts.reduce<Ratio>(
    (total, part) => (part && 'amount' in part ? add(total, part.amount) : total),
    ratio(0n),
  )
  const net = divide(subtract(whole, fixed), rate)
  // Levies by the unit that are more than the price leave nothing that it could be the price of.
  if (net.numerator < 0n !== isReturn && net.numerator !== 0n) return null
  return {
    net,
    taxes: parts.map((part) =>
      part === null ? ratio(0n) : 'amount' in part ? part.amount : multiply(net, part.percent),
    ),
  }
}

function negative({ numerator, denominator }: Ratio): Ratio {
  return { numerator: -numerator, denominator }
}

/** Where a ledger that does not say how it rounds may round: what no place gives is no matter of rounding. */
export const PLACES: readonly RoundingPlace[] = (['document', 'line'] as const).flatMap((level) =>
  (['component', 'combined'] as const).map((unit) => ({ level, unit, tie: 'half-away' as const })),
)

/** Whether two sets of taxes are the same, agency by agency and account by account. */
export function sameTaxes(a: readonly ForetoldTax[], b: readonly ForetoldTax[]): boolean {
  const text = (of: readonly ForetoldTax[]): string =>
    [...new Set(of.map((t) => `${t.agencyId ?? ''}|${t.account ?? ''}`))]
      .map(
        (key) =>
          `${key}=${sum(of.filter((t) => `${t.agencyId ?? ''}|${t.account ?? ''}` === key).map((t) => t.tax))}`,
      )
      .sort()
      .join('\n')
  return text(a) === text(b)
}
