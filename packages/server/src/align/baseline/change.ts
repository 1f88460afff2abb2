import {
  BASELINE_SHEETS,
  fieldsOfKind,
  isDated,
  readRows,
  type AgreedChange,
  type AgreedKind,
  type AgreedPreview,
  type BaselineImport,
} from '@axion/contract'
import { dayBefore } from '@axion/core'
import { importTable, requireReferences } from '../../baseline/import.ts'
import { readBaseline } from '../../baseline/read.ts'
import { rowsOf } from '../../baseline/rows.ts'
import { TABLE_OF } from '../../baseline/tables/byKind.ts'
import type { Books } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { cellsOf, FIRST_DAY, firstDay, type Cells, type Version } from './versions.ts'
import { nameOfKind } from './view.ts'

/** A change as it would stand: the whole baseline with it, and what of one object becomes what. */
export interface Worked {
  readonly kind: AgreedKind
  readonly id: string
  readonly wanted: BaselineImport
  /** In words: which object. */
  readonly what: string
  readonly before: Version | null
  /** What takes its place; null where nothing does. */
  readonly after: Version | null
  /** The day from which it does; null where it does at all days. */
  readonly since: string | null
}

/**
 * Works out what a baseline is after a change of one object. Nothing is written.
 * @throws AXION_BAD_REQUEST by the field's name, AXION_ALREADY_EXISTS, AXION_NOT_FOUND, AXION_ENDED_BEFORE, and AXION_BASELINE_INCONSISTENT where
 * something else names what would be gone
 */
export async function workedOut(books: Books, kind: AgreedKind, change: AgreedChange): Promise<Worked> {
  const now = await readBaseline(books)
  const table = TABLE_OF[kind]
  const all = (now[kind] as readonly unknown[]).map((stated) => {
    const row = table.toRow(stated, 0)
    return { id: row.objectId, ...versionOfStated(kind, stated) }
  })
  const id = change.act === 'make' ? idOf(kind, readCells(kind, change.cells)) : change.id
  const own = all.filter((one) => one.id === id)
  const before =
    change.act === 'make' ? null : (own.find((one) => one.from === change.version) ?? gone(kind, change.id))
  const after = afterOf(kind, change, before)
  if (change.act === 'make' && own.length > 0 && !isDated(kind))
    throw new Problem('AXION_ALREADY_EXISTS', { what: `${nameOfKind(kind)} ${id}` })
  if (before !== null && after.some((one) => knownBy(kind, one) !== knownBy(kind, before)))
    throw bad('cells', `what a ${nameOfKind(kind)} is known by stays as it is: another is made beside it`)
  const kept = all.filter((one) => one !== before).map(({ stated }) => stated)
  const wanted = { ...now, [kind]: [...kept, ...after.map(({ stated }) => stated)] } as BaselineImport
  requireReferences(wanted)
  const changed = after.at(-1) ?? null
  return {
    kind,
    // A rule that gets limits goes by their currency too.
    id: changed ? idOf(kind, changed.stated) : id,
    wanted,
    what: `${nameOfKind(kind)} ${labelOf(id, changed ?? before)}`,
    before,
    after: changed,
    since: change.act === 'change' ? change.since : null,
  }
}

/** Writes it: the kind's own rows alone. @throws AXION_BASELINE_OVERLAP where two versions would hold on one day */
export async function write(books: Books, { kind, wanted }: Worked, at: string): Promise<void> {
  const { table } = TABLE_OF[kind]
  await importTable(books, table, rowsOf(wanted)[table] ?? [], { at })
}

