import { periodOf, type IsoDate, type Period } from '../baseline/dates.ts'
import { groupBy, type BaselineIndex } from '../baseline/lookup.ts'
import type { TaxDocument } from '../determination/document.ts'
import type { Determination, RowSource } from '../determination/determination.ts'
import { taxesInBase } from '../bookings/inBase.ts'
import { sum, type MinorUnits } from '../money/currency.ts'
import { remembered } from '../remembered.ts'

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

/** All that one voice says about a tie unit: its tax facts, and its net total per currency and period. */
export interface VoiceFacts {
  readonly facts: readonly TaxFact[]
  readonly nets: readonly { readonly currency: string; readonly period: Period; readonly net: MinorUnits }[]
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
    facts: taxes.map(({ rateId, ...tax }) => ({
      lineId: rateId,
      jurisdictionId: null,
      account: null,
      currency,
      period,
      source: null,
      inBase: null,
      ...tax,
    })),
    nets: [{ currency, period, net }],
  }
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
  const inBase = taxesInBase(document, determination)
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
    nets: [{ currency, period, net: sum(determination.lines.map((line) => line.net)) }],
  }
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

/** Accounts, by number, to which posting rules send tax, and to which they send what is net of it besides income. */
export interface BookedAccounts {
  readonly taxAccounts: ReadonlySet<string>
  readonly netAccounts: ReadonlySet<string>
}

/** What the ledger's journal says: its tax lines, and whatever else stands on tax accounts, are tax; income lines are net; credits count up. */
export function bookedVoice(
  entries: readonly Entry[],
  { taxAccounts, netAccounts }: BookedAccounts,
): VoiceFacts {
  const isTax = (line: EntryLine): boolean => line.isTax || taxAccounts.has(line.account)
  return {
    facts: entries.flatMap(({ postingDate, currency, baseCurrency, lines }) =>
      lines.filter(isTax).map((line) => ({
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
    nets: entries.map(({ postingDate, currency, lines }) => ({
      currency,
      period: periodOf(postingDate),
      net: lines
        .filter((line) => (line.accountType === 'income' || netAccounts.has(line.account)) && !isTax(line))
        .reduce((t, line) => t + line.credit - line.debit, 0n),
    })),
  }
}

/** A member of the compared sets (K9): facts of one agency, account, currency and period, added up. */
export interface Member {
  readonly agency: string | null
  readonly account: string | null
  readonly currency: string
  readonly period: Period
  /** Each line's base once per agency, the largest among its jurisdictions; null where the voice holds none. */
  readonly base: MinorUnits | null
  readonly tax: MinorUnits
  readonly inBase: { readonly currency: string; readonly tax: MinorUnits } | null
}

export interface Grain {
  readonly agency: boolean
  readonly account: boolean
  /** Whether taxable bases are held, and amounts in the base currency. */
  readonly bases: boolean
  readonly inBase: boolean
}

export const FINEST: Grain = { agency: true, account: true, bases: true, inBase: true }

/** The finest grain that a voice states throughout: nil facts are none and do not coarsen it. */
export function grainOf({ facts }: VoiceFacts): Grain {
  const telling = facts.filter((fact) => fact.tax !== 0n)
  return {
    agency: telling.every((f) => f.agency !== null),
    account: telling.every((f) => f.account !== null),
    bases: telling.every((f) => f.base !== null),
    inBase: telling.every((f) => f.inBase !== null),
  }
}

/** Adds facts up at a grain; members whose tax is nil are left out. Voices never change, so what they add up to is kept with them. */
export function membersOf(voice: VoiceFacts, grain: Grain): readonly Member[] {
  return remembered(KEPT, voice, `${grain.agency}${grain.account}${grain.bases}${grain.inBase}`, () =>
    addedUp(voice, grain),
  )
}

const KEPT = new WeakMap<VoiceFacts, Map<string, readonly Member[]>>()

function addedUp({ facts }: VoiceFacts, grain: Grain): Member[] {
  const rowOf = ({
    agency,
    account,
    currency,
    period,
  }: TaxFact): Omit<Member, 'base' | 'tax' | 'inBase'> => ({
    agency: grain.agency ? agency : null,
    account: grain.account ? account : null,
    currency,
    period,
  })
  const groups = groupBy(facts, (fact) => memberKey(rowOf(fact)))
  return [...groups]
    .map(([key, group]) => ({
      key,
      member: {
        ...rowOf(group[0] as TaxFact),
        base: grain.bases ? baseOf(group, grain.agency) : null,
        tax: group.reduce((t, f) => t + f.tax, 0n),
        inBase: grain.inBase ? inBaseOf(group) : null,
      },
    }))
    .filter(({ member }) => member.tax !== 0n)
    .sort((a, b) => (a.key < b.key ? -1 : 1))
    .map(({ member }) => member)
}

export function memberKey(m: {
  readonly agency: string | null
  readonly account: string | null
  readonly currency: string
  readonly period: string
}): string {
  return `${m.agency ?? ''}|${m.account ?? ''}|${m.currency}|${m.period}`
}

function inBaseOf(group: readonly TaxFact[]): Member['inBase'] {
  const held = group.flatMap(({ inBase }) => (inBase ? [inBase] : []))
  return held[0] ? { currency: held[0].currency, tax: sum(held.map(({ tax }) => tax)) } : null
}

function baseOf(group: readonly TaxFact[], byAgency: boolean): MinorUnits | null {
  if (group.some((fact) => fact.base === null && fact.tax !== 0n)) return null
  if (group.length === 1) return group[0]?.base ?? 0n
  const perLineAndAgency = groupBy(
    group,
    (fact) => `${fact.lineId ?? ''}|${byAgency ? (fact.agency ?? '') : ''}`,
  )
  let total = 0n
  for (const facts of perLineAndAgency.values()) {
    // Parts of one jurisdiction stand beside each other; jurisdictions of one agency stand on the same base.
    const perJurisdiction = [
      ...groupBy(
        facts.map((fact, at) => ({ ...fact, at })),
        (f) => f.jurisdictionId ?? `#${f.at}`,
      ).values(),
    ].map((of) => sum(of.map((f) => f.base ?? 0n)))
    total += perJurisdiction.reduce((largest, base) => (size(base) > size(largest) ? base : largest), 0n)
  }
  return total
}

function size(amount: MinorUnits): MinorUnits {
  return amount < 0n ? -amount : amount
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
