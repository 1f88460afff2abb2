import { saying, type BookingRequest, type Code } from '@axion/contract'
import {
  absolute,
  agencyBase,
  allocate,
  formatAmount,
  sum,
  type BaselineIndex,
  type BookingPart,
  type Facts,
  type Journal,
  type MinorUnits,
  type PostingKind,
} from '@axion/core'
import { dimensionId } from '../baseline/tables/postings.ts'
import { externalIdOf } from '../documents/ids.ts'
import { genericOf, type SourceUnit } from '../documents/units.ts'
import type { HeldSystem } from '../setUp/held.ts'

interface Blocked {
  readonly code: Code
  readonly facts: Facts
}

export interface Requesting {
  readonly source: SourceUnit
  readonly from: HeldSystem
  readonly ledger: HeldSystem
  readonly journal: Journal
  readonly parts: readonly BookingPart[]
  readonly index: BaselineIndex
}

/** What the ledger gets of a journal; what it lacks for that, where it lacks something. */
export function requestOf(
  entityId: string,
  of: Requesting,
): { readonly blocked: readonly Blocked[]; readonly request: BookingRequest | null } {
  const { source, from, ledger } = of
  const { decoded, stored } = source
  const found = foundInLedger(of)
  const asGiven = ledger.row.about.taxComputation === 'as-given'
  const request: BookingRequest = {
    externalId: externalIdOf(entityId, stored.system_id, stored.document_id, decoded.kind),
    number: decoded.number,
    kind: source.document.kind,
    postingDate: decoded.documentDate,
    currency: decoded.currency,
    exchangeRate: source.exchangeRate,
    party: bookedUnder(of),
    receivableAccountId: found.agreedAccount('receivable'),
    memo: `${from.row.name} ${decoded.number}`.slice(0, 400),
    pricesIncludeTax: decoded.pricesIncludeTax,
    reimbursed:
      decoded.reimbursed === 0n
        ? null
        : { accountId: found.agreedAccount('reimbursement'), amount: textOf(decoded, decoded.reimbursed) },
    lines: [...soldLines(of, found), ...discountLine(of, found)],
    taxes: asGiven ? givenTaxes(of, found) : null,
    journal: null,
  }
  return { blocked: found.blocked, request: found.blocked.length === 0 ? request : null }
}

/** Who it is booked under: the buyer, or the one customer that stands for all of its source. */
function bookedUnder({ source: { decoded, document }, from, index }: Requesting): BookingRequest['party'] {
  const generic = genericOf(from, index)
  const party = generic === null ? undefined : index.party(generic)
  const own = from.partyOf(decoded.party.id)
  return party && own !== party.id && document.partyId === party.id
    ? { id: party.id, name: party.name }
    : decoded.party
}

/** A credit's amounts are sent as they were sold. */
function textOf({ kind, currency }: SourceUnit['decoded'], units: MinorUnits): string {
  return formatAmount(kind === 'credit-note' ? -units : units, currency)
}

interface FoundInLedger {
  /** What the ledger lacks, each once. */
  readonly blocked: Blocked[]
  accountId(number: string): string
  dimensionsOf(lineId: string): string[]
  agreedAccount(kind: PostingKind): string
}

/** The ledger's own ids of what a booking names. */
function foundInLedger({ source, ledger, journal, index }: Requesting): FoundInLedger {
  const { decoded, document } = source
  const blocked: Blocked[] = []
  const accountId = (number: string): string => {
    const account = ledger.accounts.find((a) => a.value.number === number)
    if (!account && !blocked.some((b) => b.facts['account'] === number))
      blocked.push(saying('AXION_ACCOUNT_NOT_IN_LEDGER', { account: number }))
    return account?.id ?? ''
  }
  const dimensionIn = (wanted: string): string => {
    const held = ledger.dimensions.find(
      ({ value }) => value.active && dimensionId(value.dimension, value.code) === wanted,
    )
    if (!held && !blocked.some((b) => b.facts['dimension'] === wanted))
      blocked.push(saying('AXION_DIMENSION_NOT_IN_LEDGER', { dimension: wanted, document: decoded.number }))
    return held?.id ?? ''
  }
  return {
    blocked,
    accountId,
    dimensionsOf: (lineId) =>
      (document.lines.find((line) => line.id === lineId)?.decision?.dimensions ?? []).map(dimensionIn),
    // Each amount goes where the journal has it; a line of nothing, where one like it would go.
    agreedAccount: (kind) => {
      const circumstances = { party: document.partyId, channel: document.channel ?? null }
      return accountId(
        journal.lines.find((line) => line.role === kind)?.account ??
          index.postingRuleFor(kind, circumstances, document.documentDate)?.account ??
          '',
      )
    },
  }
}

