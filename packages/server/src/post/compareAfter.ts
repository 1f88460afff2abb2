import type { Books } from '../database/connection.ts'
import { startRun } from '../jobs/runs.ts'
import { countBooked, markDiffering } from './differing.ts'

/** So many bookings are compared while somebody waits, where nothing else is set. */
const AT_ONCE = 2000

/**
 * Rules of posting or of lines changed: bookings that would go elsewhere now are put up to be booked again, in the transaction of that act where
 * there are few; where there are many, nobody waits for it: a run compares them, and until it has, pages say that they are older.
 * @param from the first month that is concerned
 */
export async function compareAfter(
  books: Books,
  { from, startedBy }: { readonly from: string; readonly startedBy: string },
  atOnce = AT_ONCE,
): Promise<void> {
  const there = await countBooked(books, from, atOnce + 1)
  if (there > atOnce) {
    const total = await countBooked(books, from, Number.MAX_SAFE_INTEGER)
    await startRun(books, { kind: 'compare', payload: { from }, startedBy, total })
    return
  }
  for (let after: string | null = ''; after !== null;) ({ after } = await markDiffering(books, from, after))
}
