import type { Books } from '../database/connection.ts'

/** How often an entity's set-up, and its documents, were changed: grids that are older are worked out anew before they are read. */
export interface Clock {
  readonly set_up: string
  readonly facts: string
}

/** Set-up, links or baseline changed: the grids of every month are to be worked out anew before they are read. */
export async function noteSetUp(books: Books): Promise<void> {
  await tick(books, 'set_up')
}

/** Documents changed: what is at stake is to be summed anew. */
export async function noteFacts(books: Books): Promise<void> {
  await tick(books, 'facts')
}

async function tick({ trx, entityId }: Books, column: keyof Clock): Promise<void> {
  await trx.raw(
    'insert into align_clock (entity_id, ??) values (?, 1) on conflict (entity_id) do update set ?? = align_clock.?? + 1',
    [column, entityId, column, column],
  )
}
