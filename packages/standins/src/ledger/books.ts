import { digitsOf, divideRounded, largestRemainder, toText, toUnits } from '../shared/exact.ts'
import { Refusal } from '../shared/problems.ts'
import type { Writer } from '../shared/store.ts'
import { requireAccount, requireDimensions } from './required.ts'
import type { BookingRequest, EntryLine, LedgerSettings, Line } from './shapes.ts'
import { taxesAsGiven, taxesByRate } from './taxes.ts'

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
