import type { GridView } from '@axion/contract'
import { expect } from 'vitest'
import { MONTH, type World } from './world.ts'

/**
 * Holds that each row of the grids says how many of September's documents touch it: as counted from the documents themselves, by links and by the
 * codes that objects bear.
 * @returns the kinds of rows that any document touches
 */
export async function touchedKinds(world: World): Promise<readonly string[]> {
  const code = (line: string): string =>
    `select i.item_tax_code from item i where i.object_id = ${line} and upper_inf(i.recorded)`
  const counted = await world.ownerSql<{ row: string; n: number }>(
    `with own as (select u.unit_id, u.system_id, u.combined_rates, d.value from unit u join document d using (entity_id, system_id, document_id) where u.period = '2026-09'),
       line as (select o.unit_id, coalesce(l.baseline_id, line->>'itemCode') as item from own o cross join jsonb_array_elements(o.value->'lines') line
         left join held_object h on h.system_id = o.system_id and h.resource = 'items' and h.value->>'code' = line->>'itemCode'
         left join link l on l.system_id = o.system_id and l.kind = 'item' and l.object_id = h.object_id),
       stands as (select h.system_id, h.resource, h.object_id, coalesce(l.baseline_id, h.value->>'code') as id from held_object h
         left join link l on l.system_id = h.system_id and l.object_id = h.object_id and l.kind = case h.resource when 'locations' then 'location' else 'payment-method' end where h.resource in ('locations', 'payment-methods'))
     select 'parties|' || coalesce(l.baseline_id, value->'party'->>'id') as row, count(*)::int as n from own o left join link l on l.system_id = o.system_id and l.kind = 'party' and l.object_id = value->'party'->>'id' group by 1
     union all select 'rates|' || unnest(combined_rates), count(*)::int from own group by 1
     union all select 'items|' || item, count(distinct unit_id)::int from line group by 1
     union all select 'codes|' || (${code('item')}), count(distinct unit_id)::int from line group by 1
     union all select 'locations|' || s.id, count(*)::int from own o join stands s on s.resource = 'locations' and s.system_id = o.system_id and s.object_id = o.value->>'locationId' group by 1
     union all select 'methods|' || id, sum(n)::int from (
       select s.id, count(distinct unit_id) as n from own o join stands s on s.resource = 'payment-methods' and s.system_id = o.system_id and o.value->'tenders' @> jsonb_build_array(jsonb_build_object('paymentMethodId', s.object_id)) group by 1
       union all select s.id, count(*) from held_record r join stands s on s.resource = 'payment-methods' and s.system_id = r.system_id and s.object_id = r.value->>'paymentMethodId' where r.resource = 'settlements' and r.period = '2026-09' group by 1) m group by 1`,
  )
  const expected = new Map(counted.map(({ row, n }) => [row, n]))
  const kinds = ['parties', 'rates', 'items', 'codes', 'locations', 'methods'] as const
  const seen = new Set<string>()
  for (const kind of kinds) {
    const { rows } = await world.ok<GridView>('GET', `${MONTH}/align/${kind}?limit=200`)
    for (const { id, documents, extra } of rows.filter((row) => row.extra === null)) {
      expect([kind, id, extra, documents]).toEqual([kind, id, null, expected.get(`${kind}|${id}`) ?? 0])
      if (documents > 0) seen.add(kind)
    }
  }
  return [...seen]
}
