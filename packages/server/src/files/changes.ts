import {
  BASELINE_SHEETS,
  identityOf,
  type BaselineImport,
  type BaselineSheet,
  type ImportChanges,
  type SheetResource,
} from '@axion/contract'
import { fieldsOf } from '../connect/fields.ts'
import { canonical, type Transaction } from '../database/connection.ts'

export type ImportMode = 'whole' | 'part'

interface Known {
  readonly id: string
  readonly value: unknown
}
const SHOWN = 60

/** What of a target's objects would be added, changed and taken away; in a part of them nothing is taken away. */
export function changesBetween(
  before: readonly Known[],
  after: readonly Known[],
  mode: ImportMode,
): ImportChanges {
  const was = new Map(before.map((one) => [one.id, one.value]))
  const will = new Map(after.map((one) => [one.id, one.value]))
  const added = after.filter((one) => !was.has(one.id))
  const changed = after.filter((one) => was.has(one.id) && sense(was.get(one.id)) !== sense(one.value))
  const removed = mode === 'whole' ? before.filter((one) => !will.has(one.id)) : []
  const label = (one: Known): string => {
    const { name, number } = one.value as { name?: unknown; number?: unknown }
    return [one.id, name ?? number]
      .filter((part) => typeof part === 'string' && part !== '')
      .filter((part, at, all) => all.indexOf(part) === at)
      .join(' ')
  }
  return {
    added: added.length,
    changed: changed.length,
    removed: removed.length,
    same: after.length - added.length - changed.length,
    samples: [
      ...changed.slice(0, SHOWN).map((one) => ({
        kind: 'changed' as const,
        label: label(one),
        fields: fieldsOf(was.get(one.id), one.value).slice(0, 6),
      })),
      ...removed.slice(0, SHOWN).map((one) => ({ kind: 'removed' as const, label: label(one), fields: [] })),
      ...added.slice(0, SHOWN).map((one) => ({ kind: 'added' as const, label: label(one), fields: [] })),
    ].slice(0, SHOWN),
  }
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
  trx: Transaction,
  entityId: string,
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
