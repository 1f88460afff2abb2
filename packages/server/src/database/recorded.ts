import type { Knex } from 'knex'
import type { Transaction } from './connection.ts'

/** What has a recorded time beside the baseline: what stands in the table itself, what stood in `past`. */
export type Recorded = 'document' | 'held_object' | 'link' | 'system_scope'

/**
 * An entity's rows of a table as they are recorded now, or as they were at an instant; in a query they go by the table's name.
 * @param at an instant as `recordedAt` gives it; null for now
 */
export function asRecorded(
  trx: Transaction,
  table: Recorded,
  entityId: string,
  at: string | null,
): Knex.QueryBuilder {
  if (at === null) return trx(table).where({ [`${table}.entity_id`]: entityId })
  const e = entityId
  return trx.from(
    trx.raw(
      `(select * from :table: where entity_id = :e and since <= :at::timestamptz union all select (jsonb_populate_record(null:::table:, was)).* from past where entity_id = :e and kept_of = :name and until > :at::timestamptz and lower(recorded) <= :at::timestamptz) as :table:`,
      { table, e, at, name: table },
    ) as unknown as string,
  )
}
