import type { Columns } from '../database/row.ts'
import {
  saying,
  decodeDocument,
  toTaxDocument,
  type DecodedDocument,
  type JournalEntry,
  type SourceDocument,
} from '@axion/contract'
import {
  absolute,
  allocate,
  bookedVoice,
  convertLines,
  decided,
  determine,
  expectedVoice,
  groupBy,
  leavesOpen,
  parseAmount,
  priced,
  resolveAgencies,
  statedVoice,
  sum,
  type AccountType,
  type BaselineIndex,
  type BookedAccounts,
  type CreditedOriginal,
  type Determination,
  type Entry,
  type Exchange,
  type Finding,
  type TaxDocument,
  type VoiceFacts,
} from '@axion/core'
import type { HeldSystem } from '../setUp/held.ts'
import type { Family } from './families.ts'

export interface StoredDocument extends Columns<
  'document',
  'system_id' | 'document_id' | 'revision' | 'status' | 'kind' | 'value' | 'not_taken' | 'posted'
> {
  readonly kind: SourceDocument['kind']
  readonly value: SourceDocument
  /** Why its system's scope leaves it out; null where it is taken. */
  readonly not_taken: 'out-of-range' | 'kind-off' | null
  /** Whether documents of its system are booked one to one so far. */
  readonly posted: boolean
}

export interface StoredEntry extends Columns<
  'ledger_entry',
  | 'system_id'
  | 'entry_id'
  | 'external_id'
  | 'booking_id'
  | 'booking_revision'
  | 'posting_date'
  | 'period'
  | 'voided'
  | 'changed_by'
  | 'value'
> {
  readonly value: JournalEntry
}

/** A source document with what the baseline makes of it. */
export interface SourceUnit {
  readonly stored: StoredDocument
  readonly decoded: DecodedDocument
  readonly document: TaxDocument
  readonly determination: Determination
  /** The document's exchange rate; a credit note's is its original's. */
  readonly exchangeRate: string | null
  readonly stated: VoiceFacts
  readonly expected: VoiceFacts
}

export const NOTHING: VoiceFacts = { facts: [], nets: [] }

/** What documents are read by: the register, and the currency of the books. */
export interface Agreed {
  readonly index: BaselineIndex
  readonly currency: string
}

/** A document in exact amounts, with what a credit note credits. */
export function taxDocumentOf(
  stored: StoredDocument,
  system: HeldSystem,
  agreed: Agreed,
  family: Family | null,
): { decoded: DecodedDocument; document: TaxDocument } {
  const { index } = agreed
  const decoded = decodeDocument(stored.value)
  const original = family ? originalOf(family, stored, system, agreed) : null
  return {
    decoded,
    document: decided(
      toTaxDocument(stored.document_id, decoded, {
        itemTaxCodeOf: (code, on) => index.itemTaxCodeOf(system.itemOf(code), on),
        system: system.row.system_id,
        itemOf: system.itemOf,
        partyOf: (id) => {
          const own = system.partyOf(id)
          return index.party(own) ? own : (genericOf(system, index) ?? own)
        },
        methodOf: system.methodOf,
        rateOf: (id) => system.combinedRateOf(id),
        baseCurrency: agreed.currency,
        original,
        // Where an outlet is agreed upon, its agreed address counts.
        outletOf: (id) => index.location(system.locationOf(id) ?? '')?.address ?? system.outletOf(id),
      }),
      index,
    ),
  }
}

/**
 * Whom everybody else of a system counts as; null where each counts as itself, also since the baseline has that customer no more, or it stands for
 * many no more: then a certificate of its own would free them all.
 */
export function genericOf(system: HeldSystem, index: BaselineIndex): string | null {
  const generic = system.genericParty()
  const party = generic === null ? undefined : index.party(generic)
  return party?.catchAll === true ? party.id : null
}

/** The original as it stands now, and how much of each of its lines earlier credit notes took. */
function originalOf(
  { original, credits }: Family,
  credit: StoredDocument,
  system: HeldSystem,
  agreed: Agreed,
): CreditedOriginal {
  const { document } = taxDocumentOf(original, system, agreed, null)
  const before = new Map<string, bigint>()
  const isEarlier = ({ value }: StoredDocument): boolean =>
    value.documentDate < credit.value.documentDate ||
    (value.documentDate === credit.value.documentDate && value.number < credit.value.number)
  for (const earlier of credits.filter(
    (c) => c.document_id !== credit.document_id && !['draft', 'void'].includes(c.status) && isEarlier(c),
  )) {
    // What a credit takes of a line is its amount less its share of the credit's own discount.
    for (const { line, amount } of priced(taxDocumentOf(earlier, system, agreed, null).document, {
      taxedBeforeDiscount: false,
    })) {
      if (line.credits != null) before.set(line.credits, (before.get(line.credits) ?? 0n) - amount)
    }
  }
  return { document, before }
}

/** What the source states and the baseline expects of a document. A void document states and expects nothing. */
export function sourceUnit(
  stored: StoredDocument,
  system: HeldSystem,
  agreed: Agreed,
  family: Family | null,
): SourceUnit {
  const { decoded, document } = taxDocumentOf(stored, system, agreed, family)
  const determination = withExchange(determine(document, agreed.index), document, agreed.currency)
  const taxes = decoded.taxes.flatMap(
    (tax) =>
      tax.components?.map((c) => ({
        rateId: tax.taxRateId,
        agency: system.agencyOf(c.agencyId),
        base: tax.base,
        tax: c.tax,
      })) ?? [{ rateId: tax.taxRateId, agency: null, base: tax.base, tax: tax.tax }],
  )
  const isVoid = stored.status === 'void'
  return {
    stored,
    decoded,
    document,
    determination,
    exchangeRate: family ? family.original.value.exchangeRate : decoded.exchangeRate,
    stated: isVoid ? NOTHING : statedVoice(document, taxes, decoded.net),
    expected: isVoid ? NOTHING : expectedVoice(document, determination, agreed.index),
  }
}

