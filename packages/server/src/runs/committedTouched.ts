import { type Books } from '../database/connection.ts'
import { SERVED_BY } from '../documents/committed.ts'

/**
 * The documents that what tax services keep was of, or is of, where pulls that nobody proved yet changed it; and the months that it stands or
 * stood in, where it may be nobody's.
 */
export async function committedTouched({
  trx,
  entityId,
}: Books): Promise<{ readonly documents: readonly string[]; readonly months: readonly string[] }> {
  const changed = `select h.system_id, h.object_id, h.before, h.label from held_change h join pull p on p.entity_id = h.entity_id and p.pull_id = h.pull_id
    where h.entity_id = :e and h.resource = 'committed' and p.proved_at is null`
  const { rows } = (await trx.raw(
    `with served as (${SERVED_BY}), changed as materialized (${changed}),
     kept as materialized (
       select c.system_id, c.source_document as id, c.number, c.period from changed h join committed_document c on c.entity_id = :e and c.system_id = h.system_id and c.committed_id = h.object_id
       union select system_id, before->>'documentId', coalesce(before->>'number', label), left(before->>'documentDate', 7) from changed)
     select d.named, k.period from kept k join served f on f.service_id = k.system_id join document d on d.entity_id = :e and d.system_id = f.source_id and d.document_id = k.id
     union select d.named, k.period from kept k join served f on f.service_id = k.system_id join document d on d.entity_id = :e and d.system_id = f.source_id and d.number = k.number
     union select null, period from kept where period is not null`,
    { e: entityId },
  )) as { rows: { named: string | null; period: string | null }[] }
  return {
    documents: [...new Set(rows.flatMap(({ named }) => named ?? []))],
    months: [...new Set(rows.flatMap(({ period }) => period ?? []))],
  }
}

/** The months in which what services keep of documents stands, where it is another than the document's own. */
export async function monthsKept({ trx, entityId }: Books, documents: readonly string[]): Promise<string[]> {
  if (!(await trx('computes_for').where({ entity_id: entityId }).first('service_id'))) return []
  const of = `d.entity_id = :e and d.named = any(:documents)`
  const { rows } = (await trx.raw(
    `with served as (${SERVED_BY})
     select c.period from document d join served f on f.source_id = d.system_id join committed_document c on c.entity_id = :e and c.system_id = f.service_id and c.source_document = d.document_id where ${of} and c.period <> d.period
     union select c.period from document d join served f on f.source_id = d.system_id join committed_document c on c.entity_id = :e and c.system_id = f.service_id and c.number = d.number where ${of} and c.period <> d.period`,
    { e: entityId, documents: [...documents] } as never,
  )) as { rows: { period: string }[] }
  return rows.map(({ period }) => period)
}
