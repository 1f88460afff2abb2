import { readFileSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { parse } from 'csv-parse/sync'
import type { Row } from './changes.ts'
import { Refusal } from './refusal.ts'
import { TABLES, type As, type Table } from './tables.ts'

/** Where the files are: in the folder data beside this one, or where DATA says. */
const FOLDER = process.env['DATA'] ?? join(dirname(fileURLToPath(import.meta.url)), 'data')
/** A file that was written to so lately may still be written to. */
const SETTLED_MS = Number(process.env['SETTLED'] ?? 2) * 1000

type Cells = Readonly<Record<string, string>>

/** Every object of a resource, as the files have it now. @throws Refusal that names the file and what is wrong with it */
export function read(resource: string): Promise<readonly Row[]> {
  const table = TABLES[resource]
  if (!table) throw new Refusal(404, 'Not there', `There is no ${resource} here.`)
  return Promise.resolve(objectsOf(table))
}

function objectsOf(table: Table): Row[] {
  const lists = Object.entries(table.lists ?? {}).map(([field, of]) => ({
    field,
    of,
    byObject: within(of),
  }))
  const rows = cellsOf(table, 'id')
  const ids = new Set(rows.map((cells) => cells['id'] ?? ''))
  for (const { of, byObject } of lists)
    for (const object of byObject.keys())
      if (!ids.has(object))
        throw new Refusal(
          500,
          'Not readable',
          `${of.file}.csv names ${object}, which ${table.file}.csv does not have.`,
        )
  return rows.map((cells) => {
    const id = cells['id'] ?? ''
    const value: Record<string, unknown> = valueOf(table, cells)
    for (const { field, of, byObject } of lists) {
      const members = byObject.get(id) ?? []
      value[field] = members.length === 0 && of.nullWhenEmpty ? null : members
    }
    return { id, value }
  })
}

/** The rows of a list's table, by the object that they belong to, in their order. */
function within(table: Table): Map<string, Record<string, unknown>[]> {
  const byObject = new Map<string, Record<string, unknown>[]>()
  for (const cells of cellsOf(table, 'of')) {
    const of = cells['of'] ?? ''
    byObject.set(of, [...(byObject.get(of) ?? []), valueOf(table, cells)])
  }
  if (table.together) for (const [of, rows] of byObject) byObject.set(of, putTogether(rows, table.together))
  return byObject
}

/** One entry for each value of a column; what the rows of it have beside is a list within it, null where none has any. */
function putTogether(
  rows: readonly Record<string, unknown>[],
  { by, list, of }: NonNullable<Table['together']>,
): Record<string, unknown>[] {
  const entries = new Map<unknown, Record<string, unknown>>()
  for (const row of rows) {
    const entry = entries.get(row[by]) ?? {
      ...Object.fromEntries(of.map((field) => [field, row[field]])),
      [list]: null,
    }
    const [component] = Object.entries(row).filter(([field]) => field !== by && !of.includes(field))
    if (component && component[1] !== null)
      entry[list] = [...((entry[list] as unknown[] | null) ?? []), component[1]]
    entries.set(row[by], entry)
  }
  return [...entries.values()]
}

/** A row with its fields, those within others put there. */
function valueOf({ file, columns, nullable = [] }: Table, cells: Cells): Record<string, unknown> {
  const value: Record<string, unknown> = {}
  for (const [column, as] of Object.entries(columns)) {
    const read = readAs(as, cells[column] ?? '', `${file}.csv, line ${cells[LINE]}: ${column}`)
    const [field = '', inner] = column.split('.')
    if (inner === undefined) value[field] = read
    else value[field] = { ...(value[field] as object | undefined), [inner]: read }
  }
  for (const field of nullable)
    if (Object.values(value[field] as object).every((one) => one === null)) value[field] = null
  return value
}

function readAs(as: As, text: string, where: string): unknown {
  switch (as) {
    case 'maybe':
      return text === '' ? null : text
    case 'words':
      return text
    case 'yes-no':
      if (text === 'yes' || text === 'no') return text === 'yes'
      throw new Refusal(500, 'Not readable', `${where} is "${text}", and neither yes nor no.`)
    case 'numbers':
      return text.split(/\s+/).filter(Boolean).map(Number)
    case 'text':
      if (text === '') throw new Refusal(500, 'Not readable', `${where} is empty.`)
      return text
  }
}

const LINE = ' line'

/** The rows of a file by their headers. A column of which every object may have nothing may be left out; a list's file may, too. */
function cellsOf({ file, columns }: Table, key: 'id' | 'of'): Cells[] {
  const name = `${file}.csv`
  const path = join(FOLDER, name)
  const before = statSync(path, { throwIfNoEntry: false })
  if (!before) {
    if (key === 'of') return []
    throw new Refusal(500, 'Not readable', `${name} is not in ${FOLDER}.`)
  }
  if (Math.abs(Date.now() - before.mtimeMs) < SETTLED_MS)
    throw new Refusal(503, 'Not now', `${name} was written to just now.`, Math.ceil(SETTLED_MS / 1000))
  const content = readFileSync(path)
  const after = statSync(path)
  if (after.mtimeMs !== before.mtimeMs || after.size !== content.length)
    throw new Refusal(503, 'Not now', `${name} is being written to.`, Math.ceil(SETTLED_MS / 1000))
  let headers: string[] = []
  const needed = [key, ...Object.entries(columns).flatMap(([column, as]) => (isNeeded(as) ? [column] : []))]
  const rows = parsed(content, name, (found) => {
    headers = found.map((one) => one.trim())
    const lacking = needed.filter((column) => !headers.includes(column))
    if (lacking.length > 0)
      throw new Refusal(500, 'Not readable', `${name} has no column ${lacking.join(', nor ')}.`)
    const unknown = headers.filter((one) => one !== key && columns[one] === undefined)
    if (unknown.length > 0)
      throw new Refusal(
        500,
        'Not readable',
        `${name} has the column ${unknown.join(' and ')}, which means nothing here.`,
      )
    return headers
  })
  return rows
}

const isNeeded = (as: As): boolean => as === 'text' || as === 'yes-no'

function parsed(content: Buffer, name: string, columns: (headers: string[]) => string[]): Cells[] {
  try {
    const rows = parse(content, {
      columns,
      bom: true,
      trim: true,
      skip_empty_lines: true,
      delimiter: [',', ';', '\t'],
      info: true,
    }) as unknown as { record: Record<string, string>; info: { lines: number } }[]
    return rows.map(({ record, info }) => ({ ...record, [LINE]: String(info.lines) }))
  } catch (error) {
    if (error instanceof Refusal) throw error
    throw new Refusal(500, 'Not readable', `${name}: ${(error as Error).message}`)
  }
}
