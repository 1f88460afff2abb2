import type { Resource } from '@axion/contract'
import { inEntity, type Database, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import type { PageOfRows } from '../bridges/exchanged.ts'
import type { RowsRead } from '../reading/thread.ts'

/** Where objects of one resource are kept until it is whole. */
export interface Staged {
  readonly entity_id: string
  readonly system_id: string
  readonly resource: Resource
}

/** A page past a sequence: where the next begins, and what is not staged yet of it. */
export interface PageCame {
  readonly next: string
  readonly more: boolean
  /** Null where it is staged. */
  readonly rows: RowsRead | null
}

/**
 * The page past a sequence: as it was staged by an attempt that did not come to its end, or as it is read now. One that another follows
 * is staged as it comes, in a transaction of its own.
 */
export async function pageOf(
  database: Database,
  of: Staged,
  after: string,
  read: () => Promise<PageOfRows>,
): Promise<PageCame> {
  const mark = await inEntity(database, of.entity_id, ({ trx }) =>
    trx('pull_page')
      .where({ ...of, after })
      .first('next'),
  )
  if (mark) return { next: mark.next, more: true, rows: null }
  /** Who breaks the contract in one page is not believed in those before. */
  const readOrForget = async (): Promise<PageOfRows> => {
    try {
      return await read()
    } catch (error) {
      if (error instanceof Problem && error.code === 'AXION_BRIDGE_MALFORMED')
        await inEntity(database, of.entity_id, ({ trx }) => unstage(trx, of))
      throw error
    }
  }
  const { next, more, rows, count } = await readOrForget()
  if (!more) return { next, more, rows: { rows, count } }
  await inEntity(database, of.entity_id, async ({ trx }) => {
    await stage(trx, of, rows)
    // Another pull of the same may have been as fast.
    await trx('pull_page')
      .insert({ ...of, after, next })
      .onConflict(['entity_id', 'system_id', 'resource', 'after'])
      .ignore()
  })
  return { next, more, rows: null }
}

/**
 * Stages objects, of each its last state.
 * @param rows as threads that read hand them on
 */
export async function stage(trx: Transaction, of: Staged, rows: string): Promise<void> {
  await trx.raw(
    `insert into staged_object as s (entity_id, system_id, resource, object_id, sequence, revision, removed, value, problem, readable, day)
     select :entity_id, :system_id, :resource, object_id, sequence, revision, removed, nullif(value, 'null'), problem, nullif(readable, 'null'), day
     from jsonb_to_recordset(:rows::jsonb) as r (object_id text, sequence bigint, revision text, removed boolean, value jsonb, problem text, readable jsonb, day date)
     on conflict (entity_id, system_id, resource, object_id) do update set sequence = excluded.sequence, revision = excluded.revision, removed = excluded.removed,
       value = excluded.value, problem = excluded.problem, readable = excluded.readable, day = excluded.day where excluded.sequence >= s.sequence`,
    { ...of, rows },
  )
}

/** What was staged is taken over, or of no use any more. */
export async function unstage(
  trx: Transaction,
  of: { readonly entity_id: string; readonly system_id: string; readonly resource?: Resource },
): Promise<void> {
  await trx('pull_page').where(of).delete()
  await trx('staged_object').where(of).delete()
}
