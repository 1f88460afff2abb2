import type { Books } from '../database/connection.ts'

/** How often an entity's set-up, and its documents, were changed: grids that are older are worked out anew before they are read. */
export interface Clock {
  readonly set_up: string
  readonly facts: string
}

/**
 * Set-up, links or baseline changed: the grids of every month are to be worked out anew before they are read.
 * @returns how often it was by now
 */
export async function noteSetUp(books: Books): Promise<string> {
  return tick(books, 'set_up')
}

/** Documents changed: what is at stake is to be summed anew. */
export async function noteFacts(books: Books): Promise<void> {
  await tick(books, 'facts')
}

async function tick({ trx, entityId }: Books, column: keyof Clock): Promise<string> {
  const { rows } = (await trx.raw(
    'insert into align_clock (entity_id, ??) values (?, 1) on conflict (entity_id) do update set ?? = align_clock.?? + 1 returning ??::text as now',
    [column, entityId, column, column, column],
  )) as { rows: [{ now: string }] }
  return rows[0].now
}
