/** SQL of who computes for which system, where both are connected and what it keeps was read to its end once, and whether that system is a service's only one; `:e` is the entity. */
export const SERVED_BY = `select f.service_id, f.source_id, count(*) over (partition by f.service_id) = 1 as alone from computes_for f
  join system s on s.entity_id = f.entity_id and s.system_id = f.service_id and s.disconnected_at is null
  join system t on t.entity_id = f.entity_id and t.system_id = f.source_id and t.disconnected_at is null where f.entity_id = :e
    and exists (select from pull_cursor p where p.entity_id = f.entity_id and p.system_id = f.service_id and p.resource = 'committed') order by 1, 2`

/** SQL, of what a service keeps `c`, of a document `d` and of SERVED_BY `f`: it is that document's. */
export const COMMITTED_OF = `c.entity_id = d.entity_id and c.system_id = f.service_id and d.system_id = f.source_id and c.kind = d.kind
  and (c.source_document = d.document_id or c.source_document is null and f.alone and c.number = d.number)`
