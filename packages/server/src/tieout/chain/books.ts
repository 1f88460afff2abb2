import { formatAmount, parseAmount, roleOfLines, sum } from '@axion/core'
import { bookedAccounts, bookedUnit, entryOf } from '../../documents/units.ts'
import { NET_ROLES, owed, twoSided, type Open, type Parts, type Thread } from './parts.ts'

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

export function ledgerLink(parts: Parts, thread: Thread): Open {
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
  if (parts.unit.kind === 'unread-entry')
    return {
      ...base,
      title: parts.unit.number,
      detail: `${ledger?.row.name ?? ''}: cannot be read`,
      lines: [],
      units: null,
      silence: 'not-known',
    }
  if (standing.length === 0) return { ...base, lines: [], units: null, silence: 'not-booked' }
  const foreign = standing.find((entry) => entry.value.currency !== currency)
  if (foreign)
    return {
      ...base,
      detail: `${base.detail}, in ${foreign.value.currency}`,
      lines: foreign.value.lines.map((l) =>
        twoSided(
          { label: ledger?.accountNumber(l.accountId) ?? l.accountId, detail: l.description },
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
  return {
    ...base,
    inBase:
      thread.kind === 'whole'
        ? -sum(lines.filter((l) => l.role === 'owing').map((l) => l.inBooks))
        : sum(lines.map((l) => l.inBooks)),
    silence: null,
    units: total,
    lines: lines.map((l) =>
      twoSided({ label: l.account, detail: l.description }, l.debit, l.credit, currency),
    ),
  }
}

/** What of it reached the accounts where it belongs, by the posting rules of the document's date; what lies elsewhere stands first. */
export function accountLink(parts: Parts, thread: Thread): Open {
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
    return {
      ...twoSided(
        {
          label: named(account),
          detail: astray.includes(account) ? 'does not belong here' : 'from this document',
        },
        sum(own.map((l) => l.debit)),
        sum(own.map((l) => l.credit)),
        currency,
      ),
      amiss: astray.includes(account),
      inBase: currency === baseCurrency ? null : formatAmount(sum(own.map((l) => l.inBooks)), baseCurrency),
    }
  })
  const here = reached.filter((line) => accounts.includes(line.account))
  return {
    ...base,
    silence: null,
    lines,
    units: sum(here.map((l) => l.credit - l.debit)),
    inBase: sum(here.map((l) => l.inBooks)),
  }
}
