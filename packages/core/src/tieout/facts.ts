import { periodOf, type IsoDate, type Period } from '../baseline/dates.ts'
import { groupBy, type BaselineIndex } from '../baseline/lookup.ts'
import type { TaxDocument } from '../determination/document.ts'
import type { Determination, RowSource } from '../determination/determination.ts'
import { accountOf } from '../bookings/compose.ts'
import { discountsApart } from '../bookings/discounts.ts'
import { taxesInBase } from '../bookings/inBase.ts'
import { bookingParts } from '../bookings/parts.ts'
import { sum, type MinorUnits } from '../money/currency.ts'
import { FINEST, membersOf } from './members.ts'

export const VOICES = ['stated', 'expected', 'booked'] as const
export type Voice = (typeof VOICES)[number]

/**
 * One claim by one voice: this much tax, on this base, owed to this agency, in this account.
 * A null agency or account was not stated. A null base is not held by that voice.
 */
export interface TaxFact {
  /** Facts of one line, or of one of a system's rates, stand on the same base. */
  readonly lineId: string | null
  readonly jurisdictionId: string | null
  readonly agency: string | null
  readonly account: string | null
  readonly currency: string
  readonly period: Period
  readonly base: MinorUnits | null
  readonly tax: MinorUnits
  /** The same tax in the entity's base currency; null where the voice does not hold it, or the document is in that currency. */
  readonly inBase: { readonly currency: string; readonly tax: MinorUnits } | null
  readonly source: RowSource | null
}

/** What is net of tax, as one voice says it: revenue, shipping, discount or cost in its account; a null account was not stated. */
export interface NetFact {
  readonly account: string | null
  readonly currency: string
  readonly period: Period
  readonly net: MinorUnits
  /** A ledger's own rounding line: part of the net total, and in no account that anybody expects. */
  readonly isRounding?: boolean
}

/** All that one voice says about a tie unit: its tax facts, what is net of tax, and who owes the whole. */
export interface VoiceFacts {
  readonly facts: readonly TaxFact[]
  readonly nets: readonly NetFact[]
  /** Debits of who owes the whole, by account; looked at only where somebody edited the booking. */
  readonly owed?: readonly { readonly account: string | null; readonly amount: MinorUnits }[]
  /** Of prices with tax inside of which a line is undecided, nobody can say what is net. */
  readonly netUnknown?: boolean
}

/** Tax as a source states it. A component without a linked agency, or a rate without components, states no split. */
export interface StatedTax {
  readonly rateId: string | null
  readonly agency: string | null
  readonly base: MinorUnits | null
  readonly tax: MinorUnits
}

/** @param net the document's total less its tax, as the source states both */
export function statedVoice(document: TaxDocument, taxes: readonly StatedTax[], net: MinorUnits): VoiceFacts {
  const { currency } = document
  const period = periodOf(document.documentDate)
  return {
    facts: committedVoice(taxes, { currency, period }).facts,
    nets: [{ account: null, currency, period, net }],
  }
}

/** What a tax service keeps of a document: its tax, and nothing of what is net of it. */
export function committedVoice(
  taxes: readonly StatedTax[],
  { currency, period }: { readonly currency: string; readonly period: Period },
): VoiceFacts {
  const facts = taxes.map(({ rateId, ...tax }) => ({
    lineId: rateId,
    jurisdictionId: null,
    account: null,
    currency,
    period,
    source: null,
    inBase: null,
    ...tax,
  }))
  return { facts, nets: [], netUnknown: true }
}

/**
 * The baseline's claim: each taxed row, in its agency's liability account by the posting rule of the document's date.
 * An account is null where no posting rule sends the agency's tax anywhere.
 */
export function expectedVoice(
  document: TaxDocument,
  determination: Determination,
  index: BaselineIndex,
): VoiceFacts {
  const { currency, documentDate } = document
  const period = periodOf(documentDate)
  const inBase = taxesInBase(document, determination, index)
  return {
    facts: determination.rows.map((row, at) => ({
      lineId: row.lineId,
      jurisdictionId: row.jurisdictionId,
      agency: row.agencyId,
      account: index.postingRuleOn('tax', row.agencyId, documentDate)?.account ?? null,
      currency,
      period,
      base: row.base,
      tax: row.tax,
      inBase:
        inBase && document.exchange ? { currency: document.exchange.currency, tax: inBase[at] ?? 0n } : null,
      source: row.source,
    })),
    nets: expectedNets(document, determination, index).map((net) => ({ ...net, currency, period })),
    owed: expectedOwed(document, determination, index),
    netUnknown: document.pricesIncludeTax && determination.open.length > 0,
  }
}

/** Revenue, shipping and discount by the accounts that posting rules send them to, one amount an account. */
function expectedNets(
  document: TaxDocument,
  determination: Determination,
  index: BaselineIndex,
): { account: string | null; net: MinorUnits }[] {
  const discounts = discountsApart(document, determination, index)
  const lineOf = (id: string): TaxDocument['lines'][number] | undefined =>
    document.lines.find((line) => line.id === id)
  const taken = new Set<string>()
  const nets = bookingParts(document, determination).map(({ lineId, kind, net }) => {
    const discount = taken.has(lineId) ? 0n : (discounts.get(lineId) ?? 0n)
    taken.add(lineId)
    const role = kind === 'shipping' ? 'shipping' : 'revenue'
    return { account: accountOf(role, document, lineOf(lineId), index), net: net + discount }
  })
  const off = sum(discounts.values())
  if (off !== 0n) nets.push({ account: accountOf('discount', document, undefined, index), net: -off })
  return [...groupBy(nets, ({ account }) => account ?? '')].map(([, of]) => ({
    account: of[0]?.account ?? null,
    net: sum(of.map(({ net }) => net)),
  }))
}

