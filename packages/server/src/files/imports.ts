import type { Columns } from '../database/row.ts'
import { BASELINE_SHEETS, SYSTEM_SHEETS, type ImportChanges } from '@axion/contract'
import type { Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { connectedSystems, isFiles } from '../setUp/held.ts'
import type { ImportMode } from './changes.ts'
import { BASELINE, type StagedSheet } from './importRows.ts'

/** A file that is taken in, phase by phase. */
export interface ImportRow extends Columns<
  'file_import',
  | 'import_id'
  | 'target'
  | 'sheet'
  | 'file_name'
  | 'content'
  | 'state'
  | 'sheets'
  | 'total'
  | 'bad'
  | 'report'
  | 'mode'
  | 'person'
  | 'at'
> {
  readonly state: 'opening' | 'mapping' | 'reading' | 'read' | 'applying' | 'applied' | 'cancelled' | 'failed'
  readonly sheets: readonly StagedSheet[]
  readonly report: {
    readonly whole?: ImportChanges
    readonly part?: ImportChanges
    readonly problem?: { readonly says: string; readonly mend: string }
  }
  readonly mode: ImportMode | null
}

/** The sheets that a target may have, with their titles. */
export function sheetTitles(target: string): readonly { readonly key: string; readonly title: string }[] {
  return Object.entries(target === BASELINE ? BASELINE_SHEETS : SYSTEM_SHEETS).map(([key, { title }]) => ({
    key,
    title,
  }))
}

export const mappingKey = (target: string, sheet: string): string =>
  `${target === BASELINE ? BASELINE : 'system'}/${sheet}`
export const headerKey = (header: readonly string[]): string => header.join('\t').slice(0, 2000)

/**
 * Moves an import on by one step, where it stands at one that this may follow.
 * @throws AXION_NOT_FOUND, AXION_STALE
 */
export async function advance(
  { trx, entityId }: Books,
  importId: string,
  from: readonly ImportRow['state'][],
  to: ImportRow['state'],
): Promise<ImportRow> {
  const row = (await trx('file_import')
    .where({ entity_id: entityId, import_id: importId })
    .forUpdate()
    .first()) as ImportRow | undefined
  if (!row) throw new Problem('AXION_NOT_FOUND', { what: 'such import' })
  if (!from.includes(row.state)) throw new Problem('AXION_STALE', { what: `The import of ${row.file_name}` })
  await trx('file_import').where({ entity_id: entityId, import_id: importId }).update({ state: to })
  return row
}

/** What is to be applied of an import that was read. */
export interface Applying {
  readonly importId: string
  readonly month: string
  readonly mode: ImportMode
  readonly goodOnly: boolean
  /** The day from which what is changed holds; left out where it was not asked. */
  readonly changesFrom?: string | null | undefined
}

/**
 * Moves an import that was read to being applied.
 * @throws AXION_FILE_BAD_ROWS where rows are bad and not to be left out, AXION_FROM_WHEN where months before would change unasked
 */
export async function beginApplying(
  books: Books,
  { importId, month, mode, goodOnly, changesFrom }: Applying,
): Promise<ImportRow> {
  const row = await advance(books, importId, ['read'], 'applying')
  if (row.bad > 0 && !goodOnly) throw new Problem('AXION_FILE_BAD_ROWS', { rows: String(row.bad) })
  const { earlier = 0 } = row.report[mode] ?? {}
  if (earlier > 0 && changesFrom === undefined)
    throw new Problem('AXION_FROM_WHEN', { rows: String(earlier), month })
  return row
}

/** Gives an import up, with its rows. */
export async function discard(books: Books, importId: string): Promise<void> {
  await advance(books, importId, ['mapping', 'read'], 'cancelled')
  await books.trx('file_import_row').where({ entity_id: books.entityId, import_id: importId }).delete()
}

/** @throws AXION_NOT_FOUND where a file may not be brought into that */
export async function requireTarget(books: Books, target: string, sheet: string | null): Promise<void> {
  const system =
    target === BASELINE
      ? null
      : (await connectedSystems(books)).find((one) => one.system_id === target && isFiles(one))
  const known =
    target === BASELINE
      ? sheet === null || sheetTitles(target).some((one) => one.key === sheet)
      : system && sheet !== null && system.about.resources.includes(sheet)
  if (!known) throw new Problem('AXION_NOT_FOUND', { what: 'such sheet to bring a file into' })
}
