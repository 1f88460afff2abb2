import { digitsOf, largestRemainder, millionths, toUnits } from '../shared/exact.ts'
import { Refusal } from '../shared/problems.ts'
import { partsOn, taxesOn, taxesWithin, type RatePart } from '../shared/rates.ts'
import type { Writer } from '../shared/store.ts'
import { requireAccount } from './required.ts'
import type { BookingRequest, LedgerAgency, LedgerRate, Line } from './shapes.ts'

export async function taxesByRate(
  writer: Writer,
  request: BookingRequest,
): Promise<{ lines: Line[]; within: Map<string, bigint> }> {
  const { currency } = request
  const groups = new Map<string, Group>()
  for (const line of request.lines) {
    if (line.taxRate === null) continue
    const { id: rateId, value: rate } = await rateOf(writer, line.taxRate, request.number)
    const returned = toUnits(line.net, currency) < 0n
    const key = `${rateId}|${returned}`
    const group = groups.get(key) ?? {
      rateId,
      parts: partsOn(rate, request.postingDate),
      all: rate.components ?? [],
      base: 0n,
      quantity: 0n,
      byLine: rate.rounds === 'line',
      lines: [],
    }
    const base =
      request.pricesIncludeTax && line.gross !== null
        ? toUnits(line.gross, currency)
        : toUnits(line.taxable, currency)
    group.base += base
    const quantity =
      returned === millionths(line.quantity) < 0n ? millionths(line.quantity) : -millionths(line.quantity)
    group.quantity += quantity
    group.lines.push({ id: line.id, base, quantity })
    groups.set(key, group)
  }
  const lines: Line[] = []
  const within = new Map<string, bigint>()
  for (const { rateId, parts, all, base, quantity, byLine, lines: of } of groups.values()) {
    const taxesOf = (b: bigint, q: bigint): bigint[] =>
      request.pricesIncludeTax
        ? taxesWithin(parts, b)
        : taxesOn(parts, all, { base: b, quantity: q, unit: 10n ** BigInt(digitsOf(currency)) })
    const taxes = byLine ? added(of.map((l) => taxesOf(l.base, l.quantity))) : taxesOf(base, quantity)
    const tax = taxes.reduce((sum, part) => sum + part, 0n)
    if (request.pricesIncludeTax)
      largestRemainder(
        tax,
        of.map((l) => (l.base < 0n ? -l.base : l.base)),
      ).forEach((part, at) => within.set(of[at]?.id ?? '', part))
    for (const [at, part] of parts.entries()) {
      const agency = await agencyOf(writer, part.agencyId, part.name)
      const credit = taxes[at] ?? 0n
      if (credit !== 0n)
        lines.push({
          accountId: agency.liabilityAccountId ?? '',
          description: `${part.name} ${part.perUnit === null ? `${part.percent} %` : `${part.perUnit} a unit`}`,
          agencyId: part.agencyId,
          taxRateId: rateId,
          base: request.pricesIncludeTax ? base - tax : base,
          credit,
        })
    }
  }
  return { lines, within }
}

interface Group {
  readonly rateId: string
  readonly parts: readonly RatePart[]
  readonly all: readonly RatePart[]
  base: bigint
  quantity: bigint
  readonly byLine: boolean
  readonly lines: { readonly id: string; readonly base: bigint; readonly quantity: bigint }[]
}

/** Sums by place. */
export function added(rows: readonly (readonly bigint[])[]): bigint[] {
  return (rows[0] ?? []).map((_, at) => rows.reduce((sum, row) => sum + (row[at] ?? 0n), 0n))
}

export async function taxesAsGiven(writer: Writer, request: BookingRequest): Promise<Line[]> {
  const lines: Line[] = []
  for (const tax of request.taxes ?? []) {
    await requireAccount(writer, tax.accountId)
    const agency = await agencyOf(writer, tax.agencyId, tax.agencyId)
    lines.push({
      accountId: tax.accountId,
      description: agency.name,
      agencyId: tax.agencyId,
      taxRateId: null,
      base: toUnits(tax.base, request.currency),
      credit: toUnits(tax.tax, request.currency),
    })
  }
  return lines
}

async function rateOf(
  writer: Writer,
  wanted: { readonly id?: string; readonly name?: string },
  number: string,
): Promise<{ id: string; value: LedgerRate }> {
  const rates = await writer.all<LedgerRate>('tax-rates')
  const found = rates.find(
    (rate) =>
      rate.value.active &&
      (rate.id === wanted.id || (wanted.id === undefined && rate.value.name === wanted.name)),
  )
  if (!found)
    throw new Refusal(
      422,
      'unknown-tax-rate',
      `The tax rate "${wanted.name ?? wanted.id}" on ${number} is not known in this ledger.`,
    )
  return found
}

async function agencyOf(writer: Writer, id: string, name: string): Promise<LedgerAgency> {
  const agency = (await writer.get<LedgerAgency>('agencies', id))?.value
  if (!agency?.liabilityAccountId)
    throw new Refusal(
      422,
      'no-liability-account',
      `No liability account is set for "${agency?.name ?? name}".`,
    )
  return agency
}
