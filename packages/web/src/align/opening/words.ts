import type { OpeningAccount, OpeningListView, OpeningStanding } from '@axion/contract'
import { formatAmount, parseAmount } from '@axion/core'

type Mark = 'holds' | 'breaks' | 'open' | 'asks'

/** How an account stands, as a mark and a word. */
export const STANDINGS: Readonly<Record<OpeningStanding, { readonly mark: Mark; readonly word: string }>> = {
  unknown: { mark: 'open', word: 'not known' },
  nil: { mark: 'open', word: 'nothing to take over' },
  lacking: { mark: 'breaks', word: 'no list' },
  apart: { mark: 'breaks', word: 'list differs' },
  moved: { mark: 'breaks', word: 'ledger moved since' },
  taken: { mark: 'holds', word: 'taken over' },
  aside: { mark: 'open', word: 'without a list' },
}

/** What is still to be done something about. */
export const isDue = ({ standing }: Pick<OpeningAccount, 'standing'>): boolean =>
  STANDINGS[standing].mark === 'breaks'

/** How much of a balance its list leaves open: the balance less the list. */
export function openOf(
  { balance, list }: Pick<OpeningAccount, 'balance' | 'list'>,
  currency: string,
): string {
  return formatAmount(parseAmount(balance ?? '0', currency) - parseAmount(list, currency), currency)
}

/** What all accounts together lack, too much and too little alike. */
export function openInAll(accounts: readonly OpeningAccount[], currency: string): string {
  const all = accounts.filter(isDue).map((one) => parseAmount(openOf(one, currency), currency))
  return formatAmount(
    all.reduce((sum, one) => sum + (one < 0n ? -one : one), 0n),
    currency,
  )
}

/** Where a proposal comes from. */
export const FROM: Readonly<Record<NonNullable<OpeningListView['proposed']>['from'], string>> = {
  documents: 'documents that were open that evening, by what their systems say',
  months: 'the newest months that come to the balance exactly, by the ledger’s journal',
  entries: 'the newest entries that come to the balance exactly, by the ledger’s journal',
}
