import type { BaselineIndex, BookedAccounts } from '@axion/core'
import { loadBaseline } from '../baseline/load.ts'
import type { Books } from '../database/connection.ts'
import { bookedAccounts } from '../documents/units.ts'
import { loadHeld, type HeldSystem } from '../setUp/held.ts'
import { askedIndex, askedSystem, type Asking } from './questions.ts'

/** What units are worked out from. */
export interface Grounds extends Books {
  readonly index: BaselineIndex
  readonly systems: readonly HeldSystem[]
  /** The accounts that bookings are read by. */
  accounts(): BookedAccounts
}

/**
 * What units are determined from, as it is recorded now.
 * @param at as it was recorded at an instant
 */
export async function groundsOf(books: Books, at: string | null = null): Promise<Grounds> {
  const index = await loadBaseline(books, at)
  const accounts = bookedAccounts(index)
  return { ...books, index, systems: await loadHeld(books, undefined, at), accounts: () => accounts }
}

/** The same grounds, noting what is asked of them. */
export function askedGrounds(grounds: Grounds, asking: Asking): Grounds {
  return {
    ...grounds,
    index: askedIndex(grounds.index, asking),
    systems: grounds.systems.map((held) => askedSystem(held, asking)),
    accounts: asking.through('accounts', () => grounds.accounts()),
  }
}
