import {
  BASELINE_SHEETS,
  identityOf,
  mapped,
  readRows,
  SYSTEM_SHEETS,
  type BaselineSheet,
  type FileRow,
  type Mapping,
  type Sheet,
  type SheetResource,
} from '@axion/contract'
import type { Transaction } from '../database/connection.ts'
import { insertRows } from '../database/insert.ts'

export const BASELINE = 'baseline'
/** So many rows of a file are kept, checked or written between two looks at whether somebody wants it to end. */
export const SLICE = 5000

/** One table of a file on its way in: what it is read as, its header, and from which column each cell comes. */
export interface StagedSheet {
  /** The name of the sheet in a workbook; empty in a file of one table. */
  readonly name: string
  /** What it is: a sheet of the baseline, or a system's resource; null where nobody said yet. */
  readonly sheet: string | null
  readonly header: readonly string[]
  readonly rows: number
  readonly mapping: Mapping
  readonly remembered: boolean
}

/** The sheet that a target has under a key. */
export function sheetOf(target: string, key: string | null): Sheet | null {
  if (key === null) return null
  return target === BASELINE
    ? ((BASELINE_SHEETS as Readonly<Record<string, Sheet>>)[key as BaselineSheet] ?? null)
    : ((SYSTEM_SHEETS as Readonly<Record<string, Sheet>>)[key as SheetResource] ?? null)
}

interface Here {
  readonly entity_id: string
  readonly import_id: string
}

/** Keeps the rows of a table as the file has them. */
export async function keepRows(
  trx: Transaction,
  here: Here,
  sheet: string,
  rows: readonly { readonly line: number; readonly cells: readonly string[] }[],
): Promise<void> {
  await insertRows(
    trx,
    'file_import_row',
    rows.map(({ line, cells }) => ({
      ...here,
      sheet,
      line,
      cells,
      object_id: null,
      value: null,
      problem: null,
    })),
  )
}

/** Reads every row of a table by its mapping: what is good gets its value, what is not the reason. @returns how many are bad */
export async function judgeRows(
  trx: Transaction,
  here: Here,
  { staged, sheet }: { readonly staged: StagedSheet; readonly sheet: Sheet },
  checkpoint: (done: number) => Promise<void>,
): Promise<number> {
  const kept = (await trx('file_import_row')
    .where({ ...here, sheet: staged.name })
    .orderBy('line')
    .select('line', 'cells')) as { line: number; cells: string[] }[]
  const read = readRows(
    sheet,
    kept.map(({ line, cells }): FileRow => ({ line, cells: mapped(sheet, staged.mapping, cells) })),
  )
  await trx('file_import_row')
    .where({ ...here, sheet: staged.name })
    .update({ object_id: null, value: null, problem: null })
  const byLine = new Map(kept.map((row) => [row.line, row.cells]))
  let bad = 0
  for (let at = 0; at < read.length; at += SLICE) {
    const slice = read.slice(at, at + SLICE)
    await insertRows(
      trx,
      'file_import_row',
      slice.map((row) => ({
        ...here,
        sheet: staged.name,
        line: row.line,
        cells: byLine.get(row.line) ?? [],
        ...('problem' in row
          ? { object_id: null, value: null, problem: row.problem }
          : { object_id: row.id || identityOf(sheet, row.value), value: row.value, problem: null }),
      })),
      ['entity_id', 'import_id', 'sheet', 'line'],
    )
    bad += slice.filter((row) => 'problem' in row).length
    await checkpoint(Math.min(read.length, at + SLICE))
  }
  return bad
}

/** The good rows of a table, as objects by what they are known by. */
export async function goodRows(
  trx: Transaction,
  here: Here,
  sheet: string,
): Promise<{ readonly id: string; readonly value: unknown }[]> {
  return trx('file_import_row')
    .where({ ...here, sheet })
    .whereNotNull('value')
    .orderBy('line')
    .select('object_id as id', 'value')
}
