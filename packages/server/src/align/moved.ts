import type { LinkKind } from '@axion/contract'
import type { Books } from '../database/connection.ts'
import { insertRows } from '../database/insert.ts'
import { noteSetUp } from '../setUp/clock.ts'

/** A link that was made, moved or taken back. */
export interface Moved {
  readonly kind: LinkKind
  readonly systemId: string
  readonly objectId: string
  /** What the object was linked to before and after. */
  readonly stoodFor: readonly string[]
}

/** More links at once than this are not told apart: the grids are worked out anew. */
const FEW = 100
/** Of so many ticks of the clock it is known which links moved. */
const KEPT = 1000

/** Links moved, and nothing else of the set-up: of the grids, what they concern is to be worked out anew before it is read. */
export async function noteMoved(books: Books, moved: readonly Moved[]): Promise<void> {
  const { trx, entityId } = books
  const now = await noteSetUp(books)
  if (moved.length > FEW) return
  await insertRows(
    trx,
    'align_moved',
    moved.map(({ kind, systemId, objectId, stoodFor }) => ({
      entity_id: entityId,
      set_up: now,
      kind,
      system_id: systemId,
      object_id: objectId,
      stood_for: stoodFor,
    })),
  )
  await trx('align_moved')
    .where({ entity_id: entityId })
    .whereRaw('set_up <= ?::bigint - ?', [now, KEPT])
    .delete()
}

/** The links that moved between two ticks of the clock; null where something else did as well, or too many to be told apart. */
export async function movedSince(
  { trx, entityId }: Books,
  before: string,
  now: string,
): Promise<readonly Moved[] | null> {
  const rows = await trx('align_moved')
    .where({ entity_id: entityId })
    .whereRaw('set_up > ?::bigint and set_up <= ?::bigint', [before, now])
    .select('set_up', 'kind', 'system_id', 'object_id', 'stood_for')
  const ticks = new Set(rows.map((row) => row.set_up))
  if (rows.length > FEW || BigInt(ticks.size) !== BigInt(now) - BigInt(before)) return null
  return rows.map((row) => ({
    kind: row.kind as LinkKind,
    systemId: row.system_id,
    objectId: row.object_id,
    stoodFor: row.stood_for,
  }))
}
