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
import { FIRST_DAY, versionOf, type Cells, type Version } from './versions.ts'
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
  const all = (now[kind] as readonly unknown[]).map((stated) => versionOf(kind, stated))
  const { before, after } =
    change.act === 'make' ? made(kind, all, change) : changed(kind, whichOf(kind, all, change), change)
  const kept = all.filter((one) => one !== before).map(({ stated }) => stated)
  const wanted = { ...now, [kind]: [...kept, ...after.map(({ stated }) => stated)] } as BaselineImport
  requireReferences(wanted)
  const [last = before] = after.slice(-1)
  const id = last ? idOf(kind, last.stated) : ''
  return {
    ...{ kind, wanted, before, after: after.at(-1) ?? null },
    // A rule that gets limits goes by their currency too.
    id,
    what: `${nameOfKind(kind)} ${labelOf(id, last)}`,
    since: after.length > 1 && change.act === 'change' ? change.since : null,
  }
}

/** Writes it: the kind's own rows alone. @throws AXION_BASELINE_OVERLAP where two versions would hold on one day */
export async function write(books: Books, { kind, wanted }: Worked, at: string): Promise<void> {
  const { table } = TABLE_OF[kind]
  await importTable(books, table, rowsOf(wanted)[table] ?? [], { at })
}

interface Exchanged {
  /** Null where nothing was there. */
  readonly before: Version | null
  /** What takes its place, in the order of its days. */
  readonly after: readonly Version[]
}
type Act<A extends AgreedChange['act']> = Extract<AgreedChange, { readonly act: A }>

/** @throws AXION_ALREADY_EXISTS of what has no days, and is there */
function made(kind: AgreedKind, all: readonly Version[], { cells }: Act<'make'>): Exchanged {
  const fresh = inOrder(versionOf(kind, readCells(kind, cells)))
  const id = idOf(kind, fresh.stated)
  if (!isDated(kind) && all.some(({ stated }) => idOf(kind, stated) === id))
    throw new Problem('AXION_ALREADY_EXISTS', { what: `${nameOfKind(kind)} ${id}` })
  return { before: null, after: [fresh] }
}

/** The version that is meant. @throws AXION_NOT_FOUND */
function whichOf(
  kind: AgreedKind,
  all: readonly Version[],
  { id, version }: Exclude<AgreedChange, Act<'make'>>,
): Version {
  const found = all.find(({ stated, from }) => from === version && idOf(kind, stated) === id)
  if (!found) throw new Problem('AXION_NOT_FOUND', { what: `such version of the ${nameOfKind(kind)} ${id}` })
  return found
}

function changed(kind: AgreedKind, before: Version, change: Exclude<AgreedChange, Act<'make'>>): Exchanged {
  if (change.act === 'remove') return { before, after: [] }
  if (change.act === 'end' || change.since !== null) requireDated(kind)
  if (change.act === 'end')
    return { before, after: [inOrder(withDays(kind, before, { from: before.from, to: change.last }))] }
  const after = split(kind, before, change)
  if (after.some((one) => knownBy(kind, one) !== knownBy(kind, before)))
    throw bad('cells', `what a ${nameOfKind(kind)} is known by stays as it is: another is made beside it`)
  return { before, after }
}

/** What was until the day before, and what is from then on; from its own first day on, or before it, nothing is left of what it was. */
function split(kind: AgreedKind, before: Version, { cells, since }: Act<'change'>): Version[] {
  if (since === null) return [inOrder(versionOf(kind, readCells(kind, cells)))]
  if (before.to !== null && before.to < since)
    throw new Problem('AXION_ENDED_BEFORE', {
      what: labelOf(idOf(kind, before.stated), before),
      to: before.to,
      day: since,
    })
  const fresh = versionOf(kind, readCells(kind, { ...cells, ...daysText(since, before.to) }))
  return (before.from ?? FIRST_DAY) >= since
    ? [withDays(kind, fresh, before)]
    : [withDays(kind, before, { from: before.from, to: dayBefore(since) }), fresh]
}

function requireDated(kind: AgreedKind): void {
  if (!isDated(kind)) throw bad('act', `a ${nameOfKind(kind)} has no days: it is changed at all of them`)
}

const bad = (path: string, problem: string): Problem => new Problem('AXION_BAD_REQUEST', { path, problem })

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

/** As an object is known in its kind. */
export function idOf(kind: AgreedKind, stated: unknown): string {
  return TABLE_OF[kind].toRow(stated, 0).objectId
}

/** What stays of an object, whatever is changed of it. */
function knownBy(kind: AgreedKind, { cells }: Version): string {
  return JSON.stringify(fieldsOfKind(kind).flatMap(({ path, known }) => (known ? [cells[path] ?? ''] : [])))
}

const daysText = (from: string | null, to: string | null): Cells => ({ from: from ?? '', to: to ?? '' })

function withDays(kind: AgreedKind, version: Version, { from, to }: Pick<Version, 'from' | 'to'>): Version {
  return versionOf(kind, readCells(kind, { ...version.cells, ...daysText(from, to) }))
}

/** @throws AXION_BAD_REQUEST where it ends before it begins */
function inOrder(version: Version): Version {
  const { from, to } = version
  if (to !== null && to < (from ?? FIRST_DAY)) throw bad('to', `${to} is before ${from ?? FIRST_DAY}`)
  return version
}

export function labelOf(id: string, version: Version | null): string {
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
