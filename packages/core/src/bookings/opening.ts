import type { MinorUnits } from '../money/currency.ts'

/** An account on the opening day: what it stood at by the ledger, and the list that is kept for it. Amounts are positive on the account's own side. */
export interface Opened {
  /** Null where nobody read it. */
  readonly balance: MinorUnits | null
  /** What the lines of the list come to, and how many they are. */
  readonly list: MinorUnits
  readonly items: number
  /** What the ledger had when the list was kept, or the word was given that none is needed; null where neither was. */
  readonly then: MinorUnits | null
  readonly aside: boolean
}

export type OpeningState = 'unknown' | 'nil' | 'lacking' | 'apart' | 'moved' | 'taken' | 'aside'

/**
 * How an account's list stands to what the ledger has: *taken* over where both are the same, *moved* where they were when the list was kept,
 * and the ledger has another amount since, *apart* where they never were.
 */
export function openingStanding({ balance, list, items, then, aside }: Opened): OpeningState {
  if (balance === null) return 'unknown'
  if (aside) return then === balance ? 'aside' : 'moved'
  if (items === 0) return balance === 0n ? 'nil' : 'lacking'
  if (list === balance) return 'taken'
  return list === then ? 'moved' : 'apart'
}

/**
 * The fewest of the newest lines that come to a balance exactly; null where no number of them does.
 * @param newestFirst in the order in which they are taken
 * @example of 10.00, 5.00 and 7.00, the newest first, two come to 15.00
 */
export function newestComingTo<T extends { readonly amount: MinorUnits }>(
  newestFirst: readonly T[],
  balance: MinorUnits,
): readonly T[] | null {
  let sum = 0n
  const at = newestFirst.findIndex(({ amount }) => (sum += amount) === balance)
  return at < 0 ? null : newestFirst.slice(0, at + 1)
}
