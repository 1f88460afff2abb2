import { BASELINE_SHEETS, DAYS, writeRows, type AgreedKind } from '@axion/contract'
import { groupBy } from '@axion/core'
import type { Dated } from '../../baseline/tables/table.ts'
import { rowsAt } from '../../baseline/tables/rowsAt.ts'
import { TABLE_OF } from '../../baseline/tables/byKind.ts'
import type { Books } from '../../database/connection.ts'

export type Cells = Readonly<Record<string, string>>

/** What is agreed of an object from one day to another, in the cells that a spreadsheet has. */
export interface Version {
  readonly cells: Cells
  /** As an import states it. */
  readonly stated: unknown
  /** Null where it holds from the beginning. */
  readonly from: string | null
  readonly to: string | null
}

/** The first day that may be written: who holds since then holds from the beginning. */
export const FIRST_DAY = '1900-01-01'

/** @returns null where it holds from the beginning */
function firstDay(from: string | null): string | null {
  return from === null || from <= FIRST_DAY ? null : from
}

export interface AgreedOne {
  readonly id: string
  /** In the order of their days. */
  readonly versions: readonly [Version, ...Version[]]
}

/** What an import states of an object, as a version. */
export function versionOf(kind: AgreedKind, stated: unknown): Version {
  const { from = null, to = null } = stated as Partial<Pick<Version, 'from' | 'to'>>
  return { cells: cellsOf(kind, stated), stated, from: firstDay(from), to }
}

/** A row of its kind's table, as a version. */
export function versionOfRow(kind: AgreedKind, row: Dated): Version {
  return versionOf(kind, TABLE_OF[kind].toStated(row))
}

/** What an import states of one object, in cells by the path of their column; its days are no cells. */
function cellsOf(kind: AgreedKind, stated: unknown): Cells {
  const sheet = BASELINE_SHEETS[kind]
  const [row = []] = writeRows(sheet, null, stated)
  return Object.fromEntries(
    sheet.columns.flatMap(({ path }, at) => (DAYS.includes(path) ? [] : [[path, row[at] ?? '']])),
  )
}

/** All that is agreed of a kind, object by object. */
export async function agreedOf(books: Books, kind: AgreedKind): Promise<AgreedOne[]> {
  const rows = await rowsAt(books, TABLE_OF[kind], { recordedAt: null, order: 'named' })
  return [...groupBy(rows, (row) => row.object_id)].map(([id, of]) => ({
    id,
    versions: of.map((row) => versionOfRow(kind, row)) as [Version, ...Version[]],
  }))
}

/** The version that holds on a day; else the first that begins after it, else the last that ended. */
export function versionOn(
  { versions }: AgreedOne,
  day: string,
): { readonly version: Version; readonly state: 'holds' | 'coming' | 'ended' } {
  const holds = versions.find(({ from, to }) => (from ?? '') <= day && (to === null || day <= to))
  if (holds) return { version: holds, state: 'holds' }
  const coming = versions.find(({ from }) => (from ?? '') > day)
  return coming
    ? { version: coming, state: 'coming' }
    : { version: versions.at(-1) ?? versions[0], state: 'ended' }
}
