import { isMoving, type Change, type Resource } from '@axion/contract'
import { noteGrown, type Books } from '../database/connection.ts'
import { canonical } from '../database/json.ts'
import { insertRows } from '../database/insert.ts'
import { unreadRow, type UnreadRow } from '../documents/unread.ts'
import type { Reading } from '../reading/pool.ts'
import type { SystemRow } from '../setUp/held.ts'
import { applyScope } from './scope.ts'
import { unstage } from './staged.ts'
import { storeOf, type Accepted } from './stores.ts'

/** So many objects at once change how the planner should think of them. */
const MANY = 2000

/** What came in one resource: how many objects, and what differs from the pull before. */
export interface PullCount {
  readonly resource: string
  added: number
  changed: number
  removed: number
  unreadable: number
}

/** The changes of one resource, part after part as they came; where they are the whole of it, what is not among them is gone. */
export interface Pulled {
  readonly parts: Iterable<readonly Change[]> | AsyncIterable<readonly Change[]>
  /** Where each object's last change stands: of one that changed twice since the last pull only its last state counts. */
  readonly last: ReadonlyMap<string, string>
  readonly next: string
  readonly whole?: boolean
}

interface Taking {
  readonly books: Books
  readonly reading: Reading
  readonly pullId: string
  readonly system: SystemRow
  readonly resource: Resource
  readonly month: string
}

export function noneOf(resource: Resource): PullCount {
  return { resource, added: 0, changed: 0, removed: 0, unreadable: 0 }
}

/** Takes all changes of one resource over, in the caller's transaction, and notes how far its system was read. */
export async function takeResource(
  taking: Taking,
  { parts, last, next, whole = false }: Pulled,
): Promise<PullCount> {
  const { books, system, resource } = taking
  const { trx, entityId } = books
  const here = { entity_id: entityId, system_id: system.system_id }
  const count = noneOf(resource)
  const taken = new Set<string>()
  for await (const part of parts) {
    const wanted = part.filter(({ id, sequence }) => last.get(id) === sequence && !taken.has(id))
    for (const { id } of wanted) taken.add(id)
    await takeSome(taking, wanted, count)
  }
  if (whole) {
    const held = await trx('held_object')
      .where({ ...here, resource, removed: false })
      .pluck('object_id')
    const gone = held.filter((id) => !last.has(id))
    await takeSome(
      taking,
      gone.map((id) => ({ id, sequence: next, revision: '', removed: true, value: null })),
      count,
    )
  }
  if (last.size >= MANY) noteGrown(trx, 'sources')
  await unstage(trx, { ...here, resource })
  await trx('pull_cursor')
    .insert({ ...here, resource, sequence: next, whole: false })
    .onConflict(['entity_id', 'system_id', 'resource'])
    .merge()
  return count
}

/** Where the last change of each object stands. */
export function lastOf(changes: Iterable<Change>, last = new Map<string, string>()): Map<string, string> {
  for (const { id, sequence } of changes) last.set(id, sequence)
  return last
}

/** Takes some changes, and notes what differs from what was held; what is in a bad shape is left out and said. */
async function takeSome(taking: Taking, changes: readonly Change[], count: PullCount): Promise<void> {
  const { books, system, resource } = taking
  const { trx, entityId } = books
  const latest = [...new Map(changes.map((change) => [change.id, change])).values()]
  if (latest.length === 0) return
  const here = { entity_id: entityId, system_id: system.system_id }
  const ids = latest.map((change) => change.id)
  const unreadBefore = (await trx('finding')
    .where({ ...here, resource })
    .whereRaw('object_id = any(?)', [ids])
    .delete()
    .returning(['object_id', 'facts'])) as { object_id: string; facts: { problem?: string } }[]
  const { accepted, findings } = await readSome(taking, latest)
  count.unreadable += findings.length

  const store = storeOf(resource)
  const before = await store.before(trx, here, ids)
  await store.put(
    trx,
    here,
    accepted.filter((a) => a.value !== null),
  )
  await store.remove(
    trx,
    here,
    accepted.filter((a) => a.value === null).map((a) => a.change.id),
  )
  if (isMoving(resource) && resource !== 'journal-entries') await applyScope(books, system.system_id, ids)
  await insertRows(
    trx,
    'finding',
    findings.map((finding) => ({ ...here, ...finding })),
  )

  const differing = accepted.flatMap(({ change, value }) => {
    const noted = differenceOf(change.id, before.get(change.id), value)
    // What is new of the business stands where it is kept: here it is only known that it came.
    return noted ? [noted.kind === 'added' && isMoving(resource) ? { ...noted, after: null } : noted] : []
  })
  for (const { kind } of differing) count[kind]++
  const unreadOf = new Map(unreadBefore.map((row) => [row.object_id, row.facts.problem]))
  const noted = [...differing, ...readings(unreadOf, accepted, findings)]
  await insertRows(
    trx,
    'held_change',
    noted.map((one) => ({ ...here, pull_id: taking.pullId, resource, ...one })),
  )
}

type Unread = UnreadRow & { readonly object_id: string }

/** Each change as its shape reads, and a finding of each that does not. */
async function readSome(
  { books, reading, system, resource, month }: Taking,
  latest: readonly Change[],
): Promise<{ accepted: Accepted[]; findings: Unread[] }> {
  const there = latest.filter(({ removed }) => !removed)
  const values = await reading.values({
    role: system.role,
    resource,
    booksCurrency: books.currency,
    values: there.map(({ value }) => value),
  })
  const readOf = new Map(there.map(({ id }, at) => [id, values[at]]))
  const accepted: Accepted[] = []
  const findings: Unread[] = []
  for (const change of latest) {
    const read = readOf.get(change.id) ?? { value: null }
    if ('value' in read) accepted.push({ change, value: read.value })
    else
      findings.push({
        object_id: change.id,
        ...unreadRow(system.name, resource, { change, problem: read.problem, month }),
      })
  }
  return { accepted, findings }
}

interface Noted<Kind> {
  readonly object_id: string
  readonly kind: Kind
  readonly label: string
  readonly before: unknown
  readonly after: unknown
}

/** What became of an object since it was read last; null where it is as it was. */
function differenceOf(
  objectId: string,
  was: unknown,
  value: unknown,
): Noted<'added' | 'changed' | 'removed'> | null {
  if (value === null ? was === undefined : was !== undefined && canonical(was) === canonical(value))
    return null
  return {
    object_id: objectId,
    kind: value === null ? 'removed' : was === undefined ? 'added' : 'changed',
    label: labelOf(value ?? was),
    before: was ?? null,
    after: value,
  }
}

/** What cannot be read any more, or for another reason than before, and what can be again. */
function readings(
  unreadBefore: ReadonlyMap<string, string | undefined>,
  accepted: readonly Accepted[],
  findings: readonly Unread[],
): Noted<'unreadable' | 'readable'>[] {
  const bare = { before: null, after: null }
  return [
    ...findings
      .filter((finding) => unreadBefore.get(finding.object_id) !== finding.facts['problem'])
      .map(({ object_id, facts }) => ({
        object_id,
        kind: 'unreadable' as const,
        label: facts['label'] ?? object_id,
        ...bare,
      })),
    ...accepted
      .filter(({ change }) => unreadBefore.has(change.id))
      .map(({ change, value }) => ({
        object_id: change.id,
        kind: 'readable' as const,
        label: labelOf(value) || change.id,
        ...bare,
      })),
  ]
}

export function labelOf(value: unknown): string {
  const named = (value ?? {}) as { name?: unknown; number?: unknown }
  return String(named.number ?? named.name ?? '')
}
