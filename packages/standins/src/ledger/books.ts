import { digitsOf, divideRounded, largestRemainder, millionths, toText, toUnits } from '../shared/exact.ts'
import { Refusal } from '../shared/problems.ts'
import { partsOn, taxesOn, taxesWithin, type Rate, type RatePart } from '../shared/rates.ts'
import type { Writer } from '../shared/store.ts'

/** A rate may round line by line, as somebody once set it; otherwise by document. */
export type LedgerRate = Rate & { readonly rounds?: 'line' }
export interface LedgerAgency {
  readonly code: string | null
  readonly name: string
  readonly liabilityAccountId: string | null
}
export interface LedgerAccount {
  readonly number: string
  readonly name: string
  readonly type: string
}
export interface RequestLine {
  readonly id: string
  readonly kind: string
  readonly description: string
  readonly accountId: string
  readonly quantity: string
  readonly net: string
  readonly taxable: string
  readonly gross: string | null
  readonly taxRate: { readonly id?: string; readonly name?: string } | null
  /** Values of tracking dimensions; a sender of before may leave them out. */
  readonly dimensionIds?: readonly string[]
}
export interface BookingRequest {
  readonly externalId: string
  readonly number: string
  readonly kind: string
  readonly postingDate: string
  readonly currency: string
  readonly exchangeRate: string | null
  readonly party: { readonly id: string; readonly name: string }
  readonly receivableAccountId: string
  readonly reimbursed: { readonly accountId: string; readonly amount: string } | null
  readonly memo: string
  readonly pricesIncludeTax: boolean
  readonly lines: readonly RequestLine[]
  readonly taxes:
    | readonly {
        readonly agencyId: string
        readonly accountId: string
        readonly base: string
        readonly tax: string
      }[]
    | null
  readonly journal:
    | readonly {
        readonly accountId: string
        readonly description: string
        readonly agencyId: string | null
        readonly debit: string
        readonly credit: string
        readonly base: string | null
      }[]
    | null
}
export interface EntryLine {
  readonly accountId: string
  readonly description: string
  readonly debit: string
  readonly credit: string
  readonly agencyId: string | null
  readonly taxRateId: string | null
  readonly base: string | null
  readonly baseDebit: string | null
  readonly baseCredit: string | null
  readonly dimensionIds: readonly string[]
}
export interface LedgerSettings {
  readonly company: { readonly id: string; readonly name: string }
  readonly baseCurrency: string
  readonly currencies: readonly string[]
  readonly timeZone: string
  readonly keepsDocumentNumbers: boolean
  readonly lockedThrough: string | null
  readonly taxComputation: 'by-rate' | 'as-given'
  readonly keepsKeysSeconds: number
  readonly longestLateCommitSeconds: number | null
  readonly voids: boolean
  /** A convention of this ledger: amounts in another currency are taken over unit for unit. Somebody may have left it so. */
  readonly exchange: 'as-stated' | 'at-one'
  /** Likewise: a credit note is taken over as one more sale. */
  readonly credits: 'as-credits' | 'as-sales'
  /** Likewise: prices that have tax inside get it on top. */
  readonly inside: 'taken-out' | 'put-on-top'
  /** Likewise: how many lines of a document its form takes; null for all of them. */
  readonly mostLines: number | null
}

/** A line before it gets its side: credits count up. */
interface Line {
  readonly accountId: string
  readonly description: string
  readonly agencyId: string | null
  readonly taxRateId: string | null
  readonly base: bigint | null
  readonly credit: bigint
  readonly dimensionIds?: readonly string[]
}
const plain = { agencyId: null, taxRateId: null, base: null }

/**
 * Writes the journal of a booking with this ledger's own rates, accounts and rounding:
 * tax by document and component, half up. By rate, or as given. A credit note stands on the other side.
 */
