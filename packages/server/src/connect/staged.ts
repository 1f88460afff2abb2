import type { Change, Resource } from '@axion/contract'
import { inEntity, type Database, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'

/** A page of changes past a sequence, and whether another waits. */
export interface StagedPage {
  readonly items: readonly Change[]
  readonly next: string
  readonly more: boolean
}

/** Where pages of one resource are kept until it is whole. */
export interface Staging {
  readonly database: Database
  readonly entityId: string
  readonly systemId: string
  readonly resource: Resource
}

/**
 * The page past a sequence: as it was staged by an attempt that did not come to its end, or as it is read now. One that another follows
 * is staged as it comes, in a transaction of its own.
 */
export async function pageOf(
  { database, entityId, systemId, resource }: Staging,
  after: string,
  read: () => Promise<StagedPage>,
): Promise<StagedPage> {
  const key = { entity_id: entityId, system_id: systemId, resource, after }
  const staged = await inEntity(database, entityId, ({ trx }) => trx('pull_page').where(key).first())
  /** Who breaks the contract in one page is not believed in those before. */
  const readOrForget = async (): Promise<StagedPage> => {
    try {
      return await read()
    } catch (error) {
      if (error instanceof Problem && error.code === 'AXION_BRIDGE_MALFORMED')
        await inEntity(database, entityId, ({ trx }) =>
          unstage(trx, { entity_id: entityId, system_id: systemId, resource }),
        )
      throw error
    }
  }
  if (staged) return { items: JSON.parse(staged.items) as Change[], next: staged.next, more: true }
  const page = await readOrForget()
  if (page.more)
    await inEntity(database, entityId, ({ trx }) =>
      // Another pull of the same may have been as fast.
      trx('pull_page')
        .insert({ ...key, next: page.next, items: JSON.stringify(page.items) })
        .onConflict(['entity_id', 'system_id', 'resource', 'after'])
        .ignore(),
    )
  return page
}

/** So much text of pages is taken over at once, or so many of them. */
const [TOGETHER, MOST_TOGETHER] = [4_000_000, 4]

/** Pages that were staged, one after another, from a sequence on: a few small ones together, and no more than those are held at a time. */
export async function* stagedPages(
  trx: Transaction,
  of: { readonly entity_id: string; readonly system_id: string; readonly resource: Resource },
  after: string,
): AsyncGenerator<readonly Change[]> {
  let held: Change[] = []
  let [text, pages] = [0, 0]
  for (let at = after; ;) {
    const staged = await trx('pull_page')
      .where({ ...of, after: at })
      .first()
    if (!staged) break
    for (const change of JSON.parse(staged.items) as Change[]) held.push(change)
    text += staged.items.length
    at = staged.next
    if (++pages < MOST_TOGETHER && text < TOGETHER) continue
    yield held
    held = []
    ;[text, pages] = [0, 0]
  }
  if (held.length > 0) yield held
}

/** What was staged is taken over, or of no use any more. */
export async function unstage(
  trx: Transaction,
  of: { readonly entity_id: string; readonly system_id: string; readonly resource?: Resource },
): Promise<void> {
  await trx('pull_page').where(of).delete()
}
