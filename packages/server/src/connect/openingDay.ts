import { createHash } from 'node:crypto'
import type { OpeningPreview } from '@axion/contract'
import { audit } from '../audit/audit.ts'
import { inOrder, type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'
import { noteDue } from '../proof/due.ts'
import { connectedSystems } from '../setUp/held.ts'
import { applyScope } from './scope.ts'
import { movedUnder, movesOf } from './scopeSums.ts'

export interface OpeningDay {
  readonly day: string
  readonly setBy: string
}

/** From when on documents are for the books; null where nobody said. */
export async function openingDay({ trx, entityId }: Books): Promise<OpeningDay | null> {
  const row = await trx('opening').where({ entity_id: entityId }).first('day', 'set_by')
  return row === undefined ? null : { day: row.day, setBy: row.set_by }
}

/** What another opening day would do to documents of all systems. */
export async function previewOpening(books: Books, day: string | null): Promise<OpeningPreview> {
  const { trx, entityId, currency } = books
  requireFirst(day)
  const scope =
    'from_day((select scope from system_scope where entity_id = :e and system_id = :s), :day::date)'
  const rows = await inOrder(await connectedSystems(books), ({ system_id: systemId }) =>
    movedUnder(books, systemId, { scope, bindings: { day } }),
  )
  const moves = movesOf(rows.flat(), currency)
  const { n } = (await trx('opening_list')
    .where({ entity_id: entityId })
    .first(trx.raw('count(*)::int as n'))) as unknown as { n: number }
  const revision = createHash('sha256')
    .update(json([(await openingDay(books))?.day ?? null, day, moves, n]))
    .digest('base64url')
  return { ...moves, lists: n, revision }
}

/**
 * Keeps the opening day, or none, and notes what that moves, to be proved anew by a run: documents of every system, and what stands in the
 * ledger between the two days. Lists that were kept stay, and are held against what the ledger had on the new day.
 * @throws AXION_STALE, AXION_NOTHING_TO_DO
 */
export async function setOpening(
  books: Books,
  { day, revision }: { readonly day: string | null; readonly revision: string },
  person: string,
): Promise<void> {
  const { trx, entityId } = books
  const before = (await openingDay(books))?.day ?? null
  if ((await previewOpening(books, day)).revision !== revision)
    throw new Problem('AXION_STALE', { what: 'What this opening day would do' })
  if (before === day) throw new Problem('AXION_NOTHING_TO_DO', { what: 'change: that is the opening day' })
  if (day === null) await trx('opening').where({ entity_id: entityId }).delete()
  else
    await trx('opening')
      .insert({ entity_id: entityId, day, set_by: person })
      .onConflict('entity_id')
      .merge({ day, set_by: person, set_at: trx.fn.now() })
  await audit(trx, 'set-opening-day', day ?? 'none', { before: { day: before }, after: { day } })
  const moved = await inOrder(await connectedSystems(books), ({ system_id: systemId }) =>
    applyScope(books, systemId, null),
  )
  const { rows: entries } = (await trx.raw(
    `select entry_id as id from ledger_entry where entity_id = :e and posting_date < greatest(:before::date, :day::date)
       and posting_date >= case when :before::date is null or :day::date is null then '-infinity' else least(:before::date, :day::date) end`,
    { e: entityId, before, day } as never,
  )) as { rows: { id: string }[] }
  await noteDue(books, {
    documents: new Set(moved.flat().flatMap(({ key }) => key ?? [])),
    entries: new Set(entries.map(({ id }) => id)),
  })
}

/** Months are proved whole, so that books begin with one. */
function requireFirst(day: string | null): void {
  if (day !== null && !day.endsWith('-01')) throw new Problem('AXION_NO_FIRST_OF_MONTH', { day })
}
