import { createHash } from 'node:crypto'
import type { Remedy, RemedyPreview } from '@axion/contract'
import { formatAmount, sum } from '@axion/core'
import { previewAlignment } from '../align/remedies.ts'
import { audit } from '../audit/audit.ts'
import type { Books } from '../database/connection.ts'
import { externalStem } from '../documents/ids.ts'
import { Problem } from '../faults/problem.ts'
import { correctionsOf, inTotal } from '../post/correct.ts'
import type { TakenBack } from '../post/takeBack.ts'
import { loadHeld } from '../setUp/held.ts'
import { previewTelling } from './tell.ts'

interface UnitOfCause extends TakenBack {
  readonly named: string
  readonly unproved: string
  readonly revisions: string | null
}

/** What a remedy would do, and to how much. Nothing leaves, and nothing is written. */
export async function previewRemedy(books: Books, month: string, remedy: Remedy): Promise<RemedyPreview> {
  const { currency } = books
  if (!('cause' in remedy)) return previewAlignment(books, month, remedy)
  if (remedy.kind === 'tell') return previewTelling(books, month, remedy.cause)
  const units = await unitsOfCause(books, month, remedy.cause)
  if (units.length === 0) throw new Problem('AXION_STALE', { what: 'This cause' })
  const ledger = (await loadHeld(books)).find((s) => s.row.role === 'ledger')
  if (!ledger) throw new Problem('AXION_NO_LEDGER')
  const corrections = remedy.kind === 'correct' ? await correctionsOf(books, month, remedy.cause) : []
  return {
    remedy,
    system: ledger.row.name,
    object: '',
    revision: revisionOf(units),
    changes: [],
    currency,
    journal: inTotal(corrections, currency, ledger),
    numbers: [],
    documents: remedy.kind === 'correct' ? corrections.length : units.length,
    unproved: formatAmount(sum(units.map((u) => BigInt(u.unproved))), currency),
  }
}

/** The open documents of a cause, with the revisions of what the ledger holds of each. */
export async function unitsOfCause(
  { trx, entityId }: Books,
  month: string,
  cause: string,
): Promise<UnitOfCause[]> {
  const { rows } = (await trx.raw(
    `select u.named, u.system_id, u.document_id, u.number, u.period, u.currency, u.unproved::text as unproved,
       (select string_agg(e.entry_id || '@' || e.revision, ',' order by e.entry_id) from ledger_entry e
        where e.entity_id = u.entity_id and not e.voided and e.stem = u.entity_id || '/' || u.named || '/') as revisions
     from tie_unit u where u.entity_id = ? and u.period = ? and u.cause = ? and not u.proved and u.document_id is not null order by u.named`,
    [entityId, month, cause],
  )) as { rows: UnitOfCause[] }
  return rows
}

/** Another document, another amount or another entry in the ledger makes another revision: what was previewed is then stale. */
function revisionOf(units: readonly UnitOfCause[]): string {
  return createHash('sha256')
    .update(JSON.stringify(units.map((u) => [u.named, u.unproved, u.revisions])))
    .digest('base64url')
}

/** Takes an edit by hand that moved nothing as it is: the revision it stands at is the one that is known. */
export async function acceptEdits({ trx, entityId }: Books, units: readonly UnitOfCause[]): Promise<void> {
  for (const unit of units) {
    await trx.raw(
      `update booking b set accepted_revision = e.booking_revision, updated_at = now() from ledger_entry e
       where b.entity_id = ? and e.entity_id = b.entity_id and e.external_id = b.external_id and not e.voided and b.stem = ?`,
      [entityId, externalStem(entityId, unit.system_id, unit.document_id)],
    )
    await audit(trx, 'accepted-edit', unit.number, { after: { entries: unit.revisions } })
  }
}
