import type { Books } from '../database/connection.ts'
import type { Flaw } from './flaws.ts'
import { matterKey } from './matter.ts'

/** No version of the computation: what bears it is proved anew with the next pull. */
const DOUBTED = 0
const CODE: Flaw['code'] = 'AXION_DOUBTED'
const FACET: Flaw['facet'] = 'amount'

/**
 * Has the next pull prove documents anew, or entries, though nothing of them changed; until then none of them is proved, and each says why.
 * Done in a transaction that changes the books.
 * @param named by what they go by
 * @returns the numbers of those that are there
 */
export async function doubt({ trx, entityId }: Books, named: readonly string[]): Promise<string[]> {
  const { rows } = (await trx.raw(
    `update unit u set core_version = ${DOUBTED}, proved = false,
       headline = case when proved then :facet else headline end, cause = case when proved then :cause else cause end,
       facets = case when proved then array[:facet] else facets end, odd = case when proved then array['expected'] else odd end,
       flaws = case when proved then jsonb_build_array(flawed.as_flaw) else flaws end, matter = case when proved then flawed.as_flaw || '{"kind": "flawed"}' else matter end
     from (select entity_id, unit_id, jsonb_build_object('code', :code::text, 'facet', :facet::text, 'facts', jsonb_build_object('document', number)) as as_flaw from unit) flawed
     where u.entity_id = :e and u.named = any(:named) and flawed.entity_id = u.entity_id and flawed.unit_id = u.unit_id returning number`,
    {
      e: entityId,
      named: [...named],
      facet: FACET,
      code: CODE,
      cause: matterKey({ kind: 'flawed', code: CODE, facts: {} }),
    } as never,
  )) as { rows: { number: string }[] }
  return rows.map(({ number }) => number)
}
