import type { ListChoices } from '@axion/contract'
import type { Books } from '../database/connection.ts'

/** The systems and kinds that a month's documents are of, those that are posted or those that are not so far: what a list of them may be narrowed by. */
export async function choicesOf(
  { trx, entityId }: Books,
  month: string,
  which: 'posted' | 'not-posted' = 'posted',
): Promise<ListChoices> {
  const { rows } = (await trx.raw(
    `select distinct u.system_id as id, s.name, u.kind from unit_sum u join system s using (entity_id, system_id) where u.entity_id = ? and u.period = ? and u.posted = ? order by 2, 3`,
    [entityId, month, which === 'posted'],
  )) as { rows: { id: string; name: string; kind: string }[] }
  return {
    systems: [...new Map(rows.map(({ id, name }) => [id, { id, name }])).values()],
    kinds: [...new Set(rows.map(({ kind }) => kind))],
  }
}
