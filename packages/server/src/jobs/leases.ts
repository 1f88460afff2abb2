import type { Knex } from 'knex'
import { inEntity, type Database, type Transaction } from '../database/connection.ts'

export interface RunJob {
  readonly entityId: string
  readonly runId: string
}

/** A run that somebody is at. Whoever takes it next has another lease, and what the one before still writes is refused (`isTakenOver`). */
export interface Lease extends RunJob {
  readonly lease: string
  /** How many slices were begun since one came to its end. */
  readonly tried: number
}

/** The first run of each legal entity whose time has come and that nobody is at, the longest waiting first. */
export async function waitingRuns(
  database: Database,
  except: readonly string[],
  most: number,
): Promise<RunJob[]> {
  const first = database('run_unfinished')
    .distinctOn('entity_id')
    .where({ waits: true })
    .whereNotIn('entity_id', [...except])
    .orderBy(['entity_id', 'due_at'])
    .select('entity_id', 'run_id', 'due_at')
  const rows = (await database
    .from(first.as('first'))
    .orderBy('due_at')
    .limit(most)
    .select('entity_id', 'run_id')) as { entity_id: string; run_id: string }[]
  return rows.map((row) => ({ entityId: row.entity_id, runId: row.run_id }))
}

/** Whether a run of another legal entity of the same database waits for its turn. */
export async function othersWait(database: Database, entityId: string): Promise<boolean> {
  return (
    (await database('run_unfinished')
      .where({ waits: true })
      .whereNot({ entity_id: entityId })
      .first('run_id')) !== undefined
  )
}

/**
 * Lets go of what a worker of this name had: whoever begins under a name is the only one who has it, and the one before is dead.
 * @param database one database by itself
 */
export async function freeOwn(database: Database, name: string): Promise<void> {
  const own = (await database('run_unfinished').where({ leased_by: name }).select('entity_id', 'run_id')) as {
    entity_id: string
    run_id: string
  }[]
  for (const { entity_id, run_id } of own)
    await inEntity(database, entity_id, ({ trx }) =>
      trx('run')
        .where({ entity_id, run_id, leased_by: name })
        .update({ leased_until: null, leased_by: null }),
    )
}

/** Takes a run for so many seconds, under the worker's name where it has one. @returns null where its time has not come, somebody is at it, or it has ended */
export function takeRun(
  database: Database,
  { entityId, runId }: RunJob,
  { seconds, name = null }: { readonly seconds: number; readonly name?: string | null | undefined },
): Promise<Lease | null> {
  return inEntity(database, entityId, async ({ trx }) => {
    const one = { entity_id: entityId, run_id: runId }
    // Whoever writes in it just now is not waited for: they may have been cut off in the middle.
    // Whether it waits is asked of the row itself: the view answers as of before it was locked, and two would take it.
    const free = trx('run')
      .where(one)
      .whereIn('state', ['queued', 'running'])
      .whereRaw('run_is_due(due_at, leased_until)')
      .whereExists(trx('run_unfinished').where(one))
    const [taken] = await trx('run')
      .where(one)
      .whereIn('run_id', free.forUpdate().skipLocked().select('run_id'))
      .update({
        lease: trx.raw('lease + 1'),
        tried: trx.raw('tried + 1'),
        leased_until: inSeconds(trx, seconds),
        leased_by: name,
        state: 'running',
        updated_at: trx.fn.now(),
      })
      .returning(['lease', 'tried'])
    return taken ? { entityId, runId, ...taken } : null
  })
}

/** Keeps a run for so many seconds more. Where a transaction of its own is writing in the row, nobody takes it meanwhile: that is not waited for. */
export function renewLease(database: Database, lease: Lease, seconds: number): Promise<unknown> {
  return inEntity(database, lease.entityId, ({ trx }) =>
    trx('run')
      .where(rowOf(lease))
      .whereIn('run_id', trx('run').where(rowOf(lease)).forNoKeyUpdate().skipLocked().select('run_id'))
      .update({ leased_until: inSeconds(trx, seconds) }),
  )
}

/** Lets a run go that has not ended, so that anybody may take it in so many seconds. */
export function giveBack(
  database: Database,
  lease: Lease,
  { afterSeconds, cameToItsEnd }: { readonly afterSeconds: number; readonly cameToItsEnd: boolean },
): Promise<unknown> {
  return inEntity(database, lease.entityId, ({ trx }) =>
    trx('run')
      .where(rowOf(lease))
      .update({
        due_at: inSeconds(trx, afterSeconds),
        leased_until: null,
        ...(cameToItsEnd ? { tried: 0 } : {}),
      }),
  )
}

function rowOf({ entityId, runId, lease }: Lease): { entity_id: string; run_id: string; lease: string } {
  return { entity_id: entityId, run_id: runId, lease }
}

function inSeconds(trx: Transaction, seconds: number): Knex.Raw {
  return trx.raw('now() + make_interval(secs => ?)', [seconds])
}
