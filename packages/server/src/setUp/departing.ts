import type { Books } from '../database/connection.ts'

/** What sources hold of items and parties otherwise than the baseline: only that, found in one query each. */
export interface Departing {
  /** By the item's code: the object, and the baseline's code that it stands under there. */
  item(systemId: string, code: string): { readonly objectId: string; readonly code: string } | undefined
  /** Whether the system exempts whom the baseline does not, or the other way about. */
  party(
    systemId: string,
    objectId: string,
  ): { readonly objectId: string; readonly certificates: 'ignored' | 'everyone' } | undefined
  /** Whom a system exempts otherwise than the baseline. */
  parties(systemId: string): readonly string[]
}

/** The same as it is handed on: by system and code, by system and object. */
export interface DepartingRows {
  readonly items: readonly (readonly [string, NonNullable<ReturnType<Departing['item']>>])[]
  readonly parties: readonly (readonly [string, NonNullable<ReturnType<Departing['party']>>])[]
}

const keyOf = (systemId: string, code: string): string => `${systemId} ${code}`

export function departingOf({ items, parties }: DepartingRows): Departing {
  const [itemsBy, partiesBy] = [new Map(items), new Map(parties)]
  return {
    item: (systemId, code) => itemsBy.get(keyOf(systemId, code)),
    party: (systemId, objectId) => partiesBy.get(keyOf(systemId, objectId)),
    parties: (systemId) =>
      parties.flatMap(([key, { objectId }]) => (key === keyOf(systemId, objectId) ? [objectId] : [])),
  }
}

export async function readDeparting({ trx, entityId }: Books): Promise<DepartingRows> {
  const items = (await trx.raw(
    `select h.system_id, h.object_id, h.value->>'code' as code, coalesce(c.baseline_id, h.value->>'itemTaxCode', s.settings->>'defaultItemTaxCode') as theirs
     from held_object h join system s using (entity_id, system_id)
       left join link l on l.entity_id = h.entity_id and l.system_id = h.system_id and l.kind = 'item' and l.object_id = h.object_id
       join item i on i.entity_id = h.entity_id and i.object_id = coalesce(l.baseline_id, h.value->>'code') and upper_inf(i.recorded)
       left join link c on c.entity_id = h.entity_id and c.system_id = h.system_id and c.kind = 'item-tax-code' and c.object_id = coalesce(h.value->>'itemTaxCode', s.settings->>'defaultItemTaxCode')
     where h.entity_id = ? and h.resource = 'items' and not h.removed and s.disconnected_at is null
       and coalesce(c.baseline_id, h.value->>'itemTaxCode', s.settings->>'defaultItemTaxCode') is distinct from i.item_tax_code`,
    [entityId],
  )) as { rows: { system_id: string; object_id: string; code: string; theirs: string | null }[] }
  const parties = (await trx.raw(
    `select h.system_id, h.object_id, h.value->'exemption'->>'reason' as theirs
     from held_object h join system s using (entity_id, system_id)
       left join link l on l.entity_id = h.entity_id and l.system_id = h.system_id and l.kind = 'party' and l.object_id = h.object_id
       left join party p on p.entity_id = h.entity_id and p.object_id = coalesce(l.baseline_id, h.object_id) and upper_inf(p.recorded)
     where h.entity_id = ? and h.resource = 'parties' and not h.removed and s.disconnected_at is null and (h.value->'exemption'->>'reason') is distinct from p.claims`,
    [entityId],
  )) as { rows: { system_id: string; object_id: string; theirs: string | null }[] }
  return {
    items: items.rows.flatMap((r) =>
      r.theirs === null
        ? []
        : [[keyOf(r.system_id, r.code), { objectId: r.object_id, code: r.theirs }] as const],
    ),
    parties: parties.rows.map((r) => [
      keyOf(r.system_id, r.object_id),
      { objectId: r.object_id, certificates: r.theirs === null ? 'ignored' : 'everyone' },
    ]),
  }
}
