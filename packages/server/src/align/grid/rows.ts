import type { GridCell } from '@axion/contract'
import { groupBy } from '@axion/core'
import type { GridBasis, KindOfSetUp } from '../kinds/kind.ts'
import { cellOf } from './cell.ts'
import { columnOf, placed, type BuiltRow, type Column } from './column.ts'
import { extrasOf } from './extras.ts'

/** Some rows of a grid: of the baseline's, and of what systems hold beyond it. */
export interface Concerned {
  readonly rows: ReadonlySet<string>
  readonly extras: ReadonlySet<string>
}

/** So many places are kept for what each system holds beyond the baseline. */
const PLACES = 1_000_000

/**
 * All rows of one grid: the baseline's, then what systems hold beyond it.
 * @param concerned these of them alone
 */
export function buildRows(basis: GridBasis, kind: KindOfSetUp, concerned?: Concerned): BuiltRow[] {
  const columns = basis.systems
    .filter(({ held }) => held.row.about.resources.includes(kind.resource))
    .map((aligned) => columnOf(kind, aligned))
  const rows = kind.rows(basis)
  const fresh = newRow(basis, kind, columns)
  const borne = groupBy([...rows, ...fresh], ({ name }) => name)
  const shared = (name: string): boolean => (borne.get(name) ?? []).length > 1
  const ours = rows.flatMap((row, place): BuiltRow[] => {
    if (concerned?.rows.has(row.id) === false) return []
    const built = columns.map((column) => cellOf(basis, kind, row, column))
    return [
      {
        ...row,
        place,
        shared: shared(row.name),
        extra: null,
        cells: built.map(({ cell }) => cell),
        findings: [
          ...kind.about(basis, row).map((found) => placed(found, null, null)),
          ...built.flatMap(({ findings }) => findings),
        ],
      },
    ]
  })
  const names = new Map(rows.map((row) => [row.id, row.name]))
  return [
    ...ours,
    ...(concerned ? [] : fresh.map((row) => ({ ...row, place: rows.length, shared: shared(row.name) }))),
    ...columns.flatMap((column, at) =>
      extrasOf(kind, column, columns, {
        basis,
        names,
        first: (at + 1) * PLACES,
        concerned: concerned?.extras ?? null,
      }),
    ),
  ]
}

/** What is new, beside what each system does with it. */
function newRow(
  basis: GridBasis,
  kind: KindOfSetUp,
  columns: readonly Column[],
): Omit<BuiltRow, 'place' | 'shared'>[] {
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
