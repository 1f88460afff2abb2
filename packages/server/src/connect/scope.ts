import { createHash } from 'node:crypto'
import {
  COMING_IN,
  KINDS_OF,
  WHOLE_SCOPE,
  type Scope,
  type ScopeAmount,
  type ScopePart,
  type ScopePreview,
  type ScopeView,
} from '@axion/contract'
import { formatAmount } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'
import { prove } from '../proof/prove.ts'
import { connectedSystems, type SystemRow } from '../setUp/held.ts'
import { setNextPull } from './schedule.ts'
import { amountOf, bound, DOCUMENTS, movedUnder, movesOf, SUMS, type Sums } from './scopeSums.ts'

/** A system's scope as it is kept: nothing kept means that all of it flows. */
export async function scopeOf({ trx, entityId }: Books, systemId: string): Promise<Scope> {
  const row = (await trx('system_scope')
    .where({ entity_id: entityId, system_id: systemId })
    .first('scope')) as { scope: Scope } | undefined
  return row?.scope ?? WHOLE_SCOPE
}

interface Group extends Sums {
  readonly channels: string
  readonly places: string
  readonly kinds: string
  readonly statuses: string
  readonly not_taken: 'out-of-range' | 'kind-off' | null
}

const MOST_LEFT = 50

/** What of a system is taken, and what that leaves out in the month, with its amounts. */
export async function scopeView(books: Books, month: string, systemId: string): Promise<ScopeView> {
  const { trx, entityId, currency } = books
  const system = await systemNamed(books, systemId)
  const kept = (await trx('system_scope').where({ entity_id: entityId, system_id: systemId }).first()) as
    { scope: Scope; changed_by: string; next_pull_at: Date | null } | undefined
  const scope = kept?.scope ?? WHOLE_SCOPE
  const here = { ...bound(entityId, systemId, currency), month }
  const { rows: groups } = (await trx.raw(
    `select coalesce(value->>'channel', '') as channels, coalesce(value->>'locationId', '') as places, kind as kinds, coalesce(value->>'status', '') as statuses, not_taken, ${SUMS}
     from (${DOCUMENTS}) d where period = :month group by 1, 2, 3, 4, 5`,
    here,
  )) as { rows: Group[] }
  const { rows: left } = (await trx.raw(
    `select number, party, day::text as date, not_taken as why, tax::text as tax, total::text as total, booked from (${DOCUMENTS}) d where period = :month and not_taken is not null order by day, number limit ${MOST_LEFT}`,
    here,
  )) as {
    rows: {
      number: string
      party: string
      date: string
      why: 'out-of-range' | 'kind-off'
      tax: string | null
      total: string | null
      booked: boolean
    }[]
  }
  const places = (await trx('held_object')
    .where({ entity_id: entityId, system_id: systemId, resource: 'locations', removed: false })
    .orderByRaw(`value->>'name'`)
    .select('object_id', trx.raw(`value->>'name' as name`))) as { object_id: string; name: string }[]
  const amount = (of: readonly Group[]): ScopeAmount => amountOf(of, currency)
  const partOf = (part: ScopePart, known: readonly string[]): ScopeView['parts'][ScopePart] => {
    const keys = [...new Set([...known, ...groups.map((group) => group[part]), ...scope.off[part]])]
    const named = keys.filter((key) => key !== '' || groups.some((group) => group[part] !== ''))
    return named.map((key) => ({
      key,
      name: part === 'places' ? (places.find((place) => place.object_id === key)?.name ?? key) : key,
      ...amount(groups.filter((group) => group[part] === key)),
    }))
  }
  return {
    currency,
    scope,
    changedBy: kept?.changed_by ?? null,
    nextPullAt: kept?.next_pull_at?.toISOString() ?? null,
    comesIn: COMING_IN.includes(system.role),
    parts: {
      channels: partOf('channels', []),
      places: partOf('places', system.role === 'pos' ? places.map((place) => place.object_id) : []),
      kinds: partOf('kinds', KINDS_OF[system.role]),
      statuses: partOf('statuses', []).filter(({ key }) => key !== ''),
    },
    taken: amount(groups.filter((group) => group.not_taken === null)),
    tooOld: amount(groups.filter((group) => group.not_taken === 'out-of-range')),
    off: amount(groups.filter((group) => group.not_taken === 'kind-off')),
    left: left.map(({ tax, total: all, ...one }) => ({
      ...one,
      tax: said(tax, currency),
      total: said(all, currency),
    })),
  }
}

