import type { ListChoices } from '@axion/contract'
import type { Transaction } from '../database/connection.ts'

/** The systems and kinds of document that a month holds: what a list of it may be narrowed by. */
export async function choicesOf(trx: Transaction, entityId: string, month: string): Promise<ListChoices> {
  const { rows } = (await trx.raw(
    `select distinct u.system_id as id, s.name, u.kind from tie_unit u join system s using (entity_id, system_id) where u.entity_id = ? and u.period = ? order by 2, 3`,
    [entityId, month],
  )) as { rows: { id: string; name: string; kind: string }[] }
  return {
    systems: [...new Map(rows.map(({ id, name }) => [id, { id, name }])).values()],
    kinds: [...new Set(rows.map(({ kind }) => kind))],
  }
}