function soldLines(of: Requesting, found: FoundInLedger): BookingRequest['lines'] {
  const { source, from, ledger } = of
  const text = (units: MinorUnits): string => textOf(source.decoded, units)
  return linesOf(source, of.parts, of.journal).map(
    ({ part, id, rateId, description, quantity, net, taxable, gross, account }) => ({
      id,
      kind: part.kind,
      description,
      accountId:
        account === null
          ? found.agreedAccount(part.kind === 'shipping' ? 'shipping' : 'revenue')
          : found.accountId(account),
      quantity,
      net: text(net),
      taxable: text(taxable),
      gross: gross === null ? null : text(gross),
      taxRate: rateId === null ? null : ledgerRate(rateId, from, ledger),
      dimensionIds: found.dimensionsOf(part.lineId),
    }),
  )
}

/** A discount on the whole document is a line of its own. */
function discountLine({ source, journal }: Requesting, found: FoundInLedger): BookingRequest['lines'] {
  const discount = journal.lines.find((line) => line.role === 'discount')
  if (!discount) return []
  return [
    {
      id: 'discount',
      kind: 'discount',
      description: 'Discount',
      accountId: found.agreedAccount('discount'),
      quantity: '1',
      net: textOf(source.decoded, discount.credit - discount.debit),
      taxable: textOf(source.decoded, 0n),
      gross: null,
      taxRate: null,
      dimensionIds: [],
    },
  ]
}

/** The journal's tax by agency, for a ledger that takes it as it is given. */
function givenTaxes(
  { source, ledger, journal, index }: Requesting,
  found: FoundInLedger,
): NonNullable<BookingRequest['taxes']> {
  const { decoded, determination } = source
  return journal.lines
    .filter((line) => line.role === 'tax')
    .map((line) => {
      const agency = ledger.linkedTo('agency', line.agencyId ?? '')[0]
      if (agency === undefined)
        found.blocked.push(
          saying('AXION_AGENCY_NOT_LINKED', {
            agency: index.agency(line.agencyId ?? '')?.name ?? '',
            document: decoded.number,
          }),
        )
      return {
        agencyId: agency ?? '',
        accountId: found.accountId(line.account),
        base: textOf(decoded, agencyBase(determination.rows.filter((row) => row.agencyId === line.agencyId))),
        tax: textOf(decoded, line.credit - line.debit),
      }
    })
}

interface RequestLine {
  readonly part: BookingPart
  readonly id: string
  readonly rateId: string | null
  readonly description: string
  readonly quantity: string
  readonly net: MinorUnits
  readonly taxable: MinorUnits
  readonly gross: MinorUnits | null
  /** Of its revenue; null where it has none. */
  readonly account: string | null
}

/** The document's lines with the rate that the source put on each, on the base that the source took it of. */
function linesOf(
  { decoded, determination }: SourceUnit,
  parts: readonly BookingPart[],
  journal: Journal,
): RequestLine[] {
  const revenue = journal.lines.filter((line) => line.role === 'revenue' || line.role === 'shipping')
  let next = 0
  const lines = parts.map((part, at): RequestLine => {
    const line = decoded.lines.find((l) => l.id === part.lineId)
    const split = parts.filter((other) => other.lineId === part.lineId).length > 1
    const second = split && parts.findIndex((other) => other.lineId === part.lineId) !== at
    const rateId = second ? null : (line?.taxRateId ?? null)
    const booked = part.net === 0n ? undefined : revenue[next++]
    const net = booked ? booked.credit - booked.debit : part.net
    const taxes = sum(determination.rows.filter((row) => row.lineId === part.lineId).map((row) => row.tax))
    return {
      part,
      rateId,
      account: booked?.account ?? null,
      id: second ? `${part.lineId}-untaxed` : part.lineId,
      description: line?.description ?? '',
      quantity: line?.quantity ?? '1',
      net,
      taxable: rateId === null ? 0n : part.taxable !== 0n ? part.taxable : net,
      gross: decoded.pricesIncludeTax ? part.net + (second ? 0n : taxes) : null,
    }
  })
  return decoded.pricesIncludeTax
    ? lines
    : decoded.taxes.reduce((all, tax) => onStatedBase(all, tax.taxRateId, tax.base), lines)
}

/** Where the source took a rate of another base than the baseline would, the ledger is given the source's. */
function onStatedBase(lines: readonly RequestLine[], rateId: string, base: MinorUnits): RequestLine[] {
  const own = lines.filter((line) => line.rateId === rateId)
  if (own.length === 0 || sum(own.map((line) => line.taxable)) === base) return [...lines]
  const weights = own.map((line) => absolute(line.net))
  if (weights.every((weight) => weight === 0n)) return [...lines]
  const shares = allocate(base, weights)
  return lines.map((line) =>
    line.rateId === rateId ? { ...line, taxable: shares[own.indexOf(line)] ?? 0n } : line,
  )
}

function ledgerRate(
  sourceRateId: string,
  from: HeldSystem,
  ledger: HeldSystem,
): { id: string } | { name: string } {
  const combined = from.combinedRateOf(sourceRateId)
  const id = combined === null ? undefined : ledger.linkedTo('combined-rate', combined)[0]
  return id === undefined ? { name: rateName(from, sourceRateId) } : { id }
}

export function rateName(from: HeldSystem, rateId: string): string {
  return from.rates.find((rate) => rate.id === rateId)?.value.name ?? rateId
}
