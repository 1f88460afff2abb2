import { parseAmount } from '@axion/core'
import { isReversal, reversalIdsSql } from './ids.ts'
import { type StoredEntry } from './units.ts'

/** SQL: what takes back the entry `e`, and stands. */
export const TAKEN_BACK = `exists (select from ledger_entry v where v.entity_id = e.entity_id and not v.voided and v.entry_id <> e.entry_id
  and v.external_id in ${reversalIdsSql('e')})`

/**
 * What the ledger holds of a document: not voided, and without the entries that another takes back to the last cent, and those that do.
 * @param entries of one document
 */
export function standing(entries: readonly StoredEntry[]): StoredEntry[] {
  const left = entries.filter((entry) => !entry.voided)
  for (const reversal of left.filter((entry) => isReversal(entry.external_id))) {
    const opposite = moves(reversal, -1n)
    const undone = left.filter((entry) => !isReversal(entry.external_id) && moves(entry, 1n) === opposite)
    const named = undone.find((entry) => reversal.external_id?.endsWith(`/void-${entry.entry_id}`))
    const other = named ?? undone[0]
    if (other) left.splice(0, left.length, ...left.filter((entry) => entry !== reversal && entry !== other))
  }
  return left
}

/** What an entry moves on each account for each agency, in one text. */
function moves({ value }: StoredEntry, sign: bigint): string {
  const sums = new Map<string, bigint>()
  for (const line of value.lines) {
    const key = `${line.accountId}|${line.agencyId ?? ''}`
    const amount = parseAmount(line.credit, value.currency) - parseAmount(line.debit, value.currency)
    sums.set(key, (sums.get(key) ?? 0n) + sign * amount)
  }
  return [
    value.currency,
    ...[...sums]
      .filter(([, amount]) => amount !== 0n)
      .map(([key, amount]) => `${key} ${amount}`)
      .sort(),
  ].join('\n')
}
