import { SYSTEM_SHEETS, writeRows, type AlignKind, type GridCell, type SheetResource } from '@axion/contract'
import type { Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { ensureAligned, basisOf } from './build.ts'
import { KINDS } from './kinds/index.ts'
import { createdValue } from './plans/create.ts'
import { correctedObject } from './plans/send.ts'

/** A sheet of what a system should hold, for whoever keeps a system that takes nothing from others: only what it holds otherwise, or not at all. */
export async function shouldHold(
  books: Books,
  month: string,
  kind: AlignKind,
  systemId: string,
): Promise<{
  readonly name: string
  readonly header: readonly string[]
  readonly rows: readonly (readonly string[])[]
}> {
  await ensureAligned(books, month)
  const basis = await basisOf(books, month)
  const aligned = basis.systems.find(({ held }) => held.row.system_id === systemId)
  const sheet = (SYSTEM_SHEETS as Readonly<Record<string, (typeof SYSTEM_SHEETS)[SheetResource]>>)[
    KINDS[kind].resource
  ]
  if (!aligned || !sheet || kind === 'codes')
    throw new Problem('AXION_NOT_FOUND', { what: 'such a sheet of that system' })
  const rows = (await books
    .trx('align_row')
    .where({ entity_id: books.entityId, period: month, kind })
    .whereNull('extra')
    .where('findings', '>', 0)
    .orderBy('place')
    .select('row_id', 'cells')) as { row_id: string; cells: readonly GridCell[] }[]
  const values = rows.flatMap(({ row_id: rowId, cells }): { id: string | null; value: object }[] => {
    const cell = cells.find((one) => one.systemId === systemId)
    if (cell?.state === 'absent') {
      const value = createdValue(basis, aligned, kind, rowId)
      return value ? [{ id: null, value }] : []
    }
    return (cell?.objects ?? []).flatMap((object) => {
      const value = correctedObject(basis, aligned, kind, object.id)
      return value ? [{ id: object.id, value }] : []
    })
  })
  return {
    name: sheet.title,
    header: sheet.columns.map((c) => c.title),
    rows: values.flatMap(({ id, value }) => writeRows(sheet, id, value)),
  }
}
