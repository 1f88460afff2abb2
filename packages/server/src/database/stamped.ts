import { LRUCache } from 'lru-cache'
import type { Books } from './connection.ts'

/** What is read whole and seldom changes: the baseline; what systems hold, with its links. */
export type Part = 'agreed' | 'held'

interface Kept {
  readonly value: object
  readonly rows: number
}

/** Rows that one process keeps of all entities together; what was asked for least goes first. */
const MOST_ROWS = 100_000
const kept = new LRUCache<string, Kept>({
  maxSize: MOST_ROWS,
  sizeCalculation: ({ rows }) => Math.max(rows, 1),
})

/**
 * A part of an entity's set-up, read once for as long as nothing of it changes: whoever reads under the same stamp reads the same rows. A
 * stamp is given by the database to every statement that writes them, and never twice, so none can outlive what it stands for.
 * @param name what is made of the part
 * @param at as it was recorded at an instant that `recordedAt` gave; null for now
 * @param read what is kept must not be changed by whoever gets it; `rows` counts what it takes
 */
export async function stamped<T extends object>(
  books: Books,
  { part, name, at }: { readonly part: Part; readonly name: string; readonly at: string | null },
  read: (at: string | null) => Promise<{ readonly value: T; readonly rows: number }>,
): Promise<T> {
  const { stamp, isNow } = await stampOf(books, part, at)
  const asAt = isNow ? null : at
  const key = `${stamp} ${name} ${asAt ?? ''}`
  const known = kept.get(key)
  if (stamp !== null && known) return known.value as T
  const fresh = await read(asAt)
  // What others changed while it was read has a stamp of its own.
  if (stamp !== null && (await stampOf(books, part, at)).stamp === stamp) kept.set(key, fresh)
  return fresh.value
}

interface Stamp {
  /** Null where nothing of it was ever written. */
  readonly stamp: string | null
  /** As at the instant it was as it is now: nothing was recorded since. */
  readonly isNow: boolean
}

async function stampOf({ trx, entityId }: Books, part: Part, at: string | null): Promise<Stamp> {
  const row = (await trx('set_up_stamp')
    .where({ entity_id: entityId, part })
    .first('stamp', trx.raw('coalesce(since <= ?::timestamptz, true) as "isNow"', [at]))) as Stamp | undefined
  return row ?? { stamp: null, isNow: at === null }
}

/** What the parts are stamped by now; null of one that nothing of was ever written. */
export async function stampsOf({ trx, entityId }: Books): Promise<Readonly<Record<Part, string | null>>> {
  const rows = (await trx('set_up_stamp').where({ entity_id: entityId }).select('part', 'stamp')) as {
    part: Part
    stamp: string
  }[]
  const of = (part: Part): string | null => rows.find((row) => row.part === part)?.stamp ?? null
  return { agreed: of('agreed'), held: of('held') }
}
