import type { Knex } from 'knex'
import { DOCUMENT } from '@axion/contract'
import { groupBy } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { asRecorded } from '../database/recorded.ts'
import type { StoredDocument } from './units.ts'

/** A credited document with all credit notes that name it. */
export interface Family {
  readonly original: StoredDocument
  readonly credits: readonly StoredDocument[]
}

/** Finds what credit notes credit, in whatever month it stands; null for a document that credits nothing that is known. */
export type Families = (document: Pick<StoredDocument, 'system_id' | 'kind' | 'value'>) => Family | null

const key = (systemId: string, documentId: string): string => `${systemId}/${documentId}`

/** @param at as they were recorded at an instant; null for now */
export async function familiesOf(
  books: Books,
  documents: readonly StoredDocument[],
  at: string | null = null,
): Promise<Families> {
  const credited = documents.flatMap((d) => creditedBy(d) ?? [])
  return familiesIn(
    credited.length === 0 ? [] : ((await familyRows(books, credited, at)) as StoredDocument[]),
  )
}

/** Documents that are credited, with all that credits them. */
export function familyRows(
  { trx, entityId }: Books,
  credited: readonly string[],
  at: string | null = null,
): Knex.QueryBuilder {
  const wanted = [...new Set(credited)]
  return asRecorded(trx, 'document', entityId, at).where(
    (q) =>
      void q
        .whereRaw('document_id = any(:wanted)', { wanted })
        .orWhereRaw('credits_document = any(:wanted)', { wanted }),
  )
}

export function familiesIn(rows: readonly StoredDocument[]): Families {
  const originals = new Map(rows.map((d) => [key(d.system_id, d.document_id), d]))
  const credits = groupBy(
    rows.filter((d) => creditedBy(d) !== null),
    (d) => key(d.system_id, creditedBy(d) ?? ''),
  )
  return (document) => {
    const credited = creditedBy(document)
    const of = credited === null ? null : key(document.system_id, credited)
    const original = of === null ? undefined : originals.get(of)
    return original && !DOCUMENT[original.kind].returns
      ? { original, credits: credits.get(of ?? '') ?? [] }
      : null
  }
}

/** What a document that gives back names as what it was. */
function creditedBy({ kind, value }: Pick<StoredDocument, 'kind' | 'value'>): string | null {
  return DOCUMENT[kind].returns ? value.creditsDocumentId : null
}

/** Credit notes hang on what they credit, and on the credit notes before them; what they credit hangs on what they give back. */
export async function relatives({ trx, entityId }: Books, documents: readonly string[]): Promise<string[]> {
  const { rows } = (await trx.raw(
    `with heads as (select distinct system_id, coalesce(credits_document, document_id) as head from document where entity_id = :e and named = any(:d))
     select d.named as document from document d join heads h on h.system_id = d.system_id and h.head = d.document_id where d.entity_id = :e
     union select d.named from document d join heads h on h.system_id = d.system_id and h.head = d.credits_document where d.entity_id = :e`,
    { e: entityId, d: [...documents] },
  )) as { rows: { document: string }[] }
  return rows.map((row) => row.document)
}