export const said = (units: string | null, currency: string): string | null =>
  units === null ? null : formatAmount(BigInt(units), currency)

/** What another scope would do, over all months. */
export async function previewScope(books: Books, systemId: string, scope: Scope): Promise<ScopePreview> {
  await systemNamed(books, systemId)
  const { currency } = books
  const moves = movesOf(
    await movedUnder(books, systemId, {
      scope: 'from_opening(:scope::jsonb, :e)',
      bindings: { scope: json(scope) },
    }),
    currency,
  )
  return {
    ...moves,
    revision: createHash('sha256')
      .update(json([await scopeOf(books, systemId), scope, moves]))
      .digest('base64url'),
  }
}

/**
 * Keeps a system's scope and proves what it moves. What is booked already stays booked.
 * @throws AXION_STALE where what it does is not what the preview said
 */
export async function changeScope(
  books: Books,
  systemId: string,
  { scope, revision }: { readonly scope: Scope; readonly revision: string },
  person: string,
): Promise<void> {
  const { trx, entityId } = books
  const system = await systemNamed(books, systemId)
  if ((await previewScope(books, systemId, scope)).revision !== revision)
    throw new Problem('AXION_STALE', { what: 'What this scope would do' })
  const before = await scopeOf(books, systemId)
  await trx('system_scope')
    .insert({ entity_id: entityId, system_id: systemId, scope: json(scope), changed_by: person })
    .onConflict(['entity_id', 'system_id'])
    .merge({ scope: json(scope), changed_by: person, changed_at: trx.fn.now() })
  await setNextPull(books, systemId)
  await audit(trx, 'changed-scope', system.name, { before, after: scope })
  await proveMoved(books, await applyScope(books, systemId, null))
}

export interface Moved {
  readonly period: string
  /** The document as system/id; null of a settlement or a bank line, which nothing is worked out of yet. */
  readonly key: string | null
}

/** Notes beside what a system sent, all of it or that named, why it is not taken. @returns that of which it changed */
export async function applyScope(
  { trx, entityId }: Books,
  systemId: string,
  ids: readonly string[] | null,
): Promise<Moved[]> {
  const update = (table: string, id: string, day: string, key: string): string => `
    update ${table} d set not_taken = why_not_taken(c.scope, d.${day}, d.kind, d.value) from (select from_opening((select scope from system_scope where entity_id = :e and system_id = :s), :e) as scope) c
    where d.entity_id = :e and d.system_id = :s and (:ids::text[] is null or d.${id} = any(:ids)) and d.not_taken is distinct from why_not_taken(c.scope, d.${day}, d.kind, d.value)
    returning d.period, ${key} as key`
  const moved: Moved[] = []
  for (const one of [
    update('document', 'document_id', 'document_date', 'd.named'),
    update('held_record', 'record_id', 'day', 'null'),
  ]) {
    const { rows } = (await trx.raw(one, {
      e: entityId,
      s: systemId,
      ids: ids === null ? null : [...ids],
    })) as { rows: Moved[] }
    moved.push(...rows)
  }
  return moved
}

async function proveMoved(books: Books, moved: readonly Moved[]): Promise<void> {
  const touched = { documents: new Set(moved.flatMap((one) => one.key ?? [])), entries: new Set<string>() }
  for (const period of [...new Set(moved.map((one) => one.period))].sort())
    await prove(books, period, touched)
}

/** What every system leaves out of a month, by system. */
export async function leftOutOf(
  { trx, entityId, currency }: Books,
  month: string,
  systems: readonly SystemRow[],
): Promise<Map<string, ScopeAmount>> {
  const left = new Map<string, ScopeAmount>()
  for (const { system_id: systemId } of systems) {
    const { rows } = (await trx.raw(
      `select ${SUMS} from (${DOCUMENTS}) d where period = :month and not_taken is not null and not booked`,
      { ...bound(entityId, systemId, currency), month },
    )) as { rows: Sums[] }
    left.set(
      systemId,
      amountOf(
        rows.filter((row) => row.documents > 0),
        currency,
      ),
    )
  }
  return left
}

async function systemNamed(books: Books, systemId: string): Promise<SystemRow> {
  const system = (await connectedSystems(books)).find((one) => one.system_id === systemId)
  if (!system) throw new Problem('AXION_NOT_FOUND', { what: 'such system' })
  return system
}
