import { recordedAt } from '../baseline/import.ts'
import type { Books } from '../database/connection.ts'
import { insertRows } from '../database/insert.ts'
import { FILES } from '../setUp/held.ts'
import type { Touched } from './gather.ts'

/** Stands for everything, where no document and no entry is named. */
const ALL = ''

/** What is to be proved anew, as at an instant of the entity's own. */
export interface Due {
  readonly touched: Touched
  /** Since when figures are older than what they rest on. */
  readonly since: string
  /** What was due by then; what is due later stays so. */
  readonly by: string
}

/** Notes what an act may have changed, for a run to prove it anew; in the transaction of that act. */
export async function noteDue(books: Books, touched: Touched): Promise<void> {
  const since = await recordedAt(books)
  const named = touched === 'all' ? [ALL] : [...touched.documents, ...touched.entries]
  await insertRows(
    books.trx,
    'proof_due',
    named.map((one) => ({ entity_id: books.entityId, named: one, since })),
    ['entity_id', 'named'],
  )
}

/** @returns null where nothing is due */
export async function readDue({ trx, entityId }: Books): Promise<Due | null> {
  const rows = (await trx('proof_due')
    .where({ entity_id: entityId })
    .orderBy('since')
    .select('named', trx.raw(`to_json(since)#>>'{}' as since`))) as { named: string; since: string }[]
  const [first] = rows
  const last = rows.at(-1)
  if (!first || !last) return null
  const named = new Set(rows.map((row) => row.named))
  return {
    touched: named.has(ALL) ? 'all' : { documents: named, entries: named },
    since: first.since,
    by: last.since,
  }
}

/** SQL, of a legal entity `l`: a system of it was not pulled since a backup was brought back; of files there is nothing to pull. */
export const NOT_PULLED_SINCE = `exists (select from system s where s.entity_id = l.entity_id and s.disconnected_at is null and not starts_with(s.address, '${FILES}')
  and not exists (select from pull p where p.entity_id = s.entity_id and p.system_id = s.system_id and p.ended and p.problem is null and p.finished_at > l.restored_at))`

/**
 * Since when figures are older than what they rest on, or bookings are to be compared with what they would be now, or a backup was brought back, and not every
 * system was pulled after that; null where nothing is so.
 */
export async function olderSince({ trx, entityId }: Books): Promise<string | null> {
  const { rows } = (await trx.raw(
    `select to_json(min(since))#>>'{}' as since from (
       select since from proof_due where entity_id = :e
       union all select restored_at from legal_entity l where l.entity_id = :e and l.restored_at is not null
         and ${NOT_PULLED_SINCE}
       union all select created_at from run where entity_id = :e and kind = 'compare' and state in ('queued', 'running')) due`,
    { e: entityId },
  )) as { rows: [{ since: string | null }] }
  return rows[0].since
}

/** All of it is proved, in a transaction in which nothing can become due. */
export async function noteAllProved({ trx, entityId }: Books): Promise<void> {
  await trx('proof_due').where({ entity_id: entityId }).delete()
}

/** What was due by an instant is proved; what became due since stays so. */
export async function noteProved({ trx, entityId }: Books, by: string): Promise<void> {
  await trx('proof_due').where({ entity_id: entityId }).where('since', '<=', by).delete()
}
