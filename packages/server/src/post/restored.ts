import type { PostView } from '@axion/contract'
import { audit } from '../audit/audit.ts'
import type { Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { move } from '../documents/states.ts'
import type { Services } from '../services/services.ts'
import { NOT_PULLED_SINCE } from '../proof/due.ts'
import { connectedSystems } from '../setUp/held.ts'

/** Looks whether a database is the one that it was: in each that a worker works at, from time to time. */
export async function lookWhere({ database }: Pick<Services, 'database'>): Promise<void> {
  await database.raw('select note_origin(false)')
}

/** The same before anything is sent. */
export async function sinceRestored(books: Books): Promise<Date | null> {
  await books.trx.raw('select note_origin(false)')
  return restoredSince(books)
}

/**
 * Since when nobody knows here what was sent: the database was brought back from a copy that was taken before. Until the ledger shows it, each booking is
 * looked up before it is sent, as one whose answer was lost.
 * @returns null where it is known
 */
async function restoredSince({ trx, entityId }: Books): Promise<Date | null> {
  const row = await trx('legal_entity').where({ entity_id: entityId }).first('restored_at')
  return row?.restored_at ?? null
}

/** The same for a page, with what ends it. */
export async function restoredView(books: Books): Promise<PostView['restored']> {
  const at = await restoredSince(books)
  if (at === null) return null
  const ledger = (await connectedSystems(books)).find((one) => one.role === 'ledger')
  const late = ledger?.about.longestLateCommitSeconds ?? null
  return { at: at.toISOString(), ends: late === null ? 'person' : 'pull' }
}

/**
 * The ledger was pulled to its end by a run that began when nothing of before could be committed there any more: its journal shows all that was sent,
 * and by now every other system was pulled too. What waits to be sent is looked up nevertheless. Of a ledger that states no such time a pull says nothing.
 */
export async function certainAgain(books: Books, runId: string): Promise<void> {
  const { trx, entityId } = books
  const ledger = (await connectedSystems(books)).find((one) => one.role === 'ledger')
  const late = ledger?.about.longestLateCommitSeconds ?? null
  if (!ledger || late === null) return
  const { rows } = (await trx.raw(
    `select 1 from legal_entity l join run r on r.entity_id = l.entity_id and r.run_id = :run
     where l.entity_id = :e and r.created_at >= l.restored_at + make_interval(secs => :late) and not ${NOT_PULLED_SINCE}`,
    { e: entityId, run: runId, late },
  )) as { rows: unknown[] }
  if (rows.length === 0) return
  await knowsAgain(books)
  await audit(trx, 'certain-again', ledger.name, {})
}

/** Somebody looked in the ledger, and says that it stands here as it stands there. @throws AXION_NOTHING_TO_DO */
export async function sayLooked(books: Books): Promise<void> {
  const ledger = (await connectedSystems(books)).find((one) => one.role === 'ledger')
  if (!ledger || (await restoredSince(books)) === null)
    throw new Problem('AXION_NOTHING_TO_DO', { what: 'say: what was sent is known' })
  await knowsAgain(books)
  await audit(books.trx, 'said-looked', ledger.name, {})
}

async function knowsAgain(books: Books): Promise<void> {
  const { trx, entityId } = books
  await move(books, 'resumed', {
    to: { sql: 'b.state' },
    set: 'uncertain_since = coalesce(b.uncertain_since, now())',
    where: 'true',
  })
  await trx('legal_entity').where({ entity_id: entityId }).update({ restored_at: null })
}