function expectedOwed(
  document: TaxDocument,
  { lines, rows }: Determination,
  index: BaselineIndex,
): NonNullable<VoiceFacts['owed']> {
  const total = sum(lines.map(({ net }) => net)) + sum(rows.map(({ tax }) => tax))
  return [
    {
      account: accountOf('receivable', document, undefined, index),
      amount: total - document.reimbursed,
    },
    { account: accountOf('reimbursement', document, undefined, index), amount: document.reimbursed },
  ].filter(({ amount }) => amount !== 0n)
}

export type AccountType = 'receivable' | 'liability' | 'income' | 'other'

/** A line of the ledger's own journal, its account known by number and type. */
export interface EntryLine {
  readonly account: string
  readonly accountType: AccountType
  /** Whether the ledger itself calls it a tax line, linked agency or not. */
  readonly isTax: boolean
  readonly agency: string | null
  readonly debit: MinorUnits
  readonly credit: MinorUnits
  readonly base: MinorUnits | null
  /** The ledger's own rate that the line came from. */
  readonly rateId: string | null
  /** Credit less debit in the books' currency; null where the entry is in it. */
  readonly inBase: MinorUnits | null
}

export interface Entry {
  readonly postingDate: IsoDate
  readonly currency: string
  readonly baseCurrency: string
  readonly lines: readonly EntryLine[]
}

/** Accounts, by number, to which posting rules send tax, what is net of it besides income, what is owed on the whole, and rounding. */
export interface BookedAccounts {
  readonly taxAccounts: ReadonlySet<string>
  readonly netAccounts: ReadonlySet<string>
  readonly owingAccounts: ReadonlySet<string>
  readonly roundingAccounts: ReadonlySet<string>
}

export type LineRole = 'tax' | 'net' | 'owing'

/**
 * What each line of a unit's entries is: tax lines, and whatever else stands on tax accounts, are tax; a receivable is owed; all
 * else is net of tax, wherever somebody put it. Where entries name nobody who owes, what is neither income nor ruled to be net
 * stands for that side.
 */
export function roleOfLines(
  lines: readonly EntryLine[],
  { taxAccounts, netAccounts, owingAccounts }: BookedAccounts,
): (line: EntryLine) => LineRole {
  const isTax = (line: EntryLine): boolean => line.isTax || taxAccounts.has(line.account)
  const isNet = (line: EntryLine): boolean => line.accountType === 'income' || netAccounts.has(line.account)
  const owes = (line: EntryLine): boolean =>
    line.accountType === 'receivable' || (owingAccounts.has(line.account) && !isNet(line))
  const named = lines.some((line) => !isTax(line) && owes(line))
  return (line) => (isTax(line) ? 'tax' : isNet(line) ? 'net' : (named ? owes(line) : true) ? 'owing' : 'net')
}

/** What the ledger's journal says of the entries of one unit; credits count up. */
export function bookedVoice(entries: readonly Entry[], accounts: BookedAccounts): VoiceFacts {
  const roleOf = roleOfLines(
    entries.flatMap(({ lines }) => lines),
    accounts,
  )
  return {
    facts: entries.flatMap(({ postingDate, currency, baseCurrency, lines }) =>
      lines
        .filter((line) => roleOf(line) === 'tax')
        .map((line) => ({
          lineId: line.rateId,
          jurisdictionId: null,
          agency: line.agency,
          account: line.account,
          currency,
          period: periodOf(postingDate),
          base: line.base,
          tax: line.credit - line.debit,
          inBase: line.inBase === null ? null : { currency: baseCurrency, tax: line.inBase },
          source: null,
        })),
    ),
    nets: entries.flatMap(({ postingDate, currency, lines }) => {
      const nets = lines.filter((line) => roleOf(line) === 'net')
      const period = periodOf(postingDate)
      const byAccount = [...groupBy(nets, (line) => line.account)].map(([account, of]): NetFact => ({
        account,
        currency,
        period,
        net: sum(of.map((line) => line.credit - line.debit)),
        ...(accounts.roundingAccounts.has(account) ? { isRounding: true } : {}),
      }))
      return byAccount.length > 0 ? byAccount : [{ account: null, currency, period, net: 0n }]
    }),
    owed: entries.flatMap(({ lines }) =>
      lines
        .filter((line) => roleOf(line) === 'owing')
        .map((line) => ({ account: line.account, amount: line.debit - line.credit })),
    ),
  }
}

/**
 * A tax line without an agency counts for the agency whose amount it has (K9), in the same account where it states one.
 * Each expected member answers for one line; a line that matches none stays without an agency.
 */
export function resolveAgencies(voice: VoiceFacts, expected: VoiceFacts): VoiceFacts {
  const open = membersOf(expected, FINEST).filter((m) => !voice.facts.some((f) => f.agency === m.agency))
  const facts = voice.facts.map((fact) => {
    if (fact.agency !== null || fact.tax === 0n) return fact
    const at = open.findIndex(
      (m) =>
        m.tax === fact.tax &&
        m.period === fact.period &&
        (fact.account === null || fact.account === m.account),
    )
    return at < 0 ? fact : { ...fact, agency: open.splice(at, 1)[0]?.agency ?? null }
  })
  return { ...voice, facts }
}