/** Without an exchange rate, nobody can say what a document comes to in the base currency. */
function withExchange(
  determination: Determination,
  document: TaxDocument,
  baseCurrency: string,
): Determination {
  if (document.currency === baseCurrency || document.exchange) return determination
  const finding: Finding = saying('AXION_NO_EXCHANGE_RATE', {
    document: document.number,
    currency: document.currency,
  })
  return { ...determination, findings: [...determination.findings, finding], complete: !leavesOpen(finding) }
}

const ACCOUNT_TYPES: Readonly<Record<string, AccountType>> = {
  receivable: 'receivable',
  income: 'income',
  'current-liability': 'liability',
  liability: 'liability',
}

/** The accounts that posting rules send tax to, and those that they or rules over lines send what is net of it to. */
export function bookedAccounts({ baseline: { postingRules, lineRules } }: BaselineIndex): BookedAccounts {
  const of = (...kinds: readonly string[]): string[] =>
    postingRules.filter((rule) => kinds.includes(rule.kind)).map((rule) => rule.account)
  return {
    taxAccounts: new Set(of('tax')),
    netAccounts: new Set([
      ...of('revenue', 'shipping', 'discount'),
      ...lineRules.flatMap(({ then }) => then.account ?? []),
    ]),
    owingAccounts: new Set(of('receivable', 'reimbursement')),
    roundingAccounts: new Set(of('rounding')),
  }
}

/** What the ledger's journal says of these entries together. A voided entry says nothing. */
export function bookedUnit(
  entries: readonly StoredEntry[],
  ledger: HeldSystem,
  accounts: BookedAccounts,
  expected: VoiceFacts,
): VoiceFacts {
  const standing = entries.filter((entry) => !entry.voided).map((entry) => entryOf(entry, ledger))
  return resolveAgencies(bookedVoice(standing, accounts), expected)
}

/** An entry as the core reads it: its lines in their order, accounts by number, agencies by the baseline's codes. */
export function entryOf({ value }: StoredEntry, ledger: HeldSystem): Entry {
  return {
    postingDate: value.postingDate,
    currency: value.currency,
    baseCurrency: value.baseCurrency,
    lines: value.lines.map((line) => {
      const account = ledger.account(line.accountId)
      return {
        account: account?.number ?? line.accountId,
        accountType: ACCOUNT_TYPES[account?.type ?? ''] ?? 'other',
        isTax: line.agencyId !== null,
        agency: line.agencyId === null ? null : (ledger.agencyOf(line.agencyId) ?? null),
        debit: parseAmount(line.debit, value.currency),
        credit: parseAmount(line.credit, value.currency),
        base: line.base === null ? null : parseAmount(line.base, value.currency),
        rateId: line.taxRateId,
        inBase:
          line.baseDebit === null || line.baseCredit === null
            ? null
            : parseAmount(line.baseCredit, value.baseCurrency) -
              parseAmount(line.baseDebit, value.baseCurrency),
      }
    }),
  }
}

/** A voice's amounts in the base currency: as it holds them, or converted at the document's rate as one journal (K7). */
export function inBaseCurrency(
  voice: VoiceFacts,
  exchange: Exchange | null,
): { readonly facts: bigint[]; readonly nets: bigint[] } {
  const own = { facts: voice.facts.map((f) => f.tax), nets: voice.nets.map((n) => n.net) }
  if (!exchange) return { facts: voice.facts.map((f) => f.inBase?.tax ?? f.tax), nets: own.nets }
  // One tax line an agency and account is what a journal has, and what is converted (K7); facts are its parts.
  const taxes = [
    ...groupBy(
      voice.facts.map((fact, at) => ({ fact, at })).filter(({ fact }) => fact.tax !== 0n),
      ({ fact }) => `${fact.agency ?? ''}|${fact.account ?? ''}`,
    ).values(),
  ]
  const lines = [
    ...own.nets.map((credit) => ({ credit, isTax: false })),
    ...taxes.map((of) => ({ credit: sum(of.map(({ fact }) => fact.tax)), isTax: true })),
  ]
  const owed = { credit: -sum(lines.map((line) => line.credit)), isTax: false }
  const converted = convertLines([...lines, owed], exchange)
  const facts = voice.facts.map(() => 0n)
  taxes.forEach((of, place) => {
    const whole = converted[own.nets.length + place] ?? 0n
    const oneSided = of.every(({ fact }) => fact.tax > 0n) || of.every(({ fact }) => fact.tax < 0n)
    const weights = of.map(({ fact }) => absolute(fact.tax))
    const parts = oneSided ? allocate(whole, weights) : weights.map((_, at) => (at === 0 ? whole : 0n))
    of.forEach(({ fact, at }, index) => {
      facts[at] = fact.inBase?.tax ?? (fact.currency === exchange.currency ? fact.tax : (parts[index] ?? 0n))
    })
  })
  return { nets: converted.slice(0, own.nets.length), facts }
}
