import type { Columns } from '../database/row.ts'
import { isMoving } from '@axion/contract'
import { CORE_VERSION, groupBy } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { relatives } from '../documents/families.ts'
import { documentNamed, externalStem } from '../documents/ids.ts'
import { readDue } from '../proof/due.ts'
import type { Touched } from '../proof/gather.ts'
import { monthsOf } from '../proof/prove.ts'
import { committedTouched, monthsKept } from './committedTouched.ts'
import { touchedBySetUp } from '../proof/restsOn.ts'

/** So many documents that nothing explains yet are looked through further with each pull: as many as one proof has pairs of assumptions for. */
const SEARCHED_ON = 20

/** What changed, by name: a business that is read for the first time is more than fits as it was sent. */
interface ChangeRow extends Columns<'held_change', 'system_id' | 'resource' | 'object_id'> {
  /** What the versions of an entry before and after name, and the months that they were posted in. */
  readonly names: readonly string[]
  readonly months: readonly string[]
}

/**
 * What has to be proved anew after pulls, those included that were cut off before their proof, month by month: the documents and
 * entries that changed, with the credit notes of each document and the entries that stand behind it; what rests on a set-up that did; and
 * what another version of the computation determined, or a full proof doubts; and some of what nothing explains and was not looked through.
 */
export async function touchedBy(
  books: Books,
): Promise<{ readonly months: readonly string[]; readonly touched: Touched; readonly setUp: boolean }> {
  const { trx, entityId } = books
  const rows = (await trx('held_change as c')
    .join('pull as p', (on) => void on.on('p.entity_id', 'c.entity_id').on('p.pull_id', 'c.pull_id'))
    .where({ 'c.entity_id': entityId })
    .whereNull('p.proved_at')
    .select(
      'c.system_id',
      'c.resource',
      'c.object_id',
      books.trx.raw(`array_remove(array[c.before->>'externalId', c.after->>'externalId'], null) as names`),
      books.trx.raw(
        `array_remove(array[left(c.before->>'postingDate', 7), left(c.after->>'postingDate', 7)], null) as months`,
      ),
    )) as ChangeRow[]
  const of = groupBy(rows, (row) => row.resource)
  const due = await readDue(books)
  const documents = of.get('documents') ?? []
  const entries = of.get('journal-entries') ?? []
  const setUp = [...of.keys()].some((resource) => !isMoving(resource))
  const bySetUp = await touchedBySetUp(books)
  if (due?.touched === 'all' || bySetUp === 'all')
    return { months: await monthsOf(books), touched: 'all', setUp }

  const externalIds = [...entries.flatMap(({ names }) => names), ...(await namedBy(books, entries))]
  const booked = externalIds.flatMap((externalId) =>
    externalId === null ? [] : [documentNamed(entityId, externalId)],
  )
  const named = new Set([
    ...documents.map((d) => `${d.system_id}/${d.object_id}`),
    ...booked.filter((d) => d !== null),
    ...(due?.touched.documents ?? []),
    ...bySetUp.documents,
  ])
  const kept = await committedTouched(books)
  kept.documents.forEach((document) => named.add(document))
  const outdated = await determinedBefore(books)
  outdated.documents.forEach((document) => named.add(document))
  for (const document of await searchWaits(books)) named.add(document)
  const all = new Set([...named, ...(await relatives(books, [...named]))])
  const concerned = [
    ...entries.map((e) => e.object_id),
    ...(await entriesOf(books, [...all])),
    ...outdated.entries,
    ...bySetUp.entries,
    ...(due?.touched.entries ?? []),
  ]
  const { rows: periods } = (await trx.raw(
    `select period from document where entity_id = :e and named = any(:d) union select period from unit where entity_id = :e and named = any(:d) union select period from finding where entity_id = :e and period is not null union select period from tie_unit where entity_id = :e and kind in ('unread', 'unread-entry', 'kept-alone')
     union select period from unit where entity_id = :e and entry_id = any(:entries) union select period from ledger_entry where entity_id = :e and entry_id = any(:entries)`,
    { e: entityId, d: [...all], entries: concerned },
  )) as { rows: { period: string }[] }
  return {
    setUp,
    months: [
      ...new Set([
        ...periods.map((r) => r.period),
        ...entries.flatMap(({ months }) => months),
        ...outdated.months,
        ...kept.months,
        ...(await monthsKept(books, [...all])),
      ]),
    ].sort(),
    touched: {
      documents: all,
      entries: new Set(concerned),
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

async function searchWaits({ trx, entityId }: Books): Promise<string[]> {
  return trx('unit')
    .where({ entity_id: entityId, search_waits: true })
    .whereNotNull('document_id')
    .orderBy('unit_id')
    .limit(SEARCHED_ON)
    .pluck('named') as Promise<string[]>
}

/** What entries name as they are kept, and what could be read of those that cannot be. */
async function namedBy({ trx, entityId }: Books, entries: readonly ChangeRow[]): Promise<(string | null)[]> {
  const ids = entries.map((entry) => entry.object_id)
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
  const { rows } = (await trx.raw(`select entry_id from ledger_entry where entity_id = ? and stem = any(?)`, [
    entityId,
    stems,
  ])) as { rows: { entry_id: string }[] }
  return rows.map((row) => row.entry_id)
}
