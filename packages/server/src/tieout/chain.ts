import type { ChainLine, ChainLink, Evidence, JournalEntry, Selector, SourceDocument } from '@axion/contract'
import { formatAmount, formatPercent, parseAmount, sum, type Assumption, type BaselineIndex, type Journal } from '@axion/core'
import { loadBaseline } from '../baseline/load.ts'
import { loadHeld, type HeldSystem } from '../connect/held.ts'
import type { Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { factsOf } from './causes.ts'
import { sourceUnit, type SourceUnit, type StoredEntry } from './units.ts'

interface UnitRow {
  readonly unit_id: string
  readonly number: string
  readonly party: string
  readonly document_date: string
  readonly system_id: string
  readonly document_id: string | null
  readonly headline: string | null
  readonly proved: boolean
  readonly assumptions: Assumption[]
}

interface Parts {
  readonly unit: UnitRow
  readonly source: SourceUnit | null
  readonly from: HeldSystem | undefined
  readonly ledger: HeldSystem | undefined
  readonly booking: { readonly journal: Journal | null; readonly state: string; readonly revision: number } | undefined
  readonly entries: readonly StoredEntry[]
  readonly index: BaselineIndex
  readonly closing: ReadonlyMap<string, bigint>
  readonly month: string
  readonly currency: string
}

/** What a chain follows: one agency's tax, all of the document's tax, its net, or the whole document with both journals. */
type Thread = { readonly kind: 'tax'; readonly agency: string | null } | { readonly kind: 'net' } | { readonly kind: 'whole' }

/** The chain behind a document's amount, link by link; a gap stands where a link does not equal the one before it. */
export async function chainOf(trx: Transaction, entityId: string, month: string, currency: string, selector: Selector, amount: bigint): Promise<Evidence> {
  const parts = await partsOf(trx, entityId, month, currency, selector.unit ?? '')
  const thread: Thread = selector.of === 'total' ? { kind: 'whole' } : selector.of === 'net' || selector.of === 'unproved-net' ? { kind: 'net' } : { kind: 'tax', agency: selector.agency || null }
  const links = [sourceLink(parts, thread), determinationLink(parts, thread), bookingLink(parts, thread), ledgerLink(parts, thread), accountLink(parts, thread)]
  const chain = withGaps(links, currency)
  const breaksAt = chain.findIndex((link) => link.gap !== null && parseAmount(link.gap, currency) !== 0n)
  const systems = [parts.from, parts.ledger].filter((s): s is HeldSystem => s !== undefined)
  const { unit } = parts
  return {
    kind: 'chain', selector, currency, amount: formatAmount(amount, currency), chain, breaksAt: breaksAt < 0 ? null : breaksAt, headline: unit.headline, proved: unit.proved,
    document: { number: unit.number, party: unit.party, date: unit.document_date, unit: unit.unit_id },
    agency: thread.kind === 'tax' && thread.agency !== null ? (parts.index.agency(thread.agency)?.name ?? thread.agency) : null,
    causes: unit.assumptions.map((assumption) => factsOf(assumption, month, systems, parts.index)),
  }
}

async function partsOf(trx: Transaction, entityId: string, month: string, currency: string, unitId: string): Promise<Parts> {
  const unit = (await trx('tie_unit').where({ entity_id: entityId, unit_id: unitId }).first()) as UnitRow | undefined
  if (!unit) throw new Problem('AXION_NOT_FOUND', { what: 'such document in this month' })
  const index = await loadBaseline(trx, entityId)
  const systems = await loadHeld(trx, entityId)
  const ledger = systems.find((s) => s.row.role === 'ledger')
  const from = systems.find((s) => s.row.system_id === unit.system_id)
  const stored = unit.document_id === null ? undefined : await trx('source_document').where({ entity_id: entityId, system_id: unit.system_id, document_id: unit.document_id }).first()
  const booking = unit.document_id === null ? undefined : await trx('booking').where({ entity_id: entityId, system_id: unit.system_id, document_id: unit.document_id }).first()
  const entries = (await trx('ledger_entry').where({ entity_id: entityId })
    .modify((q) => void (unit.document_id === null ? q.where({ entry_id: unitId.split(':')[2] }) : q.where({ external_id: `${entityId}/${unit.system_id}/${unit.document_id}/invoice` })))
    .orderBy('entry_id')) as StoredEntry[]
  const balances = (await trx('ledger_balance').where({ entity_id: entityId, period: month })) as { account: string; closing: string }[]
  return {
    unit, source: stored && from ? sourceUnit(stored, from, index) : null, from, ledger, booking, entries, index, month, currency,
    closing: new Map(balances.map((b) => [b.account, BigInt(b.closing)])),
  }
}

type Open = Omit<ChainLink, 'gap' | 'amount'> & { readonly units: bigint | null }

function sourceLink(parts: Parts, thread: Thread): Open {
  const { source, from, currency, unit } = parts
  const wire = source?.stored.value as SourceDocument | undefined
  const base = { role: 'source' as const, title: source ? `Invoice ${unit.number}` : 'No source document', detail: from && source ? from.row.name : '', address: wire?.webAddress ?? null, balance: null }
  if (!source) return { ...base, lines: [], units: null, silence: 'not-stated' }
  const text = (units: bigint): string => formatAmount(units, currency)
  const sold = source.decoded.lines.map((line) => credit(line.description, null, `× ${line.quantity}`, text(line.net)))
  if (thread.kind === 'net') return { ...base, lines: sold, units: sum(source.decoded.lines.map((l) => l.net)), silence: null }
  const taxes = source.decoded.taxes.flatMap((tax) => {
    const rate = from?.rates.find((r) => r.id === tax.taxRateId)
    if (!tax.components) return [{ agency: null, label: rate?.value.name ?? tax.taxRateId, base: tax.base, tax: tax.tax, percent: rate?.value.percent }]
    return tax.components.map((c) => ({
      agency: from?.agencyOf(c.agencyId) ?? null, label: rate?.value.components?.find((held) => held.agencyId === c.agencyId)?.name ?? rate?.value.name ?? '', base: tax.base, tax: c.tax,
      percent: (wire?.taxes.find((t) => t.taxRateId === tax.taxRateId)?.components ?? []).find((held) => held.agencyId === c.agencyId)?.percent,
    }))
  })
  if (thread.kind === 'whole') {
    const charged = source.decoded.taxes.map((tax) => credit(`Tax, ${from?.rates.find((r) => r.id === tax.taxRateId)?.value.name ?? tax.taxRateId}`, text(tax.base), '', text(tax.tax)))
    return { ...base, lines: [...sold, ...charged], units: source.decoded.total, silence: null }
  }
  const splits = thread.agency === null || taxes.every((t) => t.agency !== null || t.tax === 0n)
  const own = splits && thread.agency !== null ? taxes.filter((t) => t.agency === thread.agency) : taxes
  const lines = own.map((t) => credit(t.label, text(t.base), t.percent ? `at ${t.percent}\u00a0%` : '', text(t.tax)))
  return { ...base, lines, units: splits ? sum(own.map((t) => t.tax)) : null, silence: splits ? null : 'not-stated' }
}

function determinationLink({ source, index, currency }: Parts, thread: Thread): Open {
  const base = { role: 'determination' as const, title: 'Determination', detail: source ? source.determination.jurisdictions.slice(1).map((j) => j.name).join(', ') : 'nothing is expected', address: null, balance: null, silence: null }
  const text = (units: bigint): string => formatAmount(units, currency)
  if (!source) return { ...base, lines: [], units: 0n }
  const net = source.document.lines.reduce((total, line) => total + line.net, 0n)
  const netLine = credit('Net of all lines', null, '', text(net))
  if (thread.kind === 'net') return { ...base, lines: [netLine], units: net }
  const agency = thread.kind === 'tax' ? thread.agency : null
  const rows = source.determination.rows.filter((row) => agency === null || row.agencyId === agency)
  const byPlace = [...new Set(rows.map((r) => `${r.jurisdictionId}|${r.percent}|${r.reason}`))].map((key) => rows.filter((r) => `${r.jurisdictionId}|${r.percent}|${r.reason}` === key))
  const lines = byPlace.flatMap((group) => {
    const [row] = group
    if (!row) return []
    const name = index.jurisdiction(row.jurisdictionId)?.name ?? row.jurisdictionId
    const untaxed = row.reason === 'exempt' ? 'exempt' : 'not registered'
    return row.reason === 'standard'
      ? [credit(name, text(sum(group.map((r) => r.base))), `at ${formatPercent(row.percent)}\u00a0%`, text(sum(group.map((r) => r.tax))), row.source.rateVersion?.split('@')[1] ?? null)]
      : [credit(name, text(sum(group.map((r) => r.net))), untaxed, text(0n))]
  })
  const tax = sum(rows.map((r) => r.tax))
  return thread.kind === 'whole' ? { ...base, lines: [netLine, ...lines], units: net + tax } : { ...base, lines, units: tax }
}

function bookingLink({ booking, index, currency }: Parts, thread: Thread): Open {
  const base = { role: 'booking' as const, title: booking ? `Booking, revision ${booking.revision}` : 'Booking', detail: booking?.state.replace('-', ' ') ?? 'not composed yet', address: null, balance: null }
  if (!booking?.journal) return { ...base, lines: [], units: null, silence: 'not-composed' }
  const lines = booking.journal.lines.map((line) => ({ ...line, debit: BigInt(line.debit), credit: BigInt(line.credit) }))
    .filter((line) => thread.kind === 'whole' || (thread.kind === 'net' ? line.role === 'revenue' || line.role === 'shipping' : line.role === 'tax' && (thread.agency === null || line.agencyId === thread.agency)))
  return {
    ...base, silence: null, units: thread.kind === 'whole' ? sum(lines.map((line) => line.debit)) : sum(lines.map((line) => line.credit - line.debit)),
    lines: lines.map((line) => twoSided(line.account, line.agencyId === null ? line.role : (index.agency(line.agencyId)?.name ?? ''), line.debit, line.credit, currency)),
  }
}

/** The ledger's own lines of this thread: tax lines of the agency, or lines on income accounts. */
function entryLines({ ledger, entries, currency }: Parts, thread: Thread): { readonly account: string; readonly description: string; readonly debit: bigint; readonly credit: bigint }[] {
  return entries.filter((entry) => !entry.voided).flatMap((entry) => (entry.value as JournalEntry).lines.flatMap((line) => {
    const account = ledger?.accounts.find((a) => a.id === line.accountId)?.value
    const agency = line.agencyId === null ? null : (ledger?.agencyOf(line.agencyId) ?? null)
    const isTax = line.agencyId !== null || account?.type === 'current-liability'
    const own = thread.kind === 'whole' || (thread.kind === 'net' ? account?.type === 'income' && !isTax : isTax && (thread.agency === null || agency === thread.agency))
    return own ? [{ account: account?.number ?? line.accountId, description: line.description, debit: parseAmount(line.debit, currency), credit: parseAmount(line.credit, currency) }] : []
  }))
}

function ledgerLink(parts: Parts, thread: Thread): Open {
  const { entries, currency, ledger } = parts
  const standing = entries.filter((entry) => !entry.voided)
  const base = {
    role: 'ledger' as const, title: standing.length === 0 ? 'Ledger' : standing.map((e) => `Entry ${e.value.number}`).join(', '),
    detail: standing.length === 0 ? 'nothing in its journal' : `${ledger?.row.name ?? ''}, by ${standing[0]?.changed_by ?? ''}`, address: standing[0]?.value.webAddress ?? null, balance: null,
  }
  if (standing.length === 0) return { ...base, lines: [], units: null, silence: 'not-booked' }
  const lines = entryLines(parts, thread)
  const total = thread.kind === 'whole' ? sum(lines.map((l) => l.debit)) : sum(lines.map((l) => l.credit - l.debit))
  return { ...base, silence: null, units: total, lines: lines.map((l) => twoSided(l.account, l.description, l.debit, l.credit, currency)) }
}

/** What of it reached the accounts where it belongs, by the posting rules of the document's date. */
function accountLink(parts: Parts, thread: Thread): Open {
  const { source, index, ledger, closing, currency, entries, unit } = parts
  const isIncome = (kind: string): boolean => kind === 'revenue' || kind === 'shipping'
  const rules = index.baseline.postingRules.filter((rule) => (thread.kind === 'whole' ? isIncome(rule.kind) || rule.kind === 'tax' : thread.kind === 'net' ? isIncome(rule.kind) : rule.kind === 'tax'))
  const agencies = new Set(source?.determination.rows.filter((row) => row.tax !== 0n).map((row) => row.agencyId) ?? [])
  const wanted = rules.filter((rule) => isIncome(rule.kind) || (thread.kind === 'tax' && thread.agency !== null ? rule.agencyId === thread.agency : agencies.has(rule.agencyId ?? '')))
    .map((rule) => index.postingRuleOn(rule.kind, rule.agencyId, unit.document_date)?.account ?? rule.account)
  const accounts = [...new Set(wanted)]
  const named = (number: string): string => `${number} ${ledger?.accounts.find((a) => a.value.number === number)?.value.name ?? ''}`.trim()
  const base = {
    role: 'account' as const, title: accounts.length === 1 ? named(accounts[0] ?? '') : accounts.length === 0 ? 'No liability account' : thread.kind === 'tax' ? 'Liability accounts' : thread.kind === 'net' ? 'Income accounts' : 'Income and liability accounts',
    detail: '', balance: accounts.length === 1 && closing.has(accounts[0] ?? '') ? formatAmount(closing.get(accounts[0] ?? '') ?? 0n, currency) : null, address: null,
  }
  if (entries.every((entry) => entry.voided)) return { ...base, lines: [], units: null, silence: 'not-booked' }
  const here = entryLines(parts, thread).filter((line) => accounts.includes(line.account))
  const lines = accounts.map((account) => {
    const own = here.filter((line) => line.account === account)
    return twoSided(named(account), 'from this document', sum(own.map((l) => l.debit)), sum(own.map((l) => l.credit)), currency)
  })
  return { ...base, silence: null, lines, units: sum(here.map((l) => l.credit - l.debit)) }
}

/** Each link that says something is compared with the last one that did. */
function withGaps(links: readonly Open[], currency: string): ChainLink[] {
  let before: bigint | null = null
  return links.map(({ units, ...link }) => {
    const gap = units === null || before === null ? null : units - before
    if (units !== null) before = units
    return { ...link, amount: units === null ? null : formatAmount(units, currency), gap: gap === null ? null : formatAmount(gap, currency) }
  })
}

function credit(label: string, base: string | null, detail: string, amount: string, since: string | null = null): ChainLine {
  return { label, base, detail, since, debit: null, credit: amount }
}

function twoSided(label: string, detail: string, debit: bigint, creditAmount: bigint, currency: string): ChainLine {
  return { label, base: null, detail, since: null, debit: debit === 0n ? null : formatAmount(debit, currency), credit: creditAmount === 0n && debit !== 0n ? null : formatAmount(creditAmount, currency) }
}
