import { stringify } from 'csv-stringify/sync'
import type { Sample } from './samples.ts'
import { TABLES, type Table } from './template/tables.ts'

/** The files of a resource, by their names, that the bridge of tables reads as just these objects. */
export function filesOf(resource: string, samples: readonly Sample[]): Record<string, string> {
  const table = TABLES[resource]
  if (!table) throw new Error(`there is no table of ${resource}`)
  const lists = Object.entries(table.lists ?? {})
  return {
    [table.file]: csvOf(
      table,
      'id',
      samples.map(({ id, value }) => ({ key: id, value })),
    ),
    ...Object.fromEntries(
      lists.map(([field, of]) => [
        of.file,
        csvOf(
          of,
          'of',
          samples.flatMap(({ id, value }) =>
            membersOf(of, (value as Record<string, unknown>)[field]).map((member) => ({
              key: id,
              value: member,
            })),
          ),
        ),
      ]),
    ),
  }
}

/** What stands in a list, a row each. */
function membersOf({ together }: Table, list: unknown): object[] {
  const members = (list ?? []) as object[]
  if (!together) return members
  return members.flatMap((entry, at) => {
    const inner = (entry as Record<string, unknown>)[together.list] as object[] | null
    const rows = inner ?? [null]
    return rows.map((component) => ({ ...entry, [together.by]: String(at + 1), component }))
  })
}

function csvOf(
  { columns }: Table,
  key: 'id' | 'of',
  rows: readonly { readonly key: string; readonly value: object }[],
): string {
  const names = Object.keys(columns)
  return stringify([
    [key, ...names],
    ...rows.map((row) => [row.key, ...names.map((name) => cellOf(row.value, name))]),
  ])
}

function cellOf(value: object, column: string): string {
  const [field = '', inner] = column.split('.')
  const outer = (value as Record<string, unknown>)[field]
  const cell = inner === undefined ? outer : (outer as Record<string, unknown> | null)?.[inner]
  if (cell === null || cell === undefined) return ''
  if (typeof cell === 'boolean') return cell ? 'yes' : 'no'
  return Array.isArray(cell) ? cell.join(' ') : String(cell)
}
