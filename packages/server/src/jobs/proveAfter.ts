import type { Books } from '../database/connection.ts'
import { noteDue } from '../proof/due.ts'
import { proveAll } from '../proof/prove.ts'
import type { Services } from '../services/services.ts'
import { startRun } from './runs.ts'

/**
 * Proves anew what an act may have changed, in the transaction of that act where it is little. Where it is much, nobody waits for it: a run
 * proves it, and until it has, figures are older than set-up, and pages say so.
 * @param startedBy by whom, as a person is named
 * @returns the run; null where it is done
 */
export async function proveAfter(
  { settings, queue }: Services,
  books: Books,
  month: string,
  startedBy: string,
): Promise<string | null> {
  if (await isLittle(books, settings.AXION_AT_ONCE)) {
    await proveAll(books, month)
    return null
  }
  await noteDue(books, 'all')
  const waiting = await books
    .trx('run')
    .where({ entity_id: books.entityId, kind: 'prove', state: 'queued' })
    .first('run_id')
  return waiting?.run_id ?? (await startRun(books, queue, { kind: 'prove', payload: { month }, startedBy }))
}

async function isLittle({ trx, entityId }: Books, most: number): Promise<boolean> {
  const { rows } = (await trx.raw(
    'select count(*)::int as n from (select from document where entity_id = ? limit ?) d',
    [entityId, most + 1],
  )) as { rows: { n: number }[] }
  return (rows[0]?.n ?? 0) <= most
}
