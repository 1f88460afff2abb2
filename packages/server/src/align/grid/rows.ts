import type { GridCell } from '@axion/contract'
import type { Ground, KindOfSetUp } from '../kinds/kind.ts'
import { cellOf } from './cell.ts'
import { columnOf, placed, type BuiltRow, type Column } from './column.ts'

import { extrasOf } from './extras.ts'

/** All rows of one grid: the baseline's, then what systems hold beyond it. */
export function buildRows(ground: Ground, kind: KindOfSetUp): BuiltRow[] {
  const columns = ground.systems
    .filter(({ held }) => held.row.about.resources.includes(kind.resource))
    .map((walked) => columnOf(kind, walked))
  const rows = kind.rows(ground)
  const ours = rows.map((row): BuiltRow => {
    const built = columns.map((column) => cellOf(ground, kind, row, column))
    return {
      ...row,
      extra: null,
      cells: built.map(({ cell }) => cell),
      findings: [
        ...kind.about(ground, row).map((found) => placed(found, null, null)),
        ...built.flatMap(({ findings }) => findings),
      ],
    }
  })
  const names = new Map(rows.map((row) => [row.id, row.name]))
  return [
    ...ours,
    ...newRow(ground, kind, columns),
    ...columns.flatMap((column) => extrasOf(kind, column, columns, names)),
  ]
}

/** What is new, beside what each system does with it. */
function newRow(ground: Ground, kind: KindOfSetUp, columns: readonly Column[]): BuiltRow[] {
  const fresh = kind.ofNew?.(ground)
  if (!fresh) return []
  const built = columns.map(({ walked, systemId }) => ({ systemId, compared: fresh.of(walked) }))
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
