/**
 * Ids that Axion makes, built and read here alone: of units (a document, or an entry that no document stands behind), and of bookings, as
 * the ledger keeps them. What is said of them in SQL says the same; the first of each pair takes an alias or an expression.
 */
interface DocumentKey {
  readonly system_id: string
  readonly document_id: string
}

interface EntryKey {
  readonly system_id: string
  readonly entry_id: string
}

export function unitIdOf({ system_id: systemId, document_id: documentId }: DocumentKey): string {
  return `doc:${systemId}:${documentId}`
}

/** SQL: the unit of a row that has `system_id` and `document_id`. */
export const unitSql = (of: string): string => `'doc:' || ${of}.system_id || ':' || ${of}.document_id`

export function entryUnitIdOf({ system_id: systemId, entry_id: entryId }: EntryKey): string {
  return `entry:${systemId}:${entryId}`
}

/** SQL: the unit of an entry that no document stands behind. */
export const entryUnitSql = (of: string): string => `'entry:' || ${of}.system_id || ':' || ${of}.entry_id`

/** The entry that a unit is, by its id. */
export function entryIn(unitId: string): string {
  return unitId.split(':').slice(2).join(':')
}

/** SQL: the same, of a unit's id. */
export const entrySql = (unitId: string): string => `regexp_replace(${unitId}, '^entry:[^:]*:', '')`

/** SQL: whether a unit is an entry that no document stands behind. */
export const isEntrySql = (unitId: string): string => `starts_with(${unitId}, 'entry:')`

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

/** The stem of an external id: the document that its booking belongs to. */
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
  `(${stemSql(`${e}.external_id`)} || 'void-' || ${e}.entry_id, ${stemSql(`${e}.external_id`)} || 'void')`

/** Whether a booking takes another back. */
export function isReversal(externalId: string | null): boolean {
  return externalId !== null && /\/void(-[^/]*)?$/.test(externalId)
}

/** The document's own booking, neither a correction nor what takes one back. */
export function isMain(externalId: string | null): boolean {
  return !isCorrection(externalId) && !isReversal(externalId)
}
