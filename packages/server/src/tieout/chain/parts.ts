import type { Columns } from '../../database/row.ts'
import type { ChainLine, ChainLink } from '@axion/contract'
import { formatAmount, sum, type BaselineIndex, type Journal } from '@axion/core'
import { type SourceUnit, type StoredEntry } from '../../documents/units.ts'
import type { HeldSystem } from '../../setUp/held.ts'
import type { Trouble } from '../causes.ts'

export interface UnitRow
  extends
    Omit<Trouble, 'cause' | 'headline'>,
    Columns<
      'unit',
      | 'unit_id'
      | 'number'
      | 'party'
      | 'document_date'
      | 'document_id'
      | 'entry_id'
      | 'named'
      | 'kind'
      | 'posted'
      | 'period'
      | 'currency'
      | 'exchange_rate'
      | 'cause'
      | 'headline'
      | 'proved'
      | 'settled'
      | 'settled_with'
      | 'core_version'
    > {
  readonly settled: 'kept' | 'cured' | null
  /** To the microsecond, as the entity records time. */
  readonly determined_at: string
  readonly core_version: number
}

export interface Parts {
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

/** Whether nothing of it, or of the entry that it is, could ever be read. */
export function isUnread({ kind }: UnitRow): boolean {
  return kind === 'unread' || kind === 'unread-entry'
}

/** What a chain follows: one agency's tax, all of the document's tax, its net, or the whole document with both journals. */
export type Thread =
  | { readonly kind: 'tax'; readonly agency: string | null }
  | { readonly kind: 'net' }
  | { readonly kind: 'whole' }

export type Open = Omit<ChainLink, 'gap' | 'amount' | 'inBase' | 'gapInBase'> & {
  readonly units: bigint | null
  /** In the books' currency, where it is another than the document's. */
  readonly inBase?: bigint | null
}

export const NET_ROLES: readonly string[] = ['revenue', 'shipping', 'discount']
export const OWING_ROLES: readonly string[] = ['receivable', 'reimbursement']

/** What is owed on the whole: debits less credits. */
export function owed(lines: readonly { readonly debit: bigint; readonly credit: bigint }[]): bigint {
  return sum(lines.map((line) => line.debit - line.credit))
}

/** An amount on the side of its sign: what a credit note takes back stands in debit. */
export function oneSided(
  { label, base, detail }: { readonly label: string; readonly base: string | null; readonly detail: string },
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

export function twoSided(
  { label, detail }: { readonly label: string; readonly detail: string },
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
