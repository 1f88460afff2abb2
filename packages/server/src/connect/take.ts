import { isMoving, type Resource } from '@axion/contract'
import type { Books } from '../database/connection.ts'
import { insertRows } from '../database/insert.ts'
import { noteDue } from '../proof/due.ts'
import { unreadRow, type UnreadValue } from '../documents/unread.ts'
import type { SystemRow } from '../setUp/held.ts'
import { unstage, type Staged } from './staged.ts'
import { STORE_BINDINGS, storeOf } from './stores.ts'

/** So many are taken over by one statement: what a trigger looks at of them is held meanwhile. */
const TOGETHER = 20_000

/** What came in one resource: how many objects, and what differs from the pull before. */
export interface PullCount {
  readonly resource: string
  added: number
  changed: number
  removed: number
  unreadable: number
}

interface Taking {
  readonly books: Books
  readonly pullId: string
  readonly system: SystemRow
  readonly resource: Resource
  readonly month: string
}

/** How far a system's resource was read; where it is the whole of it, what is not staged is gone. */
export interface Read {
  readonly next: string
  readonly whole?: boolean
}

export function noneOf(resource: Resource): PullCount {
  return { resource, added: 0, changed: 0, removed: 0, unreadable: 0 }
}

/** Takes all of one resource over that is staged, in the caller's transaction, and notes how far its system was read. */
export async function takeResource(taking: Taking, { next, whole = false }: Read): Promise<PullCount> {
  const { books, system, resource } = taking
  const { trx, entityId } = books
  const of = { entity_id: entityId, system_id: system.system_id, resource }
  const count = noneOf(resource)
  if (whole) await stageGone(books, of, next)
  for (let after = ''; ;) {
    const slice = await sliceOf(books, of, after)
    if (slice === null) break
    await takeSlice(taking, of, slice, count)
    after = slice.to
  }
  // Whose outlets changed has its sales read anew: their trading days are by clocks of before.
  if (resource === 'locations' && count.added + count.changed + count.removed > 0)
    await unstage(trx, { ...of, resource: 'documents' })
  await unstage(trx, of)
  // What a service keeps is known from now on: whatever it does not keep was never told.
  if (resource === 'committed' && !(await trx('pull_cursor').where(of).first('sequence')))
    await noteDue(books, 'all')
  await trx('pull_cursor')
    .insert({ ...of, sequence: next, whole: false })
    .onConflict(['entity_id', 'system_id', 'resource'])
    .merge()
  return count
}

interface Slice {
  readonly after: string
  readonly to: string
  /** Whether anything of it is gone: where nothing is, nobody looks for it. */
  readonly gone: boolean
}

/** The next of what is staged, past an id; null where there is none. */
async function sliceOf({ trx }: Books, of: Staged, after: string): Promise<Slice | null> {
  const { rows } = (await trx.raw(
    `select max(object_id) as to, coalesce(bool_or(removed), false) as gone from (select object_id, removed from staged_object where entity_id = :entity_id and system_id = :system_id and resource = :resource and object_id > :after order by object_id limit :most) s`,
    { ...of, after, most: TOGETHER },
  )) as { rows: [{ to: string | null; gone: boolean }] }
  const { to, gone } = rows[0]
  return to === null ? null : { after, to, gone }
}

/** What is held, and is not among all that came, is gone. */
async function stageGone({ trx }: Books, of: Staged, next: string): Promise<void> {
  await trx.raw(
    `insert into staged_object (entity_id, system_id, resource, object_id, sequence, revision, removed)
     select entity_id, system_id, resource, object_id, :next::bigint, '', true from held_object
     where entity_id = :entity_id and system_id = :system_id and resource = :resource and not removed
     on conflict do nothing`,
    { ...of, next },
  )
}

const SLICE =
  's.entity_id = :entity_id and s.system_id = :system_id and s.resource = :resource and s.object_id > :after and s.object_id <= :to'
/** What can be read of a slice, with the scope of its system. */
const GOOD = `select s.*, c.scope from staged_object s cross join (select from_opening((select scope from system_scope where entity_id = :entity_id and system_id = :system_id), :entity_id) as scope) c where ${SLICE} and s.problem is null`
const LABEL = (value: string): string => `coalesce(${value}->>'number', ${value}->>'name', '')`

