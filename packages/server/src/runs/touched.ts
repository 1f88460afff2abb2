import type { Columns } from '../database/row.ts'
import type { Item, JournalEntry } from '@axion/contract'
import { CORE_VERSION, groupBy } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { documentNamed, externalStem, stemSql } from '../documents/ids.ts'
import { readDue } from '../proof/due.ts'
import type { Touched } from '../proof/gather.ts'
import { documentsNaming, relatives, type NamedObject } from '../proof/naming.ts'
import { monthsOf } from '../proof/prove.ts'

interface ChangeRow extends Columns<
  'held_change',
  'system_id' | 'resource' | 'object_id' | 'before' | 'after'
> {
  readonly before: unknown
  readonly after: unknown
}

/** Set-up that touches the documents that name it: what is at stake on them, and where a counter sale is taxed. */
const NAMED_BY_DOCUMENTS = ['items', 'parties', 'locations'] as const
/** Kept beside what is proved: nothing that is posted one to one rests on them. */
const BESIDE: readonly string[] = [
  'settlements',
  'bank-lines',
  'item-tax-codes',
  'payment-methods',
  'dimensions',
]

/**
 * What has to be proved anew after pulls, those included that were cut off before their proof, month by month: everything where
 * a set-up changed, else the documents and entries that did, with the credit notes of each document and the entries that stand behind it;
 * and what another version of the computation determined, or a full proof doubts.
 */
export async function touchedBy(
  books: Books,
): Promise<{ readonly months: readonly string[]; readonly touched: Touched; readonly setUp: boolean }> {
  const { trx, entityId } = books
  const rows = (await trx('held_change as c')
    .join('pull as p', (on) => void on.on('p.entity_id', 'c.entity_id').on('p.pull_id', 'c.pull_id'))
    .where({ 'c.entity_id': entityId })
    .whereNull('p.proved_at')
    .select('c.system_id', 'c.resource', 'c.object_id', 'c.before', 'c.after')) as ChangeRow[]
  const of = groupBy(rows, (row) => row.resource)
  const due = await readDue(books)
  const documents = of.get('documents') ?? []
  const entries = of.get('journal-entries') ?? []
  const setUp = [...of.keys()].some(
    (resource) => !['documents', 'journal-entries', 'settlements', 'bank-lines'].includes(resource),
  )
  if (
    due?.touched === 'all' ||
    [...of.keys()].some(
      (resource) => !['documents', 'journal-entries', ...NAMED_BY_DOCUMENTS, ...BESIDE].includes(resource),
    )
  )
    return { months: await monthsOf(books), touched: 'all', setUp }

  const versions = entries
    .flatMap(({ before, after }) => [before, after])
    .filter((value): value is JournalEntry => value !== null)
  const externalIds = [
    ...versions.map((version) => version.externalId),
    ...(await namedByUnread(books, entries)),
  ]
  const booked = externalIds.flatMap((externalId) =>
    externalId === null ? [] : [documentNamed(entityId, externalId)],
  )
  const changed = (resource: (typeof NAMED_BY_DOCUMENTS)[number]): readonly ChangeRow[] =>
    of.get(resource) ?? []
  const ids = (resource: (typeof NAMED_BY_DOCUMENTS)[number]): NamedObject[] =>
    changed(resource).map((row) => ({ systemId: row.system_id, id: row.object_id }))
  const naming = await documentsNaming(books, {
    parties: ids('parties'),
    locations: ids('locations'),
    items: changed('items').flatMap(({ system_id: systemId, before, after }) =>
      [before, after].filter((v) => v !== null).map((v) => ({ systemId, id: (v as Item).code })),
    ),
  })
  const named = new Set([
    ...documents.map((d) => `${d.system_id}/${d.object_id}`),
    ...booked.filter((d) => d !== null),
    ...naming,
    ...(due?.touched.documents ?? []),
  ])
  const outdated = await determinedBefore(books)
  outdated.documents.forEach((document) => named.add(document))
  const all = new Set([...named, ...(await relatives(books, [...named]))])
  const concerned = [
    ...entries.map((e) => e.object_id),
    ...(await entriesOf(books, [...all])),
    ...outdated.entries,
  ]
  const { rows: periods } = (await trx.raw(
    `select period from document where entity_id = :e and system_id || '/' || document_id = any(:d) union select period from unit where entity_id = :e and named = any(:d) union select period from finding where entity_id = :e and period is not null union select period from tie_unit where entity_id = :e and kind in ('unread', 'unread-entry')
     union select period from unit where entity_id = :e and entry_id = any(:entries) union select period from ledger_entry where entity_id = :e and entry_id = any(:entries)`,
    { e: entityId, d: [...all], entries: concerned },
  )) as { rows: { period: string }[] }
  return {
    setUp,
    months: [
      ...new Set([
        ...periods.map((r) => r.period),
        ...versions.map((v) => v.postingDate.slice(0, 7)),
        ...outdated.months,
      ]),
    ].sort(),
    touched: {
      documents: all,
      entries: new Set([...concerned, ...(due?.touched.entries ?? [])]),
    },
  }
}

/** Units that an earlier version of the computation determined, or whose version a full proof took away. */
async function determinedBefore({
  trx,
  entityId,
}: Books): Promise<{ documents: string[]; entries: string[]; months: string[] }> {
  const { rows } = (await trx.raw(
    `select period, case when document_id is not null then named end as document, entry_id as entry from unit where entity_id = ? and core_version < ?`,
    [entityId, CORE_VERSION],
  )) as { rows: { period: string; document: string | null; entry: string | null }[] }
  return {
    documents: rows.flatMap(({ document }) => document ?? []),
    entries: rows.flatMap(({ entry }) => entry ?? []),
    months: [...new Set(rows.map(({ period }) => period))],
  }
}

/** An entry that cannot be read any more, or can be again, concerns what its known version names, and what could be read of it. */
async function namedByUnread(
  { trx, entityId }: Books,
  entries: readonly ChangeRow[],
): Promise<(string | null)[]> {
  const ids = entries.filter(({ before, after }) => before === null && after === null).map((e) => e.object_id)
  if (ids.length === 0) return []
  const { rows } = (await trx.raw(
    `select external_id as id from ledger_entry where entity_id = :e and entry_id = any(:ids) union select value->>'externalId' from finding where entity_id = :e and resource = 'journal-entries' and object_id = any(:ids)`,
    { e: entityId, ids },
  )) as { rows: { id: string | null }[] }
  return rows.map((row) => row.id)
}

async function entriesOf({ trx, entityId }: Books, documents: readonly string[]): Promise<string[]> {
  const stems = documents.map((document) => {
    const at = document.indexOf('/')
    return externalStem(entityId, document.slice(0, at), document.slice(at + 1))
  })
  const { rows } = (await trx.raw(
    `select entry_id from ledger_entry where entity_id = ? and ${stemSql('external_id')} = any(?)`,
    [entityId, stems],
  )) as { rows: { entry_id: string }[] }
  return rows.map((row) => row.entry_id)
}
