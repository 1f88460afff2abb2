import {
  BASELINE_SHEETS,
  identityOf,
  type BaselineImport,
  type BaselineSheet,
  type ImportChanges,
  type SheetResource,
} from '@axion/contract'
import { dayBefore } from '@axion/core'
import { fieldsOf } from '../audit/fields.ts'
import { type Books } from '../database/connection.ts'
import { canonical } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'

export type ImportMode = 'whole' | 'part'

interface Known {
  readonly id: string
  readonly value: unknown
}
const SHOWN = 60

/**
 * What of a target's objects would be added, changed and taken away; in a part of them nothing is taken away.
 * @param since the first day of the month that is worked; null where nothing is kept by dates
 */
export function changesBetween(
  before: readonly Known[],
  after: readonly Known[],
  mode: ImportMode,
  since: string | null,
): ImportChanges {
  const was = new Map(before.map((one) => [one.id, one.value]))
  const will = new Map(after.map((one) => [one.id, one.value]))
  const added = after.filter((one) => !was.has(one.id))
  const changed = after.filter((one) => was.has(one.id) && sense(was.get(one.id)) !== sense(one.value))
  const removed = mode === 'whole' ? before.filter((one) => !will.has(one.id)) : []
  return {
    added: added.length,
    changed: changed.length,
    removed: removed.length,
    same: after.length - added.length - changed.length,
    earlier:
      since === null
        ? 0
        : changed.filter(
            (one) => decidesOtherwise(was.get(one.id), one.value) && holdsBefore(was.get(one.id), since),
          ).length + removed.filter((one) => holdsBefore(one.value, since)).length,
    samples: [
      ...changed.slice(0, SHOWN).map((one) => ({
        kind: 'changed' as const,
        label: labelOf(one),
        fields: fieldsOf(was.get(one.id), one.value).slice(0, 6),
      })),
      ...removed
        .slice(0, SHOWN)
        .map((one) => ({ kind: 'removed' as const, label: labelOf(one), fields: [] })),
      ...added.slice(0, SHOWN).map((one) => ({ kind: 'added' as const, label: labelOf(one), fields: [] })),
    ].slice(0, SHOWN),
  }
}

function labelOf(one: Known): string {
  const { name, number } = one.value as { name?: unknown; number?: unknown }
  return [one.id, name ?? number]
    .filter((part) => typeof part === 'string' && part !== '')
    .filter((part, at, all) => all.indexOf(part) === at)
    .join(' ')
}

interface Dated {
  readonly from?: string | null
  readonly to?: string | null
}

/** Whether a row with dates holds on days before this one. */
function holdsBefore(value: unknown, day: string): boolean {
  return typeof value === 'object' && value !== null && 'from' in value && ((value as Dated).from ?? '') < day
}

/** Whether two versions differ in more than their name, which decides nothing. */
function decidesOtherwise(before: unknown, after: unknown): boolean {
  const nameless = (value: unknown): string => sense({ ...(value as object), name: null })
  return nameless(before) !== nameless(after)
}

/**
 * The rows of a sheet where what would be otherwise, or gone, for days before this one is so from this day on only: what held before
 * goes on to the day before it.
 * @throws AXION_ENDED_BEFORE where a changed row ends before that day
 */
export function heldFrom(
  before: readonly Known[],
  rows: readonly Known[],
  mode: ImportMode,
  day: string,
): Known[] {
  const was = new Map(before.map((one) => [one.id, one.value]))
  const will = new Set(rows.map((row) => row.id))
  const until = dayBefore(day)
  const changed = rows.flatMap((row) => {
    const old = was.get(row.id)
    if (old === undefined || !decidesOtherwise(old, row.value) || !holdsBefore(old, day)) return [row]
    const { to } = row.value as Dated
    if (typeof to === 'string' && to < day)
      throw new Problem('AXION_ENDED_BEFORE', { what: labelOf(row), to, day })
    return [
      { id: row.id, value: { ...(old as object), to: until } },
      { id: `${row.id} ${day}`, value: { ...(row.value as object), from: day } },
    ]
  })
  const ended = before.flatMap((one): Known[] => {
    if (mode !== 'whole' || will.has(one.id) || !holdsBefore(one.value, day)) return []
    const { to } = one.value as Dated
    return [
      typeof to === 'string' && to < day ? one : { ...one, value: { ...(one.value as object), to: until } },
    ]
  })
  return [...changed, ...ended]
}

/** A value as it counts: decimals without idle zeros, fields in one order. */
function sense(value: unknown): string {
  return canonical(
    JSON.parse(
      JSON.stringify(value, (_, part: unknown) =>
        typeof part === 'string' && /^\d+\.\d+$/.test(part) ? part.replace(/\.?0+$/, '') : part,
      ),
    ),
  )
}

/** What a system holds of a resource, by its ids. */
export async function heldOf(
  { trx, entityId }: Books,
  systemId: string,
  resource: SheetResource,
): Promise<Known[]> {
  return trx('held_object')
    .where({ entity_id: entityId, system_id: systemId, resource, removed: false })
    .orderBy('object_id')
    .select('object_id as id', 'value')
}

/** The baseline's rows of a sheet, by what they are known by. */
export function baselineRows(baseline: BaselineImport, key: BaselineSheet): Known[] {
  return (baseline[key] as readonly unknown[]).map((value) => ({
    id: identityOf(BASELINE_SHEETS[key], value),
    value,
  }))
}

/** A baseline with the rows of some sheets in place of its own, or beside them where they are a part. */
export function withRows(
  baseline: BaselineImport,
  sheets: readonly { readonly key: BaselineSheet; readonly rows: readonly Known[] }[],
  mode: ImportMode,
): BaselineImport {
  return sheets.reduce<BaselineImport>((all, { key, rows }) => {
    const ids = new Set(rows.map((row) => row.id))
    const kept = mode === 'whole' ? [] : baselineRows(all, key).filter((row) => !ids.has(row.id))
    return { ...all, [key]: [...kept, ...rows].map((row) => row.value) }
  }, baseline)
}
