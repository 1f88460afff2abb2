import type { Books } from '../database/connection.ts'

/** What the units of a month come to that are tied out, as whoever writes them keeps it summed. */
export interface UnitSums {
  readonly units: number
  readonly proved: number
  /** Not proved, with a cause: what somebody has to look at. */
  readonly open: number
  /** Kept, or given back. */
  readonly apart: number
  /** In minor units of the base currency. */
  readonly unproved: string
  readonly net: string
}

export async function unitSums({ trx, entityId }: Books, month: string): Promise<UnitSums> {
  const { rows } = (await trx.raw(
    `select coalesce(sum(documents), 0)::int as units, coalesce(sum(documents) filter (where proved), 0)::int as proved, coalesce(sum(documents) filter (where is_open), 0)::int as open,
       coalesce(sum(documents) filter (where settled <> ''), 0)::int as apart, coalesce(sum(unproved), 0)::bigint::text as unproved, coalesce(sum(unproved_net), 0)::bigint::text as net
     from unit_sum where entity_id = ? and period = ? and posted`,
    [entityId, month],
  )) as { rows: [UnitSums] }
  return rows[0]
}