/** Takes some objects over, and notes what differs from what was held; what is in a bad shape is left out and said. */
async function takeSlice(taking: Taking, of: Staged, slice: Slice, count: PullCount): Promise<void> {
  const { trx } = taking.books
  const bindings = {
    ...of,
    ...slice,
    ...STORE_BINDINGS,
    pull: taking.pullId,
    moving: isMoving(of.resource),
  } as never
  const { table, id, stood, columns, gone } = storeOf(of.resource)
  const noted = await noteReadings(taking, of, slice)
  count.unreadable += noted.unreadable
  // Looked up one by one, by key: the planner may know a table of others' documents and nothing yet of this system's, and would meet all with all.
  const held = `select b.${id}, b.value from ${table} b where b.entity_id = s.entity_id and b.system_id = s.system_id and b.${id} = s.object_id and ${stood} offset 0`
  // What is new of the business stands where it is kept: here it is only known that it came.
  const { rows } = (await trx.raw(
    `with noted as (
       insert into held_change (entity_id, pull_id, system_id, resource, object_id, kind, label, before, after)
       select s.entity_id, :pull, s.system_id, s.resource, s.object_id, k.kind, ${LABEL('coalesce(s.value, b.value)')}, b.value, case when k.kind <> 'added' or not :moving then s.value end
       from (${GOOD}) s left join lateral (${held}) b on true
       cross join lateral (select case when s.removed then 'removed' when b.${id} is null then 'added' else 'changed' end as kind) k
       where case when s.removed then b.${id} is not null else b.value is distinct from s.value end order by s.sequence returning kind)
     select kind, count(*)::int as n from noted group by 1`,
    bindings,
  )) as { rows: { kind: 'added' | 'changed' | 'removed'; n: number }[] }
  for (const { kind, n } of rows) count[kind] += n
  const key = ['entity_id', 'system_id', ...(columns['resource'] ? ['resource'] : []), id]
  const names = Object.keys(columns)
  const changing = names.filter((name) => name !== 'resource')
  const side = (row: string): string => `(${changing.map((name) => `${row}.${name}`).join(', ')})`
  await trx.raw(
    `insert into ${table} as b (entity_id, system_id, ${id}, ${names.join(', ')})
     select s.entity_id, s.system_id, s.object_id, ${names.map((name) => columns[name]).join(', ')} from (${GOOD}) s where not s.removed
     on conflict (${key.join(', ')}) do update set ${changing.map((name) => `${name} = excluded.${name}`).join(', ')} where ${side('b')} is distinct from ${side('excluded')}`,
    bindings,
  )
  if (slice.gone) await trx.raw(gone(`${GOOD} and s.removed`), bindings)
}

/** What cannot be read becomes a finding, and what became readable is none any more; either is noted where it is new. */
async function noteReadings(
  { books: { trx }, pullId, system, month }: Taking,
  of: Staged,
  slice: Slice,
): Promise<{ readonly unreadable: number }> {
  const { rows: before } = (await trx.raw(
    `delete from finding f using staged_object s where ${SLICE} and f.entity_id = s.entity_id and f.system_id = s.system_id and f.resource = s.resource and f.object_id = s.object_id
     returning f.object_id, f.facts->>'problem' as problem, s.problem is null as reads, ${LABEL('s.value')} as label`,
    { ...of, ...slice },
  )) as {
    rows: {
      readonly object_id: string
      readonly problem: string | null
      readonly reads: boolean
      readonly label: string | null
    }[]
  }
  const { rows: unread } = (await trx.raw(
    `select s.object_id as id, s.sequence, s.problem, s.readable as value from staged_object s where ${SLICE} and s.problem is not null order by s.sequence`,
    { ...of, ...slice },
  )) as {
    rows: {
      readonly id: string
      readonly sequence: string
      readonly problem: string
      readonly value: UnreadValue
    }[]
  }
  const here = { entity_id: of.entity_id, system_id: of.system_id }
  const findings = unread.map((one) => ({
    ...here,
    object_id: one.id,
    ...unreadRow(system.name, of.resource, { ...one, month }),
  }))
  await insertRows(trx, 'finding', findings)
  const problemBefore = new Map(before.map((row) => [row.object_id, row.problem]))
  const bare = { ...here, pull_id: pullId, resource: of.resource, before: null, after: null }
  await insertRows(trx, 'held_change', [
    ...findings
      .filter((finding) => problemBefore.get(finding.object_id) !== finding.facts['problem'])
      .map(({ object_id, facts }) => ({
        ...bare,
        object_id,
        kind: 'unreadable' as const,
        label: facts['label'] ?? object_id,
      })),
    ...before
      .filter(({ reads }) => reads)
      .map(({ object_id, label }) => ({
        ...bare,
        object_id,
        kind: 'readable' as const,
        label: label === null || label === '' ? object_id : label,
      })),
  ])
  return { unreadable: findings.length }
}
