import type { GridCell } from '@axion/contract'
import type { GridBasis, KindOfSetUp } from '../kinds/kind.ts'
import { cellOf } from './cell.ts'
import { columnOf, placed, type BuiltRow, type Column } from './column.ts'

import { extrasOf } from './extras.ts'

/** All rows of one grid: the baseline's, then what systems hold beyond it. */
export function buildRows(basis: GridBasis, kind: KindOfSetUp): BuiltRow[] {
  const columns = basis.systems
    .filter(({ held }) => held.row.about.resources.includes(kind.resource))
    .map((aligned) => columnOf(kind, aligned))
  const rows = kind.rows(basis)
  const ours = rows.map((row): BuiltRow => {
    const built = columns.map((column) => cellOf(basis, kind, row, column))
    return {
      ...row,
      extra: null,
      cells: built.map(({ cell }) => cell),
      findings: [
        ...kind.about(basis, row).map((found) => placed(found, null, null)),
        ...built.flatMap(({ findings }) => findings),
      ],
    }
  })
  const names = new Map(rows.map((row) => [row.id, row.name]))
  return [
    ...ours,
    ...newRow(basis, kind, columns),
    ...columns.flatMap((column) => extrasOf(kind, column, columns, names)),
  ]
}

/** What is new, beside what each system does with it. */
function newRow(basis: GridBasis, kind: KindOfSetUp, columns: readonly Column[]): BuiltRow[] {
  const fresh = kind.ofNew?.(basis)
  if (!fresh) return []
  const built = columns.map(({ aligned, systemId }) => ({ systemId, compared: fresh.of(aligned) }))
  return [
    {
      ...fresh.row,
      extra: null,
      findings: built.flatMap(({ systemId, compared }) =>
        (compared?.found ?? []).map((found) => placed(found, systemId, null)),
      ),
      cells: built.map(({ systemId, compared }): GridCell => ({
        systemId,
        objects: [],
        remedies: [],
        state: compared === null ? 'none' : compared.agrees ? 'agrees' : 'differs',
        words: compared?.words ?? '',
      })),
    },
  ]
}
