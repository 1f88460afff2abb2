import type { BookingRequest } from '@axion/contract'
import { composeInvoice, formatAmount, sum, type BaselineIndex, type ChargedTax, type Finding, type Journal } from '@axion/core'
import type { HeldSystem } from '../connect/held.ts'
import { externalIdOf, type SourceUnit } from '../tieout/units.ts'
import type { Code } from '@axion/contract'
import type { Facts } from '@axion/core'

export interface Remark {
  readonly code: Code
  readonly facts: Facts
  readonly blocks: boolean
}

export interface Composed {
  readonly externalId: string
  readonly journal: Journal | null
  readonly request: BookingRequest | null
  readonly remarks: readonly Remark[]
  readonly tax: bigint
  readonly total: bigint
}

/**
 * The booking of a source document: its expected journal, and the request that the ledger gets.
 * A rate that is not linked goes by the name it has at the source: the ledger then decides whether it knows it.
 */
export function composeBooking(entityId: string, source: SourceUnit, from: HeldSystem, ledger: HeldSystem, index: BaselineIndex): Composed {
  const { decoded, document, determination, stored } = source
  const charged = decoded.taxes.map((tax): ChargedTax => ({
    rateName: rateName(from, tax.taxRateId),
    combinedRateId: from.combinedRateOf(tax.taxRateId),
    tax: tax.tax,
    components: tax.components?.map((c) => ({ agencyId: from.agencyOf(c.agencyId), agencyName: from.agencies.find((a) => a.id === c.agencyId)?.value.name ?? c.agencyId, tax: c.tax })) ?? null,
  }))
  const composed = composeInvoice(document, charged, determination, index)
  const requested = composed.journal ? requestOf(entityId, source, from, ledger, composed.journal, index) : { blocked: [], request: null }
  const remarks = [
    ...[...composed.blocked, ...requested.blocked].map(({ code, facts }) => ({ code, facts, blocks: true })),
    ...composed.warnings.map(({ code, facts }) => ({ code, facts: inWords(code, facts), blocks: false })),
  ]
  return {
    externalId: externalIdOf(entityId, stored.system_id, stored.document_id),
    journal: requested.blocked.length === 0 ? composed.journal : null,
    request: requested.blocked.length === 0 ? requested.request : null,
    remarks, tax: sum(decoded.taxes.map((t) => t.tax)), total: decoded.total,
  }
}

function requestOf(entityId: string, { decoded, document, stored, determination }: SourceUnit, from: HeldSystem, ledger: HeldSystem, journal: Journal, index: BaselineIndex): { blocked: { code: Code; facts: Facts }[]; request: BookingRequest | null } {
  const blocked: { code: Code; facts: Facts }[] = []
  const accountId = (number: string): string => {
    const account = ledger.accounts.find((a) => a.value.number === number)
    if (!account && !blocked.some((b) => b.facts['account'] === number)) blocked.push({ code: 'AXION_ACCOUNT_NOT_IN_LEDGER', facts: { account: number } })
    return account?.id ?? ''
  }
  const accountOf = (kind: 'receivable' | 'revenue' | 'shipping'): string => accountId(index.postingRuleOn(kind, null, document.documentDate)?.account ?? '')
  const text = (units: bigint): string => formatAmount(units, decoded.currency)
  const asGiven = ledger.row.about.taxComputation === 'as-given'

  const taxes = journal.lines.filter((line) => line.role === 'tax').map((line) => {
    const agency = ledger.linkedTo('agency', line.agencyId ?? '')[0]
    if (asGiven && agency === undefined) blocked.push({ code: 'AXION_AGENCY_NOT_LINKED', facts: { agency: index.agency(line.agencyId ?? '')?.name ?? '', document: decoded.number } })
    const bases = new Map(determination.rows.filter((row) => row.agencyId === line.agencyId && row.base !== 0n).map((row) => [row.lineId, row.base]))
    return { agencyId: agency ?? '', accountId: accountId(line.account), base: text(sum(bases.values())), tax: text(line.credit - line.debit) }
  })
  const request: BookingRequest = {
    externalId: externalIdOf(entityId, stored.system_id, stored.document_id), number: decoded.number, kind: 'invoice', postingDate: decoded.documentDate, currency: decoded.currency,
    party: decoded.party, receivableAccountId: accountOf('receivable'), memo: `${from.row.name} ${decoded.number}`.slice(0, 400),
    lines: decoded.lines.map((line) => ({
      id: line.id, kind: line.kind, description: line.description, accountId: accountOf(line.kind === 'shipping' ? 'shipping' : 'revenue'), net: text(line.net),
      taxRate: line.taxRateId === null ? null : ledgerRate(line.taxRateId, from, ledger),
    })),
    taxes: asGiven ? taxes : null,
  }
  return { blocked, request: blocked.length === 0 ? request : null }
}

function ledgerRate(sourceRateId: string, from: HeldSystem, ledger: HeldSystem): { id: string } | { name: string } {
  const combined = from.combinedRateOf(sourceRateId)
  const id = combined === null ? undefined : ledger.linkedTo('combined-rate', combined)[0]
  return id === undefined ? { name: rateName(from, sourceRateId) } : { id }
}

function rateName(from: HeldSystem, rateId: string): string {
  return from.rates.find((rate) => rate.id === rateId)?.value.name ?? rateId
}

function inWords(code: Finding['code'], facts: Facts): Facts {
  const { currency = 'USD', stated, expected } = facts
  if (code !== 'AXION_STATED_NOT_EXPECTED' || stated === undefined || expected === undefined) return facts
  return { ...facts, stated: formatAmount(BigInt(stated), currency), expected: formatAmount(BigInt(expected), currency) }
}

