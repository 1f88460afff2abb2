import { decodeDocument, toTaxDocument, type DecodedDocument, type JournalEntry, type SourceDocument } from '@axion/contract'
import {
  bookedVoice, determine, expectedVoice, parseAmount, resolveAgencies, statedVoice,
  type AccountType, type BaselineIndex, type Determination, type Entry, type RoundingPlace, type TaxDocument, type VoiceFacts,
} from '@axion/core'
import type { HeldSystem } from '../connect/held.ts'

export interface StoredDocument {
  readonly system_id: string
  readonly document_id: string
  readonly revision: string
  readonly status: string
  readonly value: SourceDocument
}

export interface StoredEntry {
  readonly system_id: string
  readonly entry_id: string
  readonly external_id: string | null
  readonly booking_revision: string | null
  readonly posting_date: string
  readonly period: string
  readonly voided: boolean
  readonly changed_by: string
  readonly value: JournalEntry
}

/** A source document with what the baseline makes of it. */
export interface SourceUnit {
  readonly stored: StoredDocument
  readonly decoded: DecodedDocument
  readonly document: TaxDocument
  readonly determination: Determination
  readonly stated: VoiceFacts
  readonly expected: VoiceFacts
}

const NOTHING: VoiceFacts = { facts: [], nets: [] }

export function externalIdOf(entityId: string, systemId: string, documentId: string): string {
  return `${entityId}/${systemId}/${documentId}/invoice`
}

/** What the source states and the baseline expects of a document. A void document states and expects nothing. */
export function sourceUnit(stored: StoredDocument, system: HeldSystem, index: BaselineIndex): SourceUnit {
  const decoded = decodeDocument(stored.value)
  const document = toTaxDocument(stored.document_id, decoded, index.itemTaxCodeOf)
  const determination = determine(document, index)
  const taxes = decoded.taxes.flatMap((tax) =>
    tax.components?.map((c) => ({ agency: system.agencyOf(c.agencyId), base: tax.base, tax: c.tax })) ?? [{ agency: null, base: tax.base, tax: tax.tax }],
  )
  const isVoid = stored.status === 'void'
  return {
    stored, decoded, document, determination,
    stated: isVoid ? NOTHING : statedVoice(document, taxes),
    expected: isVoid ? NOTHING : expectedVoice(document, determination, index),
  }
}

const ACCOUNT_TYPES: Readonly<Record<string, AccountType>> = { receivable: 'receivable', income: 'income', 'current-liability': 'liability', liability: 'liability' }

/** What the ledger's journal says of these entries. A voided entry says nothing. */
export function bookedUnit(entries: readonly StoredEntry[], ledger: HeldSystem, taxAccounts: ReadonlySet<string>, expected: VoiceFacts): VoiceFacts {
  const standing = entries.filter((entry) => !entry.voided).map(({ value }): Entry => ({
    postingDate: value.postingDate,
    currency: value.currency,
    lines: value.lines.map((line) => {
      const account = ledger.accounts.find((a) => a.id === line.accountId)?.value
      return {
        account: account?.number ?? line.accountId,
        accountType: ACCOUNT_TYPES[account?.type ?? ''] ?? 'other',
        isTax: line.agencyId !== null,
        agency: line.agencyId === null ? null : (ledger.agencyOf(line.agencyId) ?? null),
        debit: parseAmount(line.debit, value.currency),
        credit: parseAmount(line.credit, value.currency),
        base: line.base === null ? null : parseAmount(line.base, value.currency),
      }
    }),
  }))
  return resolveAgencies(bookedVoice(standing, taxAccounts), expected)
}

const PLACES: readonly Pick<RoundingPlace, 'level' | 'unit'>[] = (['unit', 'line', 'document'] as const).flatMap((level) =>
  (['component', 'combined'] as const).map((unit) => ({ level, unit })),
)
const TIES: readonly RoundingPlace['tie'][] = ['half-away', 'half-even', 'truncate']

/** The expected voice at every other place of K1: another level or unit, or another tie mode as they are. */
export function otherRoundings({ document, determination }: SourceUnit, index: BaselineIndex): VoiceFacts[] {
  const own = determination.rounding
  if (!own || !determination.complete) return []
  const places = [...PLACES.map((place) => ({ ...place, tie: own.tie })), ...TIES.map((tie) => ({ ...own, tie }))]
  return places
    .filter((place) => place.level !== own.level || place.unit !== own.unit || place.tie !== own.tie)
    .map((rounding) => expectedVoice(document, determine(document, index, { rounding }), index))
}
