import { kindsWith, type Resource } from '@axion/contract'

/**
 * Where a resource's objects are kept as their system has them, in SQL: staged ones are `s`, their values `s.value`. Bindings are `:entity_id`,
 * `:system_id`, `:resource`, and those of STORE_BINDINGS.
 */
export interface ObjectStore {
  /** Its table, and the column of an object's id in it. */
  readonly table: string
  readonly id: string
  /** Of a row `b`: whether it stood in its system before. */
  readonly stood: string
  /** What is written of a staged object, by column; its key aside. */
  readonly columns: Readonly<Record<string, string>>
  /** What is done with rows that are gone, of staged objects that say so. */
  readonly gone: (these: string) => string
}

export const STORE_BINDINGS = { posted: [...kindsWith(({ posted }) => posted)] }

const text = (name: string): string => `s.value->>'${name}'`
const month = (name: string): string => `left(s.value->>'${name}', 7)`
/** SQL, of a row `b`: it is one of staged ones. By keys rather than by a join: the planner may know nothing yet of what is staged, and of this system's. */
const isOf = (staged: string, id: string): string =>
  `b.entity_id = :entity_id and b.system_id = :system_id and b.${id} = any(array(select s.object_id from (${staged}) s))`

const heldIn = (resource: Resource): ObjectStore => ({
  table: 'held_object',
  id: 'object_id',
  stood: `b.resource = '${resource}' and not b.removed`,
  columns: { resource: 's.resource', revision: 's.revision', value: 's.value', removed: 'false' },
  gone: (staged) =>
    `update held_object b set removed = true, value = null where ${isOf(staged, 'object_id')} and b.resource = '${resource}' and not b.removed`,
})

/** Sales, returns and purchases, of whatever system. One that vanished from its source stays here, void, so that what was booked of it is not forgotten. */
const DOCUMENTS: ObjectStore = {
  table: 'document',
  id: 'document_id',
  // One that was removed and comes back is new, though it be unchanged.
  stood: `(b.status <> 'void' or b.value->>'status' = 'void')`,
  columns: {
    revision: 's.revision',
    number: text('number'),
    kind: text('kind'),
    status: text('status'),
    credits_document: text('creditsDocumentId'),
    document_date: `(${text('documentDate')})::date`,
    trading_day: 's.day',
    period: month('documentDate'),
    currency: text('currency'),
    party: `s.value->'party'->>'name'`,
    posted: `${text('kind')} = any(:posted)`,
    value: 's.value',
    not_taken: `why_not_taken(s.scope, (${text('documentDate')})::date, ${text('kind')}, s.value)`,
  },
  gone: (staged) =>
    `update document b set status = 'void' where ${isOf(staged, 'document_id')} and b.status <> 'void'`,
}

const ENTRIES: ObjectStore = {
  table: 'ledger_entry',
  id: 'entry_id',
  stood: 'true',
  columns: {
    revision: 's.revision',
    external_id: text('externalId'),
    booking_id: text('bookingId'),
    booking_revision: text('bookingRevision'),
    posting_date: `(${text('postingDate')})::date`,
    period: month('postingDate'),
    currency: text('currency'),
    voided: `(${text('voided')})::boolean`,
    changed_by: text('changedBy'),
    changed_at: `(${text('changedAt')})::timestamptz`,
    value: 's.value',
  },
  gone: (staged) => `delete from ledger_entry b where ${isOf(staged, 'entry_id')}`,
}

/** Settlements of processors, and lines of banks. */
const recordsOf = (resource: 'settlements' | 'bank-lines'): ObjectStore => ({
  table: 'held_record',
  id: 'record_id',
  stood: `b.resource = '${resource}' and not b.removed`,
  columns: {
    resource: 's.resource',
    revision: 's.revision',
    number: text('number'),
    kind: resource === 'bank-lines' ? `'bank-line'` : text('kind'),
    day: 's.day',
    trading_day: 's.day',
    period: 'left(s.day::text, 7)',
    currency: text('currency'),
    removed: 'false',
    value: 's.value',
    not_taken: `why_not_taken(s.scope, s.day, ${resource === 'bank-lines' ? `'bank-line'` : text('kind')}, s.value)`,
  },
  gone: (staged) =>
    `update held_record b set removed = true where ${isOf(staged, 'record_id')} and b.resource = '${resource}' and not b.removed`,
})

/** What tax services keep of documents. One that is not there any more was kept once: whose it was is still known. */
const COMMITTED: ObjectStore = {
  table: 'committed_document',
  id: 'committed_id',
  stood: 'not b.removed',
  columns: {
    revision: 's.revision',
    number: text('number'),
    kind: text('kind'),
    source_document: text('documentId'),
    status: text('status'),
    document_date: `(${text('documentDate')})::date`,
    period: month('documentDate'),
    currency: text('currency'),
    removed: 'false',
    value: 's.value',
  },
  gone: (staged) =>
    `update committed_document b set removed = true where ${isOf(staged, 'committed_id')} and not b.removed`,
}

export function storeOf(resource: Resource): ObjectStore {
  if (resource === 'committed') return COMMITTED
  if (resource === 'journal-entries') return ENTRIES
  if (resource === 'documents') return DOCUMENTS
  return resource === 'settlements' || resource === 'bank-lines' ? recordsOf(resource) : heldIn(resource)
}
