import {
  guessMapping,
  mappingProblem,
  type BaselineSheet,
  type ImportChanges,
  type Mapping,
  type SheetResource,
  type Change,
} from '@axion/contract'
import { Fault } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { importBaseline, recordedAt } from '../baseline/import.ts'
import { readBaseline } from '../baseline/read.ts'
import { lastOf, takeResource, type PullCount } from '../connect/take.ts'
import { changing, inEntity, json, type Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import {
  baselineRows,
  changesBetween,
  heldFrom,
  heldOf,
  withRows,
  type ImportMode,
} from '../files/changes.ts'
import {
  BASELINE,
  goodRows,
  judgeRows,
  keepRows,
  sheetOf,
  SLICE,
  type StagedSheet,
} from '../files/importRows.ts'
import { type ImportRow, headerKey, mappingKey, sheetTitles } from '../files/imports.ts'
import { tablesOf } from '../files/tables.ts'
import { Cancelled } from '../jobs/ending.ts'
import { noteRun, readRun, type RunRow } from '../jobs/runs.ts'
import { proveAll } from '../proof/prove.ts'
import type { Services } from '../services/services.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { connectedSystems } from '../setUp/held.ts'
import { recordBatch } from '../setUp/steps.ts'
import { proveTouched } from './pull.ts'

type ImportRun = RunRow<'import'>

/**
 * One phase of an import: opening the file, reading its rows by the mapping, or taking them. Each is one transaction; a cancel in
 * the middle undoes the phase and leaves nothing of it.
 */
export async function importFile(
  services: Services,
  entityId: string,
  run: ImportRun,
): Promise<'finished' | 'cancelled'> {
  const { database } = services
  const { importId, phase } = run.payload
  const key = { entity_id: entityId, import_id: importId }
  const checkpoint = async (done: number, total?: number): Promise<void> => {
    if ((await readRun(database, entityId, run.run_id))?.cancel_requested) throw new Cancelled()
    await noteRun(database, entityId, run.run_id, { done, ...(total === undefined ? {} : { total }) })
  }
  try {
    await noteRun(database, entityId, run.run_id, { step: PHASE_WORDS[phase] })
    const within = phase === 'apply' ? changing : inEntity
    await within(database, entityId, async (books) => {
      const row = (await books.trx('file_import').where(key).forUpdate().first()) as ImportRow | undefined
      if (!row) throw new Problem('AXION_NOT_FOUND', { what: 'such import' })
      await PHASES[phase]({ services, books, run, row, checkpoint })
    })
    return 'finished'
  } catch (error) {
    const cancelled = error instanceof Cancelled
    if (!cancelled && !(error instanceof Problem) && !(error instanceof Fault)) throw error
    // What failed or was cancelled while it was opened is of no use; later phases can be begun again.
    await inEntity(database, entityId, async ({ trx }) => {
      await trx('file_import')
        .where(key)
        .update(
          phase === 'open'
            ? { state: cancelled ? 'cancelled' : 'failed', content: null }
            : { state: phase === 'read' ? 'mapping' : 'read' },
        )
    })
    if (cancelled) return 'cancelled'
    throw error
  }
}

const PHASE_WORDS = { open: 'opening the file', read: 'checking its rows', apply: 'taking its rows' } as const

interface Phase {
  readonly services: Services
  readonly books: Books
  readonly run: ImportRun
  readonly row: ImportRow
  readonly checkpoint: (done: number, total?: number) => Promise<void>
}

const PHASES: Readonly<Record<ImportRun['payload']['phase'], (phase: Phase) => Promise<void>>> = {
  open,
  read,
  apply,
}

/** Keeps every row of the file as it stands there, and finds its columns: as they were mapped last time under this header, else by their titles. */
async function open({ books: { trx, entityId }, row, checkpoint }: Phase): Promise<void> {
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

/** Checks every row, and works out what taking them would change. The mapping is remembered by the file's header. */
async function read({ books, run, row, checkpoint }: Phase): Promise<void> {
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

/** Takes the good rows: into the baseline, or as what a system holds, with what differs kept as history. */
async function apply(phase: Phase): Promise<void> {
  const { services, books, run, row, checkpoint } = phase
  const { trx, entityId } = books
  const here = { entity_id: entityId, import_id: row.import_id }
  const { month, mode, goodOnly } = run.payload
  if (row.state !== 'applying' || !mode) return
  if (row.bad > 0 && goodOnly !== true) throw new Problem('AXION_FILE_BAD_ROWS', { rows: String(row.bad) })
  await checkpoint(0, row.total)
  const changes = row.target === BASELINE ? await intoBaseline(phase, mode) : await intoSystem(phase, mode)
  await audit(
    trx,
    'imported',
    row.target === BASELINE ? `baseline: ${row.file_name}` : `${row.target}: ${row.file_name}`,
    { after: { ...changes, mode, left: row.bad } },
  )
  await noteSetUp(books)
  await noteRun(services.database, entityId, run.run_id, { step: 'proving' })
  if (row.target === BASELINE) await proveAll(books, month)
  else await proveTouched(books, month)
  await checkpoint(row.total)
  await trx('file_import').where(here).update({ state: 'applied', mode })
  await trx('file_import_row').where(here).delete()
}

async function intoBaseline({ books, run, row, checkpoint }: Phase, mode: ImportMode): Promise<object> {
  const now = await readBaseline(books)
  const { changesFrom, month } = run.payload
  const sheets = []
  for (const one of row.sheets) {
    const key = one.sheet as BaselineSheet
    const rows = await goodRows(books.trx, { entity_id: books.entityId, import_id: row.import_id }, one.name)
    const before = baselineRows(now, key)
    // What was agreed since the file was read may make another change of it: nothing rewrites the past unasked.
    const { earlier } = changesBetween(before, rows, mode, `${month}-01`)
    if (earlier > 0 && changesFrom === undefined)
      throw new Problem('AXION_FROM_WHEN', { rows: String(earlier), month })
    sheets.push({
      key,
      rows: typeof changesFrom === 'string' ? heldFrom(before, rows, mode, changesFrom) : rows,
    })
  }
  const at = await recordedAt(books)
  const report = await importBaseline(books, withRows(now, sheets, mode), at, (rows) =>
    checkpoint(Math.min(rows, row.total)),
  )
  if (report.added + report.ended > 0)
    await recordBatch(
      books,
      { person: run.started_by, action: 'imported', says: `Spreadsheet ${row.file_name}` },
      [{ did: 'imported', at }],
    )
  return report
}

async function intoSystem(
  { services, books, run, row, checkpoint }: Phase,
  mode: ImportMode,
): Promise<object> {
  const { trx, entityId } = books
  const system = (await connectedSystems(books)).find((one) => one.system_id === row.target)
  if (!system) throw new Problem('AXION_NOT_FOUND', { what: 'such system' })
  const [pull] = (await trx('pull')
    .insert({ entity_id: entityId, system_id: system.system_id, run_id: run.run_id, counts: '[]' })
    .returning('pull_id')) as { pull_id: string }[]
  const counts: PullCount[] = []
  for (const one of row.sheets) {
    const resource = one.sheet as SheetResource
    const before = await heldOf(books, system.system_id, resource)
    const rows = await goodRows(trx, { entity_id: entityId, import_id: row.import_id }, one.name)
    const ids = new Set(rows.map((each) => each.id))
    const change = (id: string, value: unknown): Change => ({
      id,
      sequence: '0',
      revision: row.import_id,
      removed: value === null,
      value,
    })
    const gone =
      mode === 'whole' ? before.filter((each) => !ids.has(each.id)).map((each) => change(each.id, null)) : []
    const taking = {
      books,
      reading: services.reading,
      pullId: pull?.pull_id ?? '',
      system,
      resource,
      month: run.payload.month,
    }
    const take = async (part: readonly Change[]): Promise<void> =>
      void counts.push(await takeResource(taking, { parts: [part], last: lastOf(part), next: '0' }))
    for (let at = 0; at < rows.length; at += SLICE) {
      await take(rows.slice(at, at + SLICE).map((each) => change(each.id, each.value)))
      await checkpoint(Math.min(rows.length, at + SLICE))
    }
    if (gone.length > 0) await take(gone)
  }
  const sum = (of: 'added' | 'changed' | 'removed'): number =>
    counts.reduce((total, one) => total + one[of], 0)
  const total = { added: sum('added'), changed: sum('changed'), removed: sum('removed') }
  await trx('pull')
    .where({ entity_id: entityId, pull_id: pull?.pull_id ?? '' })
    .update({
      counts: json([{ resource: row.sheets[0]?.sheet ?? '', ...total, unreadable: 0 }]),
      ended: true,
      finished_at: trx.fn.now(),
    })
  return total
}
