import type { ChainLine, ChainLink, Evidence, Selector } from '@axion/contract'
import {
  formatAmount,
  formatPercent,
  isTaxed,
  parseAmount,
  recoverableTax,
  roleOfLines,
  sum,
  type BaselineIndex,
  type Journal,
  type TaxRow,
} from '@axion/core'
import type { HeldSystem } from '../connect/held.ts'
import type { Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { reproducedFacts } from './causes.ts'
import { familiesOf } from './families.ts'
import { recordOf } from './records.ts'
import { groundsOf } from './prove.ts'
import {
  bookedAccounts,
  bookedUnit,
  entryOf,
  externalStem,
  sourceUnit,
  stemOf,
  type SourceUnit,
  type StoredDocument,
  type StoredEntry,
} from './units.ts'
import type { Reproduced } from './weigh.ts'

interface UnitRow {
  readonly unit_id: string
  readonly number: string
  readonly party: string
  readonly document_date: string
  readonly system_id: string
  readonly document_id: string | null
  readonly kind: string
  readonly period: string
  readonly currency: string
  readonly exchange_rate: string | null
  readonly headline: string | null
  readonly proved: boolean
  readonly assumptions: Reproduced[]
}

interface Parts {
  readonly unit: UnitRow
  readonly source: SourceUnit | null
  readonly from: HeldSystem | undefined
  readonly ledger: HeldSystem | undefined
  readonly booking:
    { readonly journal: Journal | null; readonly state: string; readonly revision: number } | undefined
  readonly entries: readonly StoredEntry[]
  readonly index: BaselineIndex
  readonly closing: ReadonlyMap<string, bigint>
  /** The document's own. */
  readonly currency: string
  readonly baseCurrency: string
}

/** What a chain follows: one agency's tax, all of the document's tax, its net, or the whole document with both journals. */
type Thread =
  | { readonly kind: 'tax'; readonly agency: string | null }
  | { readonly kind: 'net' }
  | { readonly kind: 'whole' }

/** The chain behind a document's amount, link by link, in the document's currency; a gap stands where a link does not equal the one before it. */
export async function chainOf(
  trx: Transaction,
  entityId: string,
  month: string,
  currency: string,
  selector: Selector,
  amount: bigint,
): Promise<Evidence> {
  const parts = await partsOf(trx, entityId, month, selector.unit ?? '')
  const thread: Thread =
    selector.of === 'total'
      ? { kind: 'whole' }
      : ['net', 'unproved-net', 'lines'].includes(selector.of)
        ? { kind: 'net' }
        : { kind: 'tax', agency: selector.agency || null }
  const links = [
    sourceLink(parts, thread),
    determinationLink(parts, thread),
    bookingLink(parts, thread),
    ledgerLink(parts, thread),
    accountLink(parts, thread),
  ]
  const chain = withGaps(links, parts.currency)
  const broken = chain.findIndex((link) => link.gap !== null && parseAmount(link.gap, parts.currency) !== 0n)
  // What agrees in its own currency and not in the books' breaks in the ledger.
  const breaksAt =
    broken < 0 && parts.unit.headline === 'currency'
      ? chain.findIndex((link) => link.role === 'ledger')
      : broken
  const systems = [parts.from, parts.ledger].filter((s): s is HeldSystem => s !== undefined)
  const { unit } = parts
  return {
    kind: 'chain',
    selector,
    currency,
    amount: formatAmount(amount, currency),
    chain,
    breaksAt: breaksAt < 0 ? null : breaksAt,
    headline: unit.headline,
    proved: unit.proved,
    document: {
      number: unit.number,
      party: unit.party,
      date: unit.document_date,
      unit: unit.unit_id,
      kind: unit.kind,
    },
    chainCurrency: parts.currency,
    exchangeRate: unit.exchange_rate,
    agency:
      thread.kind === 'tax' && thread.agency !== null
        ? (parts.index.agency(thread.agency)?.name ?? thread.agency)
        : null,
    causes: unit.assumptions.map((reproduced) =>
      reproducedFacts(reproduced, unit.system_id, month, systems, parts.index),
    ),
  }
}

async function partsOf(trx: Transaction, entityId: string, month: string, unitId: string): Promise<Parts> {
  const unit = await unitRow(trx, entityId, unitId)
  if (!unit) throw new Problem('AXION_NOT_FOUND', { what: 'such document in this month' })
  const { index, systems, baseCurrency } = await groundsOf(trx, entityId)
  const ledger = systems.find((s) => s.row.role === 'ledger')
  const from = systems.find((s) => s.row.system_id === unit.system_id)
  const own = { entity_id: entityId, system_id: unit.system_id, document_id: unit.document_id }
  const record = unitId.startsWith('rec:')
    ? await recordOf(trx, entityId, unit.system_id, unit.document_id ?? '')
    : null
  const stored =
    record?.stored ??
    (unit.document_id === null
      ? undefined
      : ((await trx('source_document').where(own).first()) as StoredDocument | undefined))
  const booking =
    unit.document_id === null
      ? undefined
      : await trx('booking')
          .where({ ...own, kind: unit.kind })
          .first()
  const stem = externalStem(entityId, unit.system_id, unit.document_id ?? '')
  const entries = (
    (await trx('ledger_entry')
      .where({ entity_id: entityId })
      .modify(
        (q) =>
          void (unit.document_id === null
            ? q.where({ entry_id: unitId.split(':').slice(2).join(':') })
            : q.whereRaw('starts_with(external_id, ?)', [stem])),
      )
      .orderBy('entry_id')) as StoredEntry[]
  ).filter((entry) => unit.document_id === null || stemOf(entry.external_id ?? '') === stem)
  const balances = (await trx('ledger_balance').where({ entity_id: entityId, period: month })) as {
    account: string
    closing: string
  }[]
  const families = record
    ? () => record.family
    : stored
      ? await familiesOf(trx, entityId, [stored])
      : () => null
  return {
    unit,
    source: stored && from ? sourceUnit(stored, from, index, baseCurrency, families(stored)) : null,
    from,
    ledger,
    booking,
    entries,
    index,
    currency: unit.currency,
    baseCurrency,
    closing: new Map(balances.map((b) => [b.account, BigInt(b.closing)])),
  }
}

/** A unit as it is tied out, or a document that is analysed and not booked yet. */
async function unitRow(trx: Transaction, entityId: string, unitId: string): Promise<UnitRow | undefined> {
  if (!unitId.startsWith('rec:'))
    return (await trx('tie_unit').where({ entity_id: entityId, unit_id: unitId }).first()) as
      UnitRow | undefined
  const row = (await trx('record_unit')
    .where({ entity_id: entityId, unit_id: unitId })
    .first('*', 'record_id as document_id')) as
    Omit<UnitRow, 'headline' | 'proved' | 'assumptions'> | undefined
  return row && { ...row, headline: null, proved: false, assumptions: [] }
}

type Open = Omit<ChainLink, 'gap' | 'amount'> & { readonly units: bigint | null }

const KIND_WORDS: Readonly<Record<string, string>> = {
  invoice: 'Invoice',
  'credit-note': 'Credit note',
  receipt: 'Receipt',
  refund: 'Refund',
  order: 'Order',
  return: 'Return',
  bill: 'Bill',
  'supplier-credit': 'Supplier credit',
}

function sourceLink(parts: Parts, thread: Thread): Open {
  const { source, from, currency, unit } = parts
  const wire = source?.stored.value
  const base = {
    role: 'source' as const,
    title: source ? `${KIND_WORDS[unit.kind] ?? unit.kind} ${unit.number}` : 'No source document',
    detail: from && source ? from.row.name : '',
    address: wire?.webAddress ?? null,
    balance: null,
  }
  if (!source || !wire) return { ...base, lines: [], units: null, silence: 'not-stated' }
  if (source.stored.status === 'void')
    return { ...base, detail: `${base.detail}, void`, lines: [], units: 0n, silence: null }
  const { decoded } = source
  const text = (units: bigint): string => formatAmount(units, currency)
  const line = (label: string, of: bigint | null, detail: string, units: bigint): ChainLine =>
    oneSided(label, of === null ? null : text(of), detail, units, currency)
  const inside = decoded.pricesIncludeTax
    ? [line('less the tax inside', null, '', decoded.net - decoded.total)]
    : []
  const sold = [
    ...decoded.lines.map((l) => line(l.description, null, `× ${l.quantity}`, l.amount)),
    ...(decoded.discount === 0n ? [] : [line('Discount', null, 'on the whole document', -decoded.discount)]),
    ...inside,
  ]
  if (thread.kind === 'net') return { ...base, lines: sold, units: decoded.net, silence: null }
  const taxes = decoded.taxes.flatMap((tax) => {
    const rate = from?.rates.find((r) => r.id === tax.taxRateId)
    if (!tax.components)
      return [
        {
          agency: null,
          label: rate?.value.name ?? tax.taxRateId,
          base: tax.base,
          tax: tax.tax,
          percent: rate?.value.percent,
        },
      ]
    const stated = wire.taxes.find((t) => t.taxRateId === tax.taxRateId)?.components ?? []
    return tax.components.map((c, at) => ({
      agency: from?.agencyOf(c.agencyId) ?? null,
      label:
        rate?.value.components?.find((held) => held.agencyId === c.agencyId)?.name ?? rate?.value.name ?? '',
      base: tax.base,
      tax: c.tax,
      percent: stated[at]?.percent,
    }))
  })
  if (thread.kind === 'whole') {
    const charged = decoded.taxes.map((tax) =>
      line(
        `Tax, ${from?.rates.find((r) => r.id === tax.taxRateId)?.value.name ?? tax.taxRateId}`,
        tax.base,
        '',
        tax.tax,
      ),
    )
    return { ...base, lines: [...sold, ...charged], units: decoded.total, silence: null }
  }
  const splits = thread.agency === null || taxes.every((t) => t.agency !== null || t.tax === 0n)
  const own = splits && thread.agency !== null ? taxes.filter((t) => t.agency === thread.agency) : taxes
  const lines = own.map((t) =>
    line(t.label, t.base, t.percent && Number(t.percent) !== 0 ? `at ${t.percent}\u00a0%` : '', t.tax),
  )
  return {
    ...base,
    lines,
    units: splits ? sum(own.map((t) => t.tax)) : null,
    silence: splits ? null : 'not-stated',
  }
}

const UNTAXED: Readonly<Partial<Record<TaxRow['reason'], string>>> = {
  exempt: 'exempt',
  'zero-rated': 'zero-rated',
  'out-of-scope': 'outside the scope',
  'below-threshold': 'below the threshold',
  certificate: 'certificate',
  marketplace: 'collected by the marketplace',
  'not-registered': 'not registered',
}

/** The rules that decided a line of it, by name. */
function rulesOf({ document }: SourceUnit, { baseline }: BaselineIndex): string[] {
  const ids = new Set(document.lines.flatMap((line) => line.decision?.rules ?? []))
  const names = [...new Set(baseline.lineRules.filter((rule) => ids.has(rule.id)).map((rule) => rule.name))]
  return names.length === 0 ? [] : [`by the ${names.length === 1 ? 'rule' : 'rules'} ${names.join(', ')}`]
}

function determinationLink({ source, index, currency, unit }: Parts, thread: Thread): Open {
  const base = {
    role: 'determination' as const,
    title: 'Determination',
    detail: source
      ? [
          source.determination.jurisdictions
            .slice(1)
            .map((j) => j.name)
            .join(', '),
          ...rulesOf(source, index),
        ].join('; ')
      : 'nothing is expected',
    address: null,
    balance: null,
    silence: null,
  }
  if (!source) return { ...base, lines: [], units: 0n }
  if (source.stored.status === 'void')
    return { ...base, detail: 'void: nothing is expected', lines: [], units: 0n }
  const text = (units: bigint): string => formatAmount(units, currency)
  const { rows, lines: nets } = source.determination
  const net = sum(nets.map((line) => line.net))
  const netLine = oneSided(
    'Net of all lines',
    null,
    unit.kind === 'credit-note' ? 'as its original, cumulatively' : '',
    net,
    currency,
  )
  if (thread.kind === 'net') return { ...base, lines: [netLine], units: net }
  const agency = thread.kind === 'tax' ? thread.agency : null
  const own = rows.filter((row) => agency === null || row.agencyId === agency)
  const keyOf = (r: TaxRow): string =>
    `${r.jurisdictionId}|${r.percent}|${r.reason}|${r.perUnit ? `${r.perUnit.numerator}/${r.perUnit.denominator}` : ''}`
  const lines = [...new Set(own.map(keyOf))].flatMap((key) => {
    const group = own.filter((row) => keyOf(row) === key)
    const [row] = group
    if (!row) return []
    const name = index.jurisdiction(row.jurisdictionId)?.name ?? row.jurisdictionId
    return isTaxed(row)
      ? [
          {
            ...oneSided(
              name,
              text(sum(group.map((r) => r.base))),
              row.perUnit
                ? 'per unit'
                : `at ${formatPercent(row.percent)}\u00a0%${onTop(row, group, rows, currency, index)}`,
              sum(group.map((r) => r.tax)),
              currency,
            ),
            since: row.source.rateVersion?.split('@')[1] ?? null,
          },
        ]
      : [oneSided(name, text(sum(group.map((r) => r.net))), UNTAXED[row.reason] ?? row.reason, 0n, currency)]
  })
  const tax = sum(own.map((r) => r.tax))
  const back = recoverableTax(source.document, source.determination, index).filter(
    (one) => one.recoverable !== 0n && (agency === null || one.agencyId === agency),
  )
  lines.push(
    ...back.map((one) =>
      oneSided(
        index.agency(one.agencyId)?.name ?? one.agencyId,
        text(one.tax),
        'of it recoverable',
        one.recoverable,
        currency,
      ),
    ),
  )
  return thread.kind === 'whole'
    ? { ...base, lines: [netLine, ...lines], units: net + tax }
    : { ...base, lines, units: tax }
}

/** The earlier tax that stands in the base beside it (tax on tax), by whose it is. */
function onTop(
  row: TaxRow,
  group: readonly TaxRow[],
  rows: readonly TaxRow[],
  currency: string,
  index: BaselineIndex,
): string {
  const lines = new Set(group.map((one) => one.lineId))
  const earlier = row.onTopOf.flatMap((id) => {
    const tax = sum(rows.filter((r) => r.jurisdictionId === id && lines.has(r.lineId)).map((r) => r.tax))
    return tax === 0n ? [] : [`${formatAmount(tax, currency)} of ${index.jurisdiction(id)?.name ?? id}`]
  })
  return earlier.length === 0 ? '' : `, also on the ${earlier.join(' and ')}`
}

const NET_ROLES: readonly string[] = ['revenue', 'shipping', 'discount']
const OWING_ROLES: readonly string[] = ['receivable', 'reimbursement']

/** What is owed on the whole: debits less credits. */
function owed(lines: readonly { readonly debit: bigint; readonly credit: bigint }[]): bigint {
  return sum(lines.map((line) => line.debit - line.credit))
}

function bookingLink({ booking, index, currency }: Parts, thread: Thread): Open {
  const base = {
    role: 'booking' as const,
    title: booking ? `Booking, revision ${booking.revision}` : 'Booking',
    detail: booking?.state.replace('-', ' ') ?? 'not composed yet',
    address: null,
    balance: null,
  }
  if (!booking?.journal) return { ...base, lines: [], units: null, silence: 'not-composed' }
  const lines = booking.journal.lines
    .map((line) => ({ ...line, debit: BigInt(line.debit), credit: BigInt(line.credit) }))
    .filter(
      (line) =>
        thread.kind === 'whole' ||
        (thread.kind === 'net'
          ? NET_ROLES.includes(line.role)
          : line.role === 'tax' && (thread.agency === null || line.agencyId === thread.agency)),
    )
  return {
    ...base,
    silence: null,
    units:
      thread.kind === 'whole'
        ? owed(lines.filter((line) => OWING_ROLES.includes(line.role)))
        : sum(lines.map((line) => line.credit - line.debit)),
    lines: lines.map((line) =>
      twoSided(
        line.account,
        line.agencyId === null ? line.role : (index.agency(line.agencyId)?.name ?? ''),
        line.debit,
        line.credit,
        currency,
      ),
    ),
  }
}

interface EntryLine {
  readonly account: string
  readonly role: 'tax' | 'net' | 'owing'
  readonly description: string
  readonly debit: bigint
  readonly credit: bigint
  /** Credit less debit in the books' currency. */
  readonly inBooks: bigint
}

/** The ledger's own lines of this thread, each as what the proof takes it for. */
function entryLines({ ledger, entries, index, source }: Parts, thread: Thread): EntryLine[] {
  if (!ledger) return []
  const standing = entries.filter((entry) => !entry.voided)
  const read = standing.flatMap((entry) =>
    entryOf(entry, ledger).lines.map((line, at) => ({
      line,
      description: entry.value.lines[at]?.description ?? '',
    })),
  )
  const roleOf = roleOfLines(
    read.map(({ line }) => line),
    bookedAccounts(index),
  )
  const agencies = source
    ? bookedUnit(entries, ledger, bookedAccounts(index), source.expected).facts.map((f) => f.agency)
    : null
  let taxLines = 0
  return read.flatMap(({ line, description }): EntryLine[] => {
    const role = roleOf(line)
    const agency = role === 'tax' && agencies ? (agencies[taxLines++] ?? null) : line.agency
    const own =
      thread.kind === 'whole' ||
      (role === thread.kind && (thread.kind !== 'tax' || thread.agency === null || agency === thread.agency))
    const { account, debit, credit } = line
    return own ? [{ account, role, description, debit, credit, inBooks: line.inBase ?? credit - debit }] : []
  })
}

function ledgerLink(parts: Parts, thread: Thread): Open {
  const { entries, currency, ledger } = parts
  const standing = entries.filter((entry) => !entry.voided)
  const voided = entries.length > 0 && standing.length === 0
  const base = {
    role: 'ledger' as const,
    title:
      standing.length === 0
        ? 'Ledger'
        : `${standing.length === 1 ? 'Entry' : 'Entries'} ${standing.map((e) => e.value.number).join(', ')}`,
    detail:
      standing.length === 0
        ? voided
          ? `voided there by ${entries[0]?.changed_by ?? ''}`
          : 'nothing in its journal'
        : `${ledger?.row.name ?? ''}, by ${standing.at(-1)?.changed_by ?? ''}`,
    address: (standing[0] ?? entries[0])?.value.webAddress ?? null,
    balance: null,
  }
  if (standing.length === 0) return { ...base, lines: [], units: null, silence: 'not-booked' }
  const foreign = standing.find((entry) => entry.value.currency !== currency)
  if (foreign)
    return {
      ...base,
      detail: `${base.detail}, in ${foreign.value.currency}`,
      lines: foreign.value.lines.map((l) =>
        twoSided(
          ledger?.accountNumber(l.accountId) ?? l.accountId,
          l.description,
          parseAmount(l.debit, foreign.value.currency),
          parseAmount(l.credit, foreign.value.currency),
          foreign.value.currency,
        ),
      ),
      units: null,
      silence: 'not-booked',
    }
  const lines = entryLines(parts, thread)
  const total =
    thread.kind === 'whole'
      ? owed(lines.filter((l) => l.role === 'owing'))
      : sum(lines.map((l) => l.credit - l.debit))
  const inBooks =
    currency === parts.baseCurrency
      ? null
      : `${formatAmount(thread.kind === 'whole' ? -sum(lines.filter((l) => l.role === 'owing').map((l) => l.inBooks)) : sum(lines.map((l) => l.inBooks)), parts.baseCurrency)} ${parts.baseCurrency} in the books, by ${standing.at(-1)?.changed_by ?? ''}`
  return {
    ...base,
    detail: inBooks ?? base.detail,
    silence: null,
    units: total,
    lines: lines.map((l) => twoSided(l.account, l.description, l.debit, l.credit, currency)),
  }
}

/** What of it reached the accounts where it belongs, by the posting rules of the document's date; what lies elsewhere stands first. */
function accountLink(parts: Parts, thread: Thread): Open {
  const { source, index, ledger, closing, currency, baseCurrency, entries, unit } = parts
  const isIncome = (kind: string): boolean => NET_ROLES.includes(kind)
  const rules = index.baseline.postingRules.filter((rule) =>
    thread.kind === 'whole'
      ? isIncome(rule.kind) || rule.kind === 'tax'
      : thread.kind === 'net'
        ? isIncome(rule.kind)
        : rule.kind === 'tax',
  )
  const agencies = new Set(
    source?.determination.rows.filter((row) => row.tax !== 0n).map((row) => row.agencyId) ?? [],
  )
  const wanted = rules
    .filter(
      (rule) =>
        isIncome(rule.kind) ||
        (thread.kind === 'tax' && thread.agency !== null
          ? rule.agencyId === thread.agency
          : agencies.has(rule.agencyId ?? '')),
    )
    .map((rule) => index.postingRuleOn(rule.kind, rule.agencyId, unit.document_date)?.account ?? rule.account)
  const byRule =
    thread.kind === 'tax'
      ? []
      : (source?.document.lines.flatMap((line) => line.decision?.account ?? []) ?? [])
  const accounts = [...new Set([...wanted, ...byRule])]
  const named = (number: string): string =>
    `${number} ${ledger?.accounts.find((a) => a.value.number === number)?.value.name ?? ''}`.trim()
  const base = {
    role: 'account' as const,
    title:
      accounts.length === 1
        ? named(accounts[0] ?? '')
        : accounts.length === 0
          ? 'No liability account'
          : thread.kind === 'tax'
            ? 'Liability accounts'
            : thread.kind === 'net'
              ? 'Income accounts'
              : 'Income and liability accounts',
    detail: '',
    balance:
      accounts.length === 1 && closing.has(accounts[0] ?? '')
        ? formatAmount(closing.get(accounts[0] ?? '') ?? 0n, baseCurrency)
        : null,
    address: null,
  }
  if (entries.every((entry) => entry.voided || entry.value.currency !== currency))
    return { ...base, lines: [], units: null, silence: 'not-booked' }
  const reached = entryLines(parts, thread).filter(({ role }) => role !== 'owing')
  const { roundingAccounts } = bookedAccounts(index)
  const astray = [...new Set(reached.map(({ account }) => account))].filter(
    (account) => !accounts.includes(account) && !roundingAccounts.has(account),
  )
  const lines = [...astray, ...accounts].map((account) => {
    const own = reached.filter((line) => line.account === account)
    const inBooks =
      currency === baseCurrency
        ? ''
        : `, ${formatAmount(sum(own.map((l) => l.inBooks)), baseCurrency)} ${baseCurrency} in the books`
    return {
      ...twoSided(
        named(account),
        `${astray.includes(account) ? 'does not belong here' : 'from this document'}${inBooks}`,
        sum(own.map((l) => l.debit)),
        sum(own.map((l) => l.credit)),
        currency,
      ),
      amiss: astray.includes(account),
    }
  })
  const here = reached.filter((line) => accounts.includes(line.account))
  return { ...base, silence: null, lines, units: sum(here.map((l) => l.credit - l.debit)) }
}

/** Each link that says something is compared with the last one that did. */
function withGaps(links: readonly Open[], currency: string): ChainLink[] {
  let before: bigint | null = null
  return links.map(({ units, ...link }) => {
    const gap = units === null || before === null ? null : units - before
    if (units !== null) before = units
    return {
      ...link,
      amount: units === null ? null : formatAmount(units, currency),
      gap: gap === null ? null : formatAmount(gap, currency),
    }
  })
}

/** An amount on the side of its sign: what a credit note takes back stands in debit. */
function oneSided(
  label: string,
  base: string | null,
  detail: string,
  units: bigint,
  currency: string,
): ChainLine {
  const text = formatAmount(units < 0n ? -units : units, currency)
  return {
    label,
    base,
    detail,
    since: null,
    amiss: false,
    debit: units < 0n ? text : null,
    credit: units < 0n ? null : text,
  }
}

function twoSided(
  label: string,
  detail: string,
  debit: bigint,
  creditAmount: bigint,
  currency: string,
): ChainLine {
  return {
    label,
    base: null,
    detail,
    since: null,
    amiss: false,
    debit: debit === 0n ? null : formatAmount(debit, currency),
    credit: creditAmount === 0n && debit !== 0n ? null : formatAmount(creditAmount, currency),
  }
}