/** The versions that take the place of one. */
function afterOf(kind: AgreedKind, change: AgreedChange, before: Version | null): Version[] {
  if (change.act === 'remove' || (change.act !== 'make' && before === null)) return []
  if (change.act === 'make' || before === null) {
    const { cells } = change as Extract<AgreedChange, { act: 'make' }>
    return [inOrder(versionOfStated(kind, readCells(kind, cells)))]
  }
  if (change.act === 'end') {
    requireDated(kind)
    return [inOrder(withDays(kind, before, { from: before.from, to: change.last }))]
  }
  if (change.since === null) return [inOrder(versionOfStated(kind, readCells(kind, change.cells)))]
  requireDated(kind)
  const { since } = change
  if (before.to !== null && before.to < since)
    throw new Problem('AXION_ENDED_BEFORE', {
      what: labelOf(change.id, before),
      to: before.to,
      day: since,
    })
  const fresh = versionOfStated(kind, readCells(kind, { ...change.cells, ...daysText(since, before.to) }))
  // From its own first day on, or before it, there is nothing left of what it was.
  return (before.from ?? FIRST_DAY) >= since
    ? [withDays(kind, fresh, before)]
    : [withDays(kind, before, { from: before.from, to: dayBefore(since) }), fresh]
}

function requireDated(kind: AgreedKind): void {
  if (!isDated(kind)) throw bad('act', `a ${nameOfKind(kind)} has no days: it is changed at all of them`)
}

const bad = (path: string, problem: string): Problem => new Problem('AXION_BAD_REQUEST', { path, problem })

function gone(kind: AgreedKind, id: string): never {
  throw new Problem('AXION_NOT_FOUND', { what: `such version of the ${nameOfKind(kind)} ${id}` })
}

/** Cells read as a row of the kind's sheet is. A first day that is not there is the first day of all. */
function readCells(kind: AgreedKind, cells: Cells): unknown {
  const sheet = BASELINE_SHEETS[kind]
  const odd = Object.keys(cells).find((path) => !sheet.columns.some((each) => each.path === path))
  if (odd !== undefined) throw bad('cells', `a ${nameOfKind(kind)} has no “${odd}”`)
  const from = sheet.columns.find(({ path }) => path === 'from')
  const full = from?.needed && (cells['from'] ?? '').trim() === '' ? { ...cells, from: FIRST_DAY } : cells
  const [read] = readRows(sheet, [{ line: 1, cells: full }])
  if (read && 'value' in read) return read.value
  throw bad('cells', read?.problem ?? 'nothing is there')
}

function idOf(kind: AgreedKind, stated: unknown): string {
  return TABLE_OF[kind].toRow(stated, 0).objectId
}

/** What stays of an object, whatever is changed of it. */
function knownBy(kind: AgreedKind, { cells }: Version): string {
  return JSON.stringify(fieldsOfKind(kind).flatMap(({ path, known }) => (known ? [cells[path] ?? ''] : [])))
}

function versionOfStated(kind: AgreedKind, stated: unknown): Version {
  const { from = null, to = null } = stated as Partial<Pick<Version, 'from' | 'to'>>
  return { cells: cellsOf(kind, stated), stated, from: firstDay(from), to }
}

const daysText = (from: string | null, to: string | null): Cells => ({ from: from ?? '', to: to ?? '' })

function withDays(kind: AgreedKind, version: Version, { from, to }: Pick<Version, 'from' | 'to'>): Version {
  return versionOfStated(kind, readCells(kind, { ...version.cells, ...daysText(from, to) }))
}

/** @throws AXION_BAD_REQUEST where it ends before it begins */
function inOrder(version: Version): Version {
  const { from, to } = version
  if (to !== null && to < (from ?? FIRST_DAY)) throw bad('to', `${to} is before ${from ?? FIRST_DAY}`)
  return version
}

function labelOf(id: string, version: Version | null): string {
  const { name } = version?.cells ?? {}
  return name === undefined || name === id ? id : `${id}, ${name}`
}

/** Field by field, what is there and what would be, where it is another. */
export function fieldsBetween({ kind, before, after, since }: Worked): AgreedPreview['fields'] {
  const days = isDated(kind) && since === null ? [['from', 'From'] as const, ['to', 'Until'] as const] : []
  const cell = (version: Version | null, path: string): string | null =>
    version === null
      ? null
      : path === 'from' || path === 'to'
        ? (version[path] ?? null)
        : version.cells[path] || null
  return [...fieldsOfKind(kind).map(({ path, title }) => [path, title] as const), ...days]
    .map(([path, title]) => ({ title, before: cell(before, path), after: cell(after, path) }))
    .filter((one) => one.before !== one.after)
}
