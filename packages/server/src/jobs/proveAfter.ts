import type { Books } from '../database/connection.ts'
import { noteDue } from '../proof/due.ts'
import { proveAll, proveTouched } from '../proof/prove.ts'
import { touchedBySetUp } from '../proof/restsOn.ts'
import type { Services } from '../services/services.ts'
import { startRun } from './runs.ts'

export interface Act {
  /** The month that is being worked in. */
  readonly month: string
  /** By whom, as a person is named. */
  readonly startedBy: string
}

/**
 * Proves anew what rests on what an act changed in the set-up, in the transaction of that act where it is little. Where it is much, nobody waits for it: a run
 * proves it, and until it has, figures are older than set-up, and pages say so.
 * @returns the run; null where it is done
 */
export async function proveAfter(
  { settings }: Services,
  books: Books,
  { month, startedBy }: Act,
): Promise<string | null> {
  const touched = await touchedBySetUp(books)
  if (touched !== 'all' && touched.documents.size + touched.entries.size <= settings.AXION_AT_ONCE) {
    await proveTouched(books, touched)
    return null
  }
  if (touched === 'all' && (await isLittle(books, settings.AXION_AT_ONCE))) {
    await proveAll(books, month)
    return null
  }
  await noteDue(books, touched)
  const waiting = await books
    .trx('run')
    .where({ entity_id: books.entityId, kind: 'prove', state: 'queued' })
    .first('run_id')
  return waiting?.run_id ?? (await startRun(books, { kind: 'prove', payload: { month }, startedBy }))
}

async function isLittle({ trx, entityId }: Books, most: number): Promise<boolean> {
  const { rows } = (await trx.raw(
    'select count(*)::int as n from (select from document where entity_id = ? limit ?) d',
    [entityId, most + 1],
  )) as { rows: { n: number }[] }
  return (rows[0]?.n ?? 0) <= most
}
