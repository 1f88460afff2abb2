import type { LinkKind } from '@axion/contract'
import type { Books } from '../database/connection.ts'
import type { Touched } from './gather.ts'

/** Something of a system by what documents name it by: an item by its code, all else by its id. */
export interface NamedObject {
  readonly systemId: string
  readonly id: string
}

/** Documents of a system that carry an item, are a party's, or were sold at an outlet, as system/document. */
export async function documentsNaming(
  { trx, entityId }: Books,
  of: Readonly<Record<'items' | 'parties' | 'locations', readonly NamedObject[]>>,
): Promise<string[]> {
  const names = (some: readonly NamedObject[]): string[] =>
    some.map(({ systemId, id }) => `${systemId} ${id}`)
  if (Object.values(of).every((some) => some.length === 0)) return []
  const { rows } = (await trx.raw(
    `select d.system_id || '/' || d.document_id as document from document d where d.entity_id = :e and (
       d.system_id || ' ' || (d.value->'party'->>'id') = any(:parties) or d.system_id || ' ' || (d.value->>'locationId') = any(:locations)
       or exists (select from jsonb_array_elements(d.value->'lines') line where d.system_id || ' ' || (line->>'itemCode') = any(:items)))`,
    {
      e: entityId,
      parties: names(of.parties),
      locations: names(of.locations),
      items: names(of.items),
    },
  )) as { rows: { document: string }[] }
  return rows.map((row) => row.document)
}

/** Credit notes hang on what they credit, and on the credit notes before them; what they credit hangs on what they give back. */
export async function relatives({ trx, entityId }: Books, documents: readonly string[]): Promise<string[]> {
  const { rows } = (await trx.raw(
    `with heads as (select distinct system_id, coalesce(credits_document, document_id) as head from document where entity_id = :e and system_id || '/' || document_id = any(:d))
     select d.system_id || '/' || d.document_id as document from document d join heads h on h.system_id = d.system_id and h.head = d.document_id where d.entity_id = :e
     union select d.system_id || '/' || d.document_id from document d join heads h on h.system_id = d.system_id and h.head = d.credits_document where d.entity_id = :e`,
    { e: entityId, d: [...documents] },
  )) as { rows: { document: string }[] }
  return rows.map((row) => row.document)
}

/**
 * What a link can change: of an item, a party or an outlet only documents that name it, and what hangs on them by credits; of anything else
 * everything, since agencies and rates are proposed from each other.
 */
export async function touchedByLink(
  books: Books,
  {
    systemId,
    kind,
    objectId,
  }: { readonly systemId: string; readonly kind: LinkKind; readonly objectId: string },
): Promise<Touched> {
  const own = { systemId, id: objectId }
  const of = { items: [] as NamedObject[], parties: [] as NamedObject[], locations: [] as NamedObject[] }
  if (kind === 'party') of.parties.push(own)
  else if (kind === 'location') of.locations.push(own)
  else if (kind === 'item') {
    const item = await books
      .trx('held_object')
      .where({ entity_id: books.entityId, system_id: systemId, resource: 'items', object_id: objectId })
      .first('value')
    const code = (item?.value as { readonly code?: unknown } | undefined)?.code
    if (typeof code !== 'string') return 'all'
    of.items.push({ systemId, id: code })
  } else return 'all'
  const naming = await documentsNaming(books, of)
  return { documents: new Set([...naming, ...(await relatives(books, naming))]), entries: new Set() }
}
