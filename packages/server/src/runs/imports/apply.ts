import type { BaselineSheet, Change, SheetResource } from '@axion/contract'
import { audit } from '../../audit/audit.ts'
import { importBaseline, recordedAt } from '../../baseline/import.ts'
import { readBaseline } from '../../baseline/read.ts'
import { Problem } from '../../faults/problem.ts'
import {
  baselineRows,
  changesBetween,
  heldFrom,
  heldOf,
  withRows,
  type ImportMode,
} from '../../files/changes.ts'
import { BASELINE, goodRows, SLICE } from '../../files/importRows.ts'
import { noteRun } from '../../jobs/runs.ts'
import { proveChanged } from '../../proof/prove.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { recordBatch } from '../../setUp/steps.ts'
import { provePulled } from '../pull.ts'
import type { Phase } from './phase.ts'
import { stage } from '../../connect/staged.ts'
import { takeResource, type PullCount } from '../../connect/take.ts'
import { json } from '../../database/json.ts'
import { connectedSystems } from '../../setUp/held.ts'

/** Takes the good rows: into the baseline, or as what a system holds, with what differs kept as history. */
export async function apply(phase: Phase): Promise<void> {
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
  if (row.target === BASELINE) await proveChanged(books, month)
  else await provePulled(books, month)
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
  const [pull] = await trx('pull')
    .insert({ entity_id: entityId, system_id: system.system_id, run_id: run.run_id, counts: '[]' })
    .returning('pull_id')
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
    const taking = { books, pullId: pull?.pull_id ?? '', system, resource, month: run.payload.month }
    const as = { role: system.role, resource, booksCurrency: books.currency, places: new Map(), spoilt: null }
    const take = async (changes: readonly Change[]): Promise<void> => {
      const { rows: read } = await services.reading.changes({ changes, as })
      await stage(trx, { entity_id: entityId, system_id: system.system_id, resource }, read)
      counts.push(await takeResource(taking, { next: '0' }))
    }
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
