import type { Transaction } from '../database/connection.ts'
import type { StoredDocument } from './units.ts'

/** A credited document with all credit notes that name it. */
export interface Family {
  readonly original: StoredDocument
  readonly credits: readonly StoredDocument[]
}

/** Finds what credit notes credit, in whatever month it stands; null for a document that credits nothing that is known. */
export type Families = (document: Pick<StoredDocument, 'system_id' | 'kind' | 'value'>) => Family | null

const key = (systemId: string, documentId: string): string => `${systemId}/${documentId}`

export async function familiesOf(
  trx: Transaction,
  entityId: string,
  documents: readonly StoredDocument[],
): Promise<Families> {
  const credits = documents.filter((d) => d.kind === 'credit-note' && d.value.creditsDocumentId !== null)
  const wanted = [...new Set(credits.map((d) => d.value.creditsDocumentId as string))]
  if (wanted.length === 0) return () => null
  const originals = (await trx('source_document')
    .where({ entity_id: entityId, kind: 'invoice' })
    .whereIn('document_id', wanted)) as StoredDocument[]
  const siblings = (await trx('source_document')
    .where({ entity_id: entityId, kind: 'credit-note' })
    .whereIn('credits_document', wanted)) as StoredDocument[]
  const families = new Map(
    originals.map((original): [string, Family] => [
      key(original.system_id, original.document_id),
      {
        original,
        credits: siblings.filter(
          (c) => c.system_id === original.system_id && c.value.creditsDocumentId === original.document_id,
        ),
      },
    ]),
  )
  return ({ system_id, kind, value }) =>
    kind === 'credit-note' && value.creditsDocumentId !== null
      ? (families.get(key(system_id, value.creditsDocumentId)) ?? null)
      : null
}
