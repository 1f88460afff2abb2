import { kindsWith, type DocumentKind } from '@axion/contract'
import type { Books } from '../database/connection.ts'
import type { StoredDocument } from './units.ts'

/** A document by what it goes by, before any of it is read. */
export interface Newest {
  readonly system_id: string
  readonly id: string
}

/** The newest documents that are taken and stand, and how many there are of them. */
export async function newestDocuments(
  { trx, entityId }: Books,
  most: number,
  kinds: readonly DocumentKind[] = kindsWith(() => true),
): Promise<{ readonly newest: readonly Newest[]; readonly of: number }> {
  const { rows } = (await trx.raw(
    `select system_id, document_id as id, count(*) over ()::int as of from document
     where entity_id = :e and status not in ('draft', 'void') and not_taken is null and kind = any(:kinds)
     order by document_date desc, system_id, document_id limit :most`,
    { e: entityId, most, kinds: [...kinds] },
  )) as { rows: (Newest & { of: number })[] }
  return { newest: rows, of: rows[0]?.of ?? 0 }
}

/** These documents, as they are stored. */
export async function storedOf(
  { trx, entityId }: Books,
  slice: readonly Newest[],
): Promise<StoredDocument[]> {
  return (await trx('document')
    .where({ entity_id: entityId })
    .whereRaw('named = any(?)', [slice.map((one) => `${one.system_id}/${one.id}`)])) as StoredDocument[]
}
