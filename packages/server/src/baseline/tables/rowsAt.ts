import type { Books } from '../../database/connection.ts'
import type { BaselineTable, Dated } from './table.ts'

export interface RowsAsked {
  /** An instant that `recordedAt` gave; as recorded now where it is null. */
  readonly recordedAt: string | null
  readonly order: keyof typeof ORDERS
}

const ORDERS = { recorded: 'version_id', named: 'object_id, lower(valid) nulls first' }

/** The rows of a baseline table, in an order of their own where the table has one. */
export async function rowsAt<Row, Stated, Held>(
  { trx, entityId }: Books,
  { table, order }: BaselineTable<Row, Stated, Held>,
  asked: RowsAsked,
): Promise<(Row & Dated)[]> {
  const recorded = asked.recordedAt === null ? 'upper_inf(recorded)' : 'recorded @> ?::timestamptz'
  return (await trx(table)
    .where({ entity_id: entityId })
    .whereRaw(recorded, asked.recordedAt === null ? [] : [asked.recordedAt])
    .orderByRaw(order ?? ORDERS[asked.order])
    .select(
      '*',
      trx.raw('lower(valid)::text as "from"'),
      trx.raw('(upper(valid) - 1)::text as "to"'),
    )) as (Row & Dated)[]
}
