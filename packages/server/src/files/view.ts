import {
  BASELINE_SHEET_KEYS,
  BASELINE_SHEETS,
  SHEET_RESOURCES,
  SYSTEM_ROLES,
  SYSTEM_SHEETS,
  writeRows,
  type FilesView,
  type ImportView,
  type SheetResource,
} from '@axion/contract'
import { readBaseline } from '../baseline/read.ts'
import type { Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { connectedSystems, isFiles } from '../setUp/held.ts'
import { baselineRows, heldOf } from './changes.ts'
import { BASELINE } from './importRows.ts'
import { sheetTitles, type ImportRow } from './imports.ts'

const SHOWN = 100

/** What may go out, and into what files may come; the newest imports. */
export async function filesView(books: Books): Promise<FilesView> {
  const { trx, entityId } = books
  const baseline = await readBaseline(books)
  const systems = (await connectedSystems(books)).sort(
    (a, b) => SYSTEM_ROLES.indexOf(a.role) - SYSTEM_ROLES.indexOf(b.role),
  )
  const counts = (await trx('held_object')
    .where({ entity_id: entityId, removed: false })
    .groupBy('system_id', 'resource')
    .select('system_id', 'resource', trx.raw('count(*)::int as n'))) as {
    system_id: string
    resource: string
    n: number
  }[]
  const imports = (await trx('file_import')
    .where({ entity_id: entityId })
    .orderBy('at', 'desc')
    .limit(8)
    .select(
      'import_id',
      'target',
      'sheet',
      'file_name',
      'state',
      'total',
      'bad',
      'person',
      'at',
    )) as ImportRow[]
  return {
    targets: [
      {
        id: BASELINE,
        name: 'The baseline',
        takes: true,
        sheets: BASELINE_SHEET_KEYS.map((key) => ({
          key,
          title: BASELINE_SHEETS[key].title,
          rows: baseline[key].length,
        })),
      },
      ...systems
        .map((system) => ({
          id: system.system_id,
          name: system.name,
          takes: isFiles(system),
          sheets: SHEET_RESOURCES.filter((key) => system.about.resources.includes(key)).map((key) => ({
            key,
            title: SYSTEM_SHEETS[key].title,
            rows: counts.find((c) => c.system_id === system.system_id && c.resource === key)?.n ?? 0,
          })),
        }))
        .filter((target) => target.sheets.length > 0),
    ],
    imports: imports.map((row) => ({
      id: row.import_id,
      target: row.target,
      sheet: row.sheet,
      fileName: row.file_name,
      state: row.state,
      total: row.total,
      bad: row.bad,
      person: row.person,
      at: row.at.toISOString(),
    })),
  }
}

/** An import with its sheets, how their columns are read, what is wrong in which row, and what it would change. */
export async function importView({ trx, entityId }: Books, importId: string): Promise<ImportView> {
  const here = { entity_id: entityId, import_id: importId }
  const row = (await trx('file_import').where(here).first()) as ImportRow | undefined
  if (!row) throw new Problem('AXION_NOT_FOUND', { what: 'such import' })
  const bad = (await trx('file_import_row')
    .where(here)
    .whereNotNull('problem')
    .orderBy(['sheet', 'line'])
    .limit(SHOWN)
    .select('sheet', 'line', 'problem', 'cells')) as {
    sheet: string
    line: number
    problem: string
    cells: string[]
  }[]
  const samples: { sheet: string; rows: { line: number; cells: string[] }[] }[] = []
  for (const one of row.sheets)
    samples.push({
      sheet: one.name,
      rows: await trx('file_import_row')
        .where({ ...here, sheet: one.name })
        .orderBy('line')
        .limit(5)
        .select('line', 'cells'),
    })
  return {
    id: row.import_id,
    target: row.target,
    fileName: row.file_name,
    state: row.state,
    total: row.total,
    bad: row.bad,
    badRows: bad,
    changes: { whole: row.report.whole ?? null, part: row.report.part ?? null },
    sheets: row.sheets.map((one) => ({
      name: one.name,
      sheet: one.sheet,
      title: sheetTitles(row.target).find((each) => each.key === one.sheet)?.title ?? one.name,
      header: one.header,
      rows: one.rows,
      mapping: one.mapping,
      remembered: one.remembered,
      columns: (one.sheet === null
        ? []
        : (row.target === BASELINE
            ? BASELINE_SHEETS[one.sheet as keyof typeof BASELINE_SHEETS]
            : SYSTEM_SHEETS[one.sheet as SheetResource]
          ).columns
      ).map(({ path, title, needed }) => ({ path, title, needed })),
      sample: samples.find((each) => each.sheet === one.name)?.rows ?? [],
    })),
  }
}

interface TableOut {
  readonly name: string
  readonly header: readonly string[]
  readonly rows: readonly (readonly string[])[]
}

/** What a target holds under a sheet, or under all of them, in the shape that comes in again. */
export async function tablesOut(books: Books, target: string, wanted: string): Promise<TableOut[]> {
  if (target === BASELINE) {
    const baseline = await readBaseline(books)
    return BASELINE_SHEET_KEYS.filter((key) => wanted === 'all' || key === wanted).map((key) => {
      const sheet = BASELINE_SHEETS[key]
      return {
        name: sheet.title,
        header: sheet.columns.map((c) => c.title),
        rows: baselineRows(baseline, key).flatMap((row) => writeRows(sheet, null, row.value)),
      }
    })
  }
  const system = (await connectedSystems(books)).find((one) => one.system_id === target)
  const keys = SHEET_RESOURCES.filter(
    (key) => system?.about.resources.includes(key) && (wanted === 'all' || key === wanted),
  )
  const tables: TableOut[] = []
  for (const key of keys) {
    const sheet = SYSTEM_SHEETS[key]
    tables.push({
      name: sheet.title,
      header: sheet.columns.map((c) => c.title),
      rows: (await heldOf(books, target, key)).flatMap((row) => writeRows(sheet, row.id, row.value)),
    })
  }
  return tables
}