export async function journalOf(
  writer: Writer,
  whole: BookingRequest,
  settings: LedgerSettings,
): Promise<EntryLine[]> {
  const request =
    settings.mostLines === null ? whole : { ...whole, lines: whole.lines.slice(0, settings.mostLines) }
  const { currency } = request
  if (settings.lockedThrough !== null && request.postingDate <= settings.lockedThrough) {
    throw new Refusal(
      422,
      'period-locked',
      `The books are locked through ${settings.lockedThrough}; ${request.number} is dated ${request.postingDate}.`,
    )
  }
  if (!settings.currencies.includes(currency))
    throw new Refusal(422, 'currency-not-in-use', `${currency} is not in use in this company.`)
  if (request.kind === 'correction') return sided(await correction(writer, request), request, settings)

  const taxes =
    settings.taxComputation === 'by-rate'
      ? await taxesByRate(writer, settings.inside === 'put-on-top' ? onTop(request) : request)
      : { lines: await taxesAsGiven(writer, request), within: new Map<string, bigint>() }
  const sales: Line[] = []
  for (const line of request.lines) {
    await requireAccount(writer, line.accountId)
    const dimensionIds = line.dimensionIds ?? []
    await requireDimensions(writer, dimensionIds, request.number)
    const within = taxes.within.get(line.id)
    const onTopOfIt = request.pricesIncludeTax && settings.inside === 'put-on-top'
    const net =
      line.gross === null || (within === undefined && !onTopOfIt)
        ? toUnits(line.net, currency)
        : toUnits(line.gross, currency) - (within ?? 0n)
    sales.push({
      ...plain,
      accountId: line.accountId,
      description: line.description,
      credit: net,
      dimensionIds,
    })
  }
  const total = [...sales, ...taxes.lines].reduce((sum, line) => sum + line.credit, 0n)
  const reimbursed = request.reimbursed ? toUnits(request.reimbursed.amount, currency) : 0n
  await requireAccount(writer, request.receivableAccountId)
  const lines: Line[] = [
    {
      ...plain,
      accountId: request.receivableAccountId,
      description: request.party.name,
      credit: reimbursed - total,
    },
  ]
  if (request.reimbursed) {
    await requireAccount(writer, request.reimbursed.accountId)
    lines.push({
      ...plain,
      accountId: request.reimbursed.accountId,
      description: 'Reimbursed by a third party',
      credit: -reimbursed,
    })
  }
  const sign = request.kind === 'credit-note' && settings.credits === 'as-credits' ? -1n : 1n
  return sided(
    [...lines, ...sales, ...taxes.lines].map((line) => ({
      ...line,
      credit: line.credit * sign,
      base: line.base === null ? null : line.base * sign,
    })),
    request,
    settings,
  )
}

/** Prices with tax inside, read as if it were not. */
function onTop(request: BookingRequest): BookingRequest {
  const lines = request.lines.map((line) =>
    line.gross === null ? line : { ...line, taxable: line.taxRate === null ? line.taxable : line.gross },
  )
  return request.pricesIncludeTax ? { ...request, pricesIncludeTax: false, lines } : request
}

