import { mappingProblem, type BaselineSheet, type ImportChanges, type SheetResource } from '@axion/contract'
import { type Books } from '../../database/connection.ts'
import { json } from '../../database/json.ts'
import { Problem } from '../../faults/problem.ts'
import { BASELINE, goodRows, judgeRows, sheetOf, type StagedSheet } from '../../files/importRows.ts'
import { headerKey, mappingKey, type ImportRow } from '../../files/imports.ts'
import type { Phase } from './phase.ts'
import { readBaseline } from '../../baseline/read.ts'
import { baselineRows, changesBetween, heldOf, type ImportMode } from '../../files/changes.ts'

/** Checks every row, and works out what taking them would change. The mapping is remembered by the file's header. */
export async function read({ books, run, row, checkpoint }: Phase): Promise<void> {
  const { trx, entityId } = books
  const here = { entity_id: entityId, import_id: row.import_id }
  const { mappings = {} } = run.payload
  const staged = row.sheets.map((one): StagedSheet => ({
    ...one,
    mapping: mappings[one.name] ?? one.mapping,
  }))
  let [bad, done] = [0, 0]
  await checkpoint(0, row.total)
  for (const one of staged) {
    const sheet = sheetOf(row.target, one.sheet)
    const problem = sheet
      ? mappingProblem(sheet, one.mapping, one.header)
      : 'nobody said what this sheet holds'
    if (!sheet || problem !== null)
      throw new Problem('AXION_FILE_MAPPING', { file: one.name || row.file_name, problem: problem ?? '' })
    bad += await judgeRows(trx, here, { staged: one, sheet }, (rows) => checkpoint(done + rows))
    done += one.rows
    await trx('file_mapping')
      .insert({
        entity_id: entityId,
        sheet: mappingKey(row.target, one.sheet ?? ''),
        header: headerKey(one.header),
        mapping: json(one.mapping),
        person: run.started_by,
      })
      .onConflict(['entity_id', 'sheet', 'header'])
      .merge()
  }
  const report = {
    whole: await changesOf(books, row, staged, { mode: 'whole', month: run.payload.month }),
    part: await changesOf(books, row, staged, { mode: 'part', month: run.payload.month }),
  }
  await trx('file_import')
    .where(here)
    .update({ state: 'read', sheets: json(staged), bad, report: json(report) })
}

async function changesOf(
  books: Books,
  { target, import_id: importId }: ImportRow,
  staged: readonly StagedSheet[],
  { mode, month }: { readonly mode: ImportMode; readonly month: string },
): Promise<ImportChanges> {
  const here = { entity_id: books.entityId, import_id: importId }
  const baseline = target === BASELINE ? await readBaseline(books) : null
  const all: ImportChanges[] = []
  for (const one of staged) {
    const before = baseline
      ? baselineRows(baseline, one.sheet as BaselineSheet)
      : await heldOf(books, target, one.sheet as SheetResource)
    all.push(
      changesBetween(
        before,
        await goodRows(books.trx, here, one.name),
        mode,
        baseline ? `${month}-01` : null,
      ),
    )
  }
  const sum = (of: 'added' | 'changed' | 'removed' | 'same' | 'earlier'): number =>
    all.reduce((total, one) => total + one[of], 0)
  return {
    added: sum('added'),
    changed: sum('changed'),
    removed: sum('removed'),
    same: sum('same'),
    earlier: sum('earlier'),
    samples: all.flatMap((one) => one.samples).slice(0, 100),
  }
}
