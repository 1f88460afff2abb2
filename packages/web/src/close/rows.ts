import type { CloseRow, Selector } from '@axion/contract'

/** What a row of the close sheet goes by. */
export const keyOf = (row: CloseRow): string => `${row.agency ?? ''}|${row.account ?? ''}`
const at = (row: CloseRow): { agency: string; account: string } => ({
  agency: row.agency ?? '',
  account: row.account ?? '',
})
/** A selector of a row’s part of an amount. */
export const of = (row: CloseRow, selector: Selector): Selector => ({ ...selector, ...at(row) })
