import { digitsOf, halfUp, millionths, spread } from './exact.ts'
import type { Component, Rate, Sale } from './sale.ts'

/** What the ledger should hold of a document in the end: signed amounts in its own currency, by agency code. */
export interface Answer {
  readonly number: string
  readonly tax: ReadonlyMap<string, bigint>
  readonly net: bigint
  readonly currency: string
}

interface Group {
  base: bigint
  quantity: bigint
}

/**
 * The right tax of a sale by agency, worked out from what the generator knows: by document, rate and component, half away
 * from nil. A credit note takes what its original comes to so far, less what went before.
 */
export function rightTax(
  sale: Sale,
  rateOf: (code: string) => Rate,
  earlier: readonly Sale[] = [],
): { tax: Map<string, bigint>; net: bigint } {
  const original = sale.credits
  if (!original) return taxOf(sale, discounted(sale), rateOf)
  const so = new Map<number, bigint>()
  const take = (credits: Sale): void =>
    credits.lines.forEach((line) =>
      so.set(line.credits ?? 0, (so.get(line.credits ?? 0) ?? 0n) + line.amount),
    )
  const part = (): { tax: Map<string, bigint>; net: bigint } =>
    taxOf(
      original,
      original.lines.map((_, at) => so.get(at + 1) ?? 0n),
      rateOf,
    )
  for (const credits of earlier) take(credits)
  const before = part()
  take(sale)
  const now = part()
  const tax = new Map(
    [...now.tax]
      .map(([agency, amount]) => [agency, (before.tax.get(agency) ?? 0n) - amount] as const)
      .filter(([, amount]) => amount !== 0n),
  )
  return { tax, net: before.net - now.net }
}

/** Amounts less their shares of the document's discount, goods and services first. */
function discounted({ lines, discount }: Sale): bigint[] {
  const goods = lines.some((line) => line.item.kind !== 'shipping')
  const shares = spread(
    discount,
    lines.map((line) => ((line.item.kind === 'shipping') === goods ? 0n : line.amount)),
  )
  return lines.map((line, at) => line.amount - (shares[at] ?? 0n))
}

function taxOf(
  sale: Sale,
  amounts: readonly bigint[],
  rateOf: (code: string) => Rate,
): { tax: Map<string, bigint>; net: bigint } {
  const full = discounted(sale)
  const groups = new Map<string, Group>()
  sale.lines.forEach(({ right, quantity }, at) => {
    const amount = amounts[at] ?? 0n
    if (right.rate === null || amount === 0n) return
    const whole = full[at] ?? 1n
    const group = groups.get(right.rate) ?? { base: 0n, quantity: 0n }
    group.base += right.taxable === undefined ? amount : halfUp(right.taxable * amount, whole)
    group.quantity += halfUp(BigInt(quantity) * 1_000_000n * amount, whole)
    groups.set(right.rate, group)
  })
  const tax = new Map<string, bigint>()
  let inside = 0n
  for (const [code, group] of groups) {
    const parts = rateOf(code).components.filter(
      (c) => (c.from === undefined || sale.supply >= c.from) && (c.to === undefined || sale.supply <= c.to),
    )
    const each = sale.inside ? within(parts, group.base) : onTop(parts, rateOf(code), group, sale.currency)
    parts.forEach((part, at) => tax.set(part.agency, (tax.get(part.agency) ?? 0n) + (each[at] ?? 0n)))
    if (sale.inside) inside += each.reduce((sum, t) => sum + t, 0n)
  }
  return { tax, net: amounts.reduce((sum, a) => sum + a, 0n) - inside }
}

function onTop(
  parts: readonly Component[],
  rate: Rate,
  { base, quantity }: Group,
  currency: string,
): bigint[] {
  const taxes: bigint[] = []
  for (const part of parts) {
    const below = (part.onTopOf ?? []).reduce(
      (sum, place) => sum + (taxes[parts.indexOf(rate.components[place] as Component)] ?? 0n),
      0n,
    )
    taxes.push(
      part.perUnit === undefined
        ? halfUp((base + below) * millionths(part.percent), 100_000_000n)
        : halfUp(quantity * millionths(part.perUnit) * 10n ** BigInt(digitsOf(currency)), 1_000_000_000_000n),
    )
  }
  return taxes
}

function within(parts: readonly Component[], gross: bigint): bigint[] {
  const percents = parts.map((part) => millionths(part.percent))
  const net = halfUp(gross * 100_000_000n, 100_000_000n + percents.reduce((sum, p) => sum + p, 0n))
  return spread(gross - net, percents)
}