async function correction(writer: Writer, request: BookingRequest): Promise<Line[]> {
  const lines: Line[] = []
  for (const line of request.journal ?? []) {
    await requireAccount(writer, line.accountId)
    const { currency } = request
    lines.push({
      accountId: line.accountId,
      description: line.description,
      agencyId: line.agencyId,
      taxRateId: null,
      base: line.base === null ? null : toUnits(line.base, currency),
      credit: toUnits(line.credit, currency) - toUnits(line.debit, currency),
    })
  }
  if (lines.length < 2 || lines.reduce((sum, line) => sum + line.credit, 0n) !== 0n)
    throw new Refusal(422, 'out-of-balance', `The correction ${request.number} does not balance.`)
  return lines
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

async function taxesByRate(
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

/** Sums by place. */
function added(rows: readonly (readonly bigint[])[]): bigint[] {
  return (rows[0] ?? []).map((_, at) => rows.reduce((sum, row) => sum + (row[at] ?? 0n), 0n))
}

async function taxesAsGiven(writer: Writer, request: BookingRequest): Promise<Line[]> {
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

async function requireAccount(writer: Writer, id: string): Promise<void> {
  if (!(await writer.get('accounts', id)))
    throw new Refusal(422, 'unknown-account', `There is no account "${id}" in this ledger.`)
}

/** Only values that are there and in use, and one of each dimension. */
async function requireDimensions(writer: Writer, ids: readonly string[], number: string): Promise<void> {
  const seen = new Set<string>()
  for (const id of ids) {
    const value = (
      await writer.get<{ readonly dimension: string; readonly active: boolean }>('dimensions', id)
    )?.value
    if (!value?.active)
      throw new Refusal(
        422,
        'unknown-dimension',
        `The dimension value "${id}" on ${number} is not in use in this ledger.`,
      )
    if (seen.has(value.dimension))
      throw new Refusal(
        422,
        'two-of-a-dimension',
        `${number} has a line with two values of ${value.dimension}.`,
      )
    seen.add(value.dimension)
  }
}

/** Debits and credits, in the entry's currency and, where it is another, in the books'. */
function sided(lines: readonly Line[], request: BookingRequest, settings: LedgerSettings): EntryLine[] {
  const { currency } = request
  const standing = lines.filter((line) => line.credit !== 0n)
  const converted =
    currency === settings.baseCurrency
      ? null
      : inBooks(
          standing.map(({ credit, agencyId }) => ({ credit, isTax: agencyId !== null })),
          request,
          settings,
        )
  return standing.map(({ credit, base, dimensionIds = [], ...line }, at) => {
    const inBase = converted?.[at]
    return {
      ...line,
      dimensionIds,
      ...sides(credit, currency),
      base: base === null ? null : toText(base, currency),
      baseDebit: inBase === undefined ? null : sides(inBase, settings.baseCurrency).debit,
      baseCredit: inBase === undefined ? null : sides(inBase, settings.baseCurrency).credit,
    }
  })
}

function sides(credit: bigint, currency: string): { debit: string; credit: string } {
  const nil = toText(0n, currency)
  return credit < 0n
    ? { debit: toText(-credit, currency), credit: nil }
    : { debit: nil, credit: toText(credit, currency) }
}

/**
 * The entry's total is converted once; each tax line by itself; what is left of the total goes over each side's other lines, or over
 * its tax lines where it has no others.
 */
function inBooks(
  lines: readonly { readonly credit: bigint; readonly isTax: boolean }[],
  { currency, exchangeRate, number }: BookingRequest,
  { baseCurrency, exchange }: LedgerSettings,
): bigint[] {
  if (exchangeRate === null)
    throw new Refusal(422, 'no-exchange-rate', `${number} is in ${currency} and states no exchange rate.`)
  const rate = exchange === 'at-one' ? 1_000_000n * 1_000_000n : scaled(exchangeRate)
  const inOther = (units: bigint): bigint =>
    divideRounded(
      units * rate * 10n ** BigInt(digitsOf(baseCurrency)),
      1_000_000n * 1_000_000n * 10n ** BigInt(digitsOf(currency)),
    )
  const whole = inOther(lines.reduce((sum, { credit }) => (credit > 0n ? sum + credit : sum), 0n))
  const books = lines.map(({ credit, isTax }) => (isTax ? inOther(credit) : 0n))
  for (const side of [1n, -1n]) {
    const here = [...lines.keys()].filter((at) => (lines[at]?.credit ?? 0n) * side > 0n)
    const others = here.filter((at) => !lines[at]?.isTax)
    const taken = here.reduce((sum, at) => sum + (books[at] ?? 0n), 0n)
    const over = others.length > 0 ? others : here
    const sizes = over.map((at) => (lines[at]?.credit ?? 0n) * side)
    largestRemainder(whole * side - taken, sizes).forEach((part, place) => {
      const at = over[place] ?? 0
      books[at] = (books[at] ?? 0n) + part
    })
  }
  return books
}

/** A decimal of up to twelve places, in units of the twelfth. */
function scaled(text: string): bigint {
  const [whole = '0', fraction = ''] = text.split('.')
  return BigInt(whole) * 1_000_000n * 1_000_000n + BigInt(fraction.slice(0, 12).padEnd(12, '0'))
}
