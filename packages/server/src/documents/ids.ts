import type { Columns } from '../database/row.ts'
/**
 * Names and ids that Axion makes, built and read here alone: what documents go by, and bookings, as the ledger keeps them. What is said of
 * them in SQL says the same; the first of each pair takes an alias or an expression.
 */
type DocumentKey = Columns<'document', 'system_id' | 'document_id'>

interface EntryKey {
  readonly entry_id: string
}

/** What a document goes by wherever it is named: in addresses, lists, choices and ticks; in the database the column `named` of documents, bookings and units. An entry that no document stands behind goes by its own id alike. */
export function nameOf({ system_id: systemId, document_id: documentId }: DocumentKey): string {
  return `${systemId}/${documentId}`
}

/** SQL: joins, as `own`, the determination of a row that has `entity_id`, `system_id` and `document_id`: `own.unit_id` is the unit that it is in. */
export const withDetermination = (of: string): string =>
  `left join determination own on own.entity_id = ${of}.entity_id and own.system_id = ${of}.system_id and own.document_id = ${of}.document_id`

/** What all bookings of a document have before their kind. */
export function externalStem(entityId: string, systemId: string, documentId: string): string {
  return `${entityId}/${systemId}/${documentId}/`
}

/** SQL: the same, of a row that has `system_id` and `document_id`. */
export const documentStemSql = (entity: string, of: string): string =>
  `${entity} || '/' || ${of}.system_id || '/' || ${of}.document_id || '/'`

export function externalIdOf(entityId: string, systemId: string, documentId: string, kind: string): string {
  return externalStem(entityId, systemId, documentId) + kind
}

/** The stem of an external id: the document that its booking belongs to; in the database the column `stem` of bookings and entries. */
export function stemOf(externalId: string): string {
  return externalId.slice(0, externalId.lastIndexOf('/') + 1)
}

/** SQL: the same, of an external id. */
export const stemSql = (externalId: string): string => `regexp_replace(${externalId}, '[^/]*$', '')`

/** The document that an external id of the entity's names, as system/id; null where it names none. */
export function documentNamed(entityId: string, externalId: string): string | null {
  const stem = stemOf(externalId)
  return stem.startsWith(`${entityId}/`) ? stem.slice(entityId.length + 1, -1) : null
}

export function isCorrection(externalId: string | null): boolean {
  return externalId !== null && /\/correction(-\d+)?$/.test(externalId)
}

/** The external id of what takes an entry back, in a ledger without voids. */
export function reversalIdOf(stem: string, { entry_id }: Pick<EntryKey, 'entry_id'>): string {
  return `${stem}void-${entry_id}`
}

/** SQL: the ids under which something may take back the entry `e`. Before each entry had one of its own, a document had one. */
export const reversalIdsSql = (e: string): string =>
  `(${e}.stem || 'void-' || ${e}.entry_id, ${e}.stem || 'void')`

/** Whether a booking takes another back. */
export function isReversal(externalId: string | null): boolean {
  return externalId !== null && /\/void(-[^/]*)?$/.test(externalId)
}

/** The document's own booking, neither a correction nor what takes one back. */
export function isMain(externalId: string | null): boolean {
  return !isCorrection(externalId) && !isReversal(externalId)
}
