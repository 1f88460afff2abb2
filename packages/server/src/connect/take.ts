import {
  decodeDocument,
  KINDS_OF,
  problemOfEntry,
  RESOURCES,
  say,
  type BankLine,
  type Change,
  type JournalEntry,
  type Resource,
  type Settlement,
  type SourceDocument,
  type SystemRole,
} from '@axion/contract'
import { Fault, parseAmount } from '@axion/core'
import { canonical, insertRows, noteGrown, type Transaction } from '../database/connection.ts'
import type { SystemRow } from './held.ts'
import { applyScope } from './scope.ts'
import { unstage } from './staged.ts'
import { storeOf, type Accepted } from './stores.ts'
import { unreadRow, type UnreadRow } from './unread.ts'

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

/** The changes of one resource; where they are the whole of it, what is not among them is gone. */
export interface Pulled {
  readonly items: readonly Change[]
  readonly next: string
  readonly whole?: boolean
}

/** Takes changes of one resource, and notes what differs from what was held; what is in a bad shape is left out and said. */
export async function takeResource(
  trx: Transaction,
  entityId: string,
  pullId: string,
  system: SystemRow,
  resource: Resource,
  { items, next, whole = false }: Pulled,
  month: string,
): Promise<PullCount> {
  const count: PullCount = { resource, added: 0, changed: 0, removed: 0, unreadable: 0 }
  const here = { entity_id: entityId, system_id: system.system_id }
  // Of an object that changed twice since the last pull only its last state counts.
  const named = new Map(items.map((change) => [change.id, change]))
  const gone = whole
    ? (
        (await trx('held_object')
          .where({ ...here, resource, removed: false })
          .pluck('object_id')) as string[]
      ).filter((id) => !named.has(id))
    : []
  const latest = [
    ...named.values(),
    ...gone.map((id): Change => ({ id, sequence: next, revision: '', removed: true, value: null })),
  ]
  const ids = latest.map((change) => change.id)
  const unreadBefore = (await trx('finding')
    .where({ ...here, resource })
    .whereRaw('object_id = any(?)', [ids])
    .delete()
    .returning(['object_id', 'facts'])) as { object_id: string; facts: { problem?: string } }[]

  const { base_currency: booksCurrency } = (await trx('legal_entity')
    .where({ entity_id: entityId })
    .first('base_currency')) as { base_currency: string }
  const findings: (UnreadRow & { readonly object_id: string })[] = []
  const accepted: Accepted[] = []
  for (const change of latest) {
    const read = change.removed
      ? { value: null }
      : readValue(system.role, resource, change.value, booksCurrency)
    if ('value' in read) accepted.push({ change, value: read.value })
    else
      findings.push({
        ...here,
        object_id: change.id,
        ...unreadRow(system.name, resource, change, read.problem, month),
      })
  }
  count.unreadable = findings.length
  const store = storeOf(system.role, resource)
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
  if (['documents', 'settlements', 'bank-lines'].includes(resource))
    await applyScope(trx, entityId, system.system_id, ids)

  const changes = accepted.flatMap(({ change, value }) => {
    const was = before.get(change.id)
    if (value === null ? was === undefined : was !== undefined && canonical(was) === canonical(value))
      return []
    const kind = value === null ? 'removed' : was === undefined ? 'added' : 'changed'
    count[kind]++
    return [
      {
        ...here,
        pull_id: pullId,
        resource,
        object_id: change.id,
        kind,
        label: labelOf(value ?? was),
        before: was ?? null,
        after: value,
      },
    ]
  })
  await insertRows(trx, 'finding', findings)
  const known = new Map(unreadBefore.map((row) => [row.object_id, row.facts.problem]))
  const noted = (objectId: string, kind: 'unreadable' | 'readable', label: string): object => ({
    ...here,
    pull_id: pullId,
    resource,
    object_id: objectId,
    kind,
    label,
    before: null,
    after: null,
  })
  await insertRows(trx, 'held_change', [
    ...changes,
    ...findings
      .filter((finding) => known.get(finding.object_id) !== finding.facts['problem'])
      .map((finding) => noted(finding.object_id, 'unreadable', finding.facts['label'] ?? finding.object_id)),
    ...accepted
      .filter(({ change }) => known.has(change.id))
      .map(({ change, value }) => noted(change.id, 'readable', labelOf(value) || change.id)),
  ])
  if (latest.length >= MANY) noteGrown(trx, 'sources')
  await unstage(trx, { ...here, resource })
  await trx('pull_cursor')
    .insert({ ...here, resource, sequence: next, whole: false })
    .onConflict(['entity_id', 'system_id', 'resource'])
    .merge()
  return count
}

/** Reads a value as the contract shapes it, in exact amounts; a bad one is told with where it is wrong. */
function readValue(
  role: SystemRole,
  resource: Resource,
  value: unknown,
  booksCurrency: string,
): { readonly value: unknown } | { readonly problem: string } {
  const read = RESOURCES[resource].safeParse(value)
  if (!read.success) {
    const [issue] = read.error.issues
    return { problem: `${issue?.path.join('.') || 'it'} ${issue?.message ?? ''}` }
  }
  try {
    if (resource === 'documents') {
      const document = read.data as SourceDocument
      if (!KINDS_OF[role].includes(document.kind))
        return { problem: `kind "${document.kind}" is none that a ${role} system has` }
      decodeDocument(document)
    }
    if (resource === 'settlements')
      for (const text of [(read.data as Settlement).amount, (read.data as Settlement).fee])
        parseAmount(text, (read.data as Settlement).currency)
    if (resource === 'bank-lines')
      parseAmount((read.data as BankLine).amount, (read.data as BankLine).currency)
    if (resource === 'journal-entries') {
      const problem = problemOfEntry(read.data as JournalEntry, booksCurrency)
      if (problem !== null) return { problem }
    }
    return { value: read.data }
  } catch (error) {
    if (error instanceof Fault) return { problem: say(error.code, error.facts).says.replace(/\.$/, '') }
    throw error
  }
}

export function labelOf(value: unknown): string {
  const named = (value ?? {}) as { name?: unknown; number?: unknown }
  return String(named.number ?? named.name ?? '')
}
