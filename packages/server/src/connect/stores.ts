import {
  DOCUMENT,
  type BankLine,
  type Change,
  type JournalEntry,
  type Location,
  type Resource,
  type Settlement,
  type SourceDocument,
} from '@axion/contract'
import { periodOf, tradingDayOf } from '@axion/core'
import type { Transaction } from '../database/connection.ts'
import { insertRows } from '../database/insert.ts'

/** A change whose value could be read. */
export interface Accepted {
  readonly change: Change
  readonly value: unknown
}

export interface Here {
  readonly entity_id: string
  readonly system_id: string
}

/** Where a resource's objects are kept as their system has them. */
export interface ObjectStore {
  before(trx: Transaction, here: Here, ids: readonly string[]): Promise<Map<string, unknown>>
  put(trx: Transaction, here: Here, accepted: readonly Accepted[]): Promise<void>
  remove(trx: Transaction, here: Here, ids: readonly string[]): Promise<void>
}

async function valuesById(query: PromiseLike<unknown>): Promise<Map<string, unknown>> {
  return new Map(((await query) as { id: string; value: unknown }[]).map((row) => [row.id, row.value]))
}

function heldStore(resource: Resource): ObjectStore {
  return {
    before: (trx, here, ids) =>
      valuesById(
        trx('held_object')
          .where({ ...here, resource, removed: false })
          .whereRaw('object_id = any(?)', [[...ids]])
          .select('object_id as id', 'value'),
      ),
    put: (trx, here, accepted) =>
      insertRows(
        trx,
        'held_object',
        accepted.map(({ change, value }) => ({
          ...here,
          resource,
          object_id: change.id,
          revision: change.revision,
          value,
          removed: false,
        })),
        ['entity_id', 'system_id', 'resource', 'object_id'],
      ),
    remove: async (trx, here, ids) =>
      void (await trx('held_object')
        .where({ ...here, resource })
        .whereRaw('object_id = any(?)', [[...ids]])
        .update({ removed: true, value: null })),
  }
}

/** Sales, returns and purchases, of whatever system. */
const DOCUMENTS: ObjectStore = {
  before: (trx, here, ids) =>
    valuesById(
      trx('document')
        .where(here)
        .whereRaw('document_id = any(?)', [[...ids]])
        // One that was removed and comes back is new, though it be unchanged.
        .whereRaw(`(status <> 'void' or value->>'status' = 'void')`)
        .select('document_id as id', 'value'),
    ),
  put: async (trx, here, accepted) => {
    const places = await placesOf(trx, here)
    await insertRows(
      trx,
      'document',
      accepted.map(({ change, value }) => {
        const document = value as SourceDocument
        const { number, kind, status, documentDate, currency, party, creditsDocumentId } = document
        return {
          ...here,
          document_id: change.id,
          revision: change.revision,
          number,
          kind,
          status,
          credits_document: creditsDocumentId,
          document_date: documentDate,
          trading_day: tradedOn(document, places),
          period: periodOf(documentDate),
          currency,
          party: party.name,
          posted: DOCUMENT[kind].posted,
          value,
        }
      }),
      ['entity_id', 'system_id', 'document_id'],
    )
  },
  // A document that vanished from its source stays here, void, so that what was booked of it is not forgotten.
  remove: async (trx, here, ids) =>
    void (await trx('document')
      .where(here)
      .whereRaw('document_id = any(?)', [[...ids]])
      .update({ status: 'void' })),
}

async function placesOf(trx: Transaction, here: Here): Promise<ReadonlyMap<string, Location>> {
  const rows = (await trx('held_object')
    .where({ ...here, resource: 'locations', removed: false })
    .select('object_id', 'value')) as { object_id: string; value: Location }[]
  return new Map(rows.map((row) => [row.object_id, row.value]))
}

const ENTRIES: ObjectStore = {
  before: (trx, here, ids) =>
    valuesById(
      trx('ledger_entry')
        .where(here)
        .whereRaw('entry_id = any(?)', [[...ids]])
        .select('entry_id as id', 'value'),
    ),
  put: (trx, here, accepted) =>
    insertRows(
      trx,
      'ledger_entry',
      accepted.map(({ change, value }) => {
        const e = value as JournalEntry
        return {
          ...here,
          entry_id: change.id,
          revision: change.revision,
          external_id: e.externalId,
          booking_id: e.bookingId,
          booking_revision: e.bookingRevision,
          posting_date: e.postingDate,
          period: periodOf(e.postingDate),
          currency: e.currency,
          voided: e.voided,
          changed_by: e.changedBy,
          changed_at: e.changedAt,
          value: e,
        }
      }),
      ['entity_id', 'system_id', 'entry_id'],
    ),
  remove: async (trx, here, ids) =>
    void (await trx('ledger_entry')
      .where(here)
      .whereRaw('entry_id = any(?)', [[...ids]])
      .delete()),
}

/** Settlements of processors, and lines of banks. */
function recordStore(resource: Resource): ObjectStore {
  return {
    before: (trx, here, ids) =>
      valuesById(
        trx('held_record')
          .where({ ...here, resource, removed: false })
          .whereRaw('record_id = any(?)', [[...ids]])
          .select('record_id as id', 'value'),
      ),
    put: (trx, here, accepted) =>
      insertRows(
        trx,
        'held_record',
        accepted.map(({ change, value }) => {
          const { number, kind, currency, day } = recordOf(resource, value)
          return {
            ...here,
            resource,
            record_id: change.id,
            revision: change.revision,
            number,
            kind,
            day,
            trading_day: day,
            period: periodOf(day),
            currency,
            removed: false,
            value,
          }
        }),
        ['entity_id', 'system_id', 'resource', 'record_id'],
      ),
    remove: async (trx, here, ids) =>
      void (await trx('held_record')
        .where({ ...here, resource })
        .whereRaw('record_id = any(?)', [[...ids]])
        .update({ removed: true })),
  }
}

/** The trading day of a sale, worked out once, when it is taken: by its outlet's clock and cut-off where it names one. */
function tradedOn(
  { soldAt, locationId, documentDate }: SourceDocument,
  places: ReadonlyMap<string, Location>,
): string {
  const place = locationId === null ? undefined : places.get(locationId)
  return soldAt === null || !place
    ? documentDate
    : tradingDayOf(soldAt, place.timeZone, place.cutOff).tradingDay
}

function recordOf(
  resource: Resource,
  value: unknown,
): { readonly number: string; readonly kind: string; readonly currency: string; readonly day: string } {
  if (resource === 'bank-lines') {
    const { number, currency, bookedOn: day } = value as BankLine
    return { number, kind: 'bank-line', currency, day }
  }
  // A processor's instant carries its own offset: the day is the one that stood on its clock.
  const { number, kind, currency, at } = value as Settlement
  return { number, kind, currency, day: at.slice(0, 10) }
}

export function storeOf(resource: Resource): ObjectStore {
  if (resource === 'journal-entries') return ENTRIES
  if (resource === 'documents') return DOCUMENTS
  return ['settlements', 'bank-lines'].includes(resource) ? recordStore(resource) : heldStore(resource)
}
