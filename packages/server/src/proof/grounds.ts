import type { BaselineIndex, BookedAccounts } from '@axion/core'
import { loadBaseline } from '../baseline/load.ts'
import type { Books } from '../database/connection.ts'
import { bookedAccounts } from '../documents/units.ts'
import { loadHeld, type HeldSystem } from '../setUp/held.ts'
import type { Asking } from './asking.ts'
import { askedIndex, askedSystem } from './questions.ts'

/** The set-up that units are worked out from, without the database. */
export interface SetUp extends Pick<Books, 'entityId' | 'currency'> {
  readonly index: BaselineIndex
  readonly systems: readonly HeldSystem[]
  /** The accounts that bookings are read by. */
  accounts(): BookedAccounts
}

/** The same with its books. */
export interface Grounds extends Books, SetUp {}

/**
 * What units are determined from, as it is recorded now.
 * @param at as it was recorded at an instant
 */
export async function groundsOf(books: Books, at: string | null = null): Promise<Grounds> {
  const index = await loadBaseline(books, at)
  return { ...books, ...setUpOf(books, index, await loadHeld(books, undefined, at)) }
}

export function setUpOf(
  { entityId, currency }: Pick<Books, 'entityId' | 'currency'>,
  index: BaselineIndex,
  systems: readonly HeldSystem[],
): SetUp {
  const accounts = bookedAccounts(index)
  return { entityId, currency, index, systems, accounts: () => accounts }
}

/** The same set-up, noting what is asked of it. */
export function askedSetUp({ entityId, currency, index, systems, accounts }: SetUp, asking: Asking): SetUp {
  return {
    entityId,
    currency,
    index: askedIndex(index, asking),
    systems: systems.map((held) => askedSystem(held, asking)),
    accounts: asking.through('accounts', () => accounts()),
  }
}
