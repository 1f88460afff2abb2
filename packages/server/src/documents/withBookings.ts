import type { Knex } from 'knex'
import type { Transaction } from '../database/connection.ts'

/** Documents `d`, each with the booking `b` of itself where there is one: not those that correct it or take it back. */
export function documentsWithBookings(trx: Transaction): Knex.QueryBuilder {
  return trx('source_document as d').leftJoin(
    'booking as b',
    (on) =>
      void on
        .on('b.entity_id', 'd.entity_id')
        .on('b.system_id', 'd.system_id')
        .on('b.document_id', 'd.document_id')
        .on('b.kind', 'd.kind'),
  )
}
