import { guessMapping, type Mapping } from '@axion/contract'
import { json } from '../../database/json.ts'
import { Problem } from '../../faults/problem.ts'
import { keepRows, sheetOf, SLICE, type StagedSheet } from '../../files/importRows.ts'
import { headerKey, mappingKey, sheetTitles } from '../../files/imports.ts'
import { tablesOf } from '../../tables/tablesOf.ts'
import type { Phase } from './phase.ts'

/** Keeps every row of the file as it stands there, and finds its columns: as they were mapped last time under this header, else by their titles. */
export async function open({ books: { trx, entityId }, row, checkpoint }: Phase): Promise<void> {
  const here = { entity_id: entityId, import_id: row.import_id }
  if (row.state !== 'opening' || row.content === null) return
  const tables = await tablesOf(row.content, row.file_name)
  const total = tables.reduce((sum, table) => sum + table.rows.length, 0)
  let done = 0
  await checkpoint(0, total)
  const sheets: StagedSheet[] = []
  for (const table of tables) {
    const name = table.name ?? ''
    for (let at = 0; at < table.rows.length; at += SLICE) {
      const slice = table.rows.slice(at, at + SLICE)
      await keepRows(trx, here, name, slice)
      await checkpoint((done += slice.length))
    }
    const key = row.sheet ?? keyByTitle(row.target, name)
    const sheet = sheetOf(row.target, key)
    const remembered =
      sheet &&
      ((await trx('file_mapping')
        .where({
          entity_id: entityId,
          sheet: mappingKey(row.target, key ?? ''),
          header: headerKey(table.header),
        })
        .first('mapping')) as { mapping: Mapping } | undefined)
    sheets.push({
      name,
      sheet: key,
      header: table.header,
      rows: table.rows.length,
      mapping: remembered ? remembered.mapping : sheet ? guessMapping(sheet, table.header) : {},
      remembered: Boolean(remembered),
    })
  }
  // Of a workbook asked for as one kind of thing, the sheet of that name counts, else the first.
  const wanted =
    row.sheet === null
      ? sheets.filter((one) => one.sheet !== null)
      : [sheets.find((one) => keyByTitle(row.target, one.name) === row.sheet) ?? (sheets[0] as StagedSheet)]
  if (wanted.length === 0)
    throw new Problem('AXION_FILE_UNREADABLE', {
      file: row.file_name,
      problem: 'none of its sheets is named as one of the baseline’s',
    })
  await trx('file_import')
    .where(here)
    .update({
      state: 'mapping',
      sheets: json(wanted),
      total: wanted.reduce((sum, one) => sum + one.rows, 0),
      content: null,
    })
}

function keyByTitle(target: string, name: string): string | null {
  return (
    sheetTitles(target).find(({ title }) => title.toLowerCase() === name.trim().toLowerCase())?.key ?? null
  )
}
