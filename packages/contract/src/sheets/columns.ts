import type { z } from 'zod'

/** How a cell is read: `text` as it stands, `flag` as yes or no, `list` and `numbers` by semicolons, `whole` as a whole number, `covers` as places. */
export type CellType = 'text' | 'flag' | 'list' | 'numbers' | 'whole' | 'covers'

export interface SheetColumn {
  /** Where the cell belongs in the object: "address.region". */
  readonly path: string
  readonly title: string
  readonly type: CellType
  readonly needed: boolean
}

/** One kind of object as a sheet of a spreadsheet: its columns, and the shape that each row has to have. */
export interface Sheet {
  readonly title: string
  readonly columns: readonly SheetColumn[]
  readonly shape: z.ZodType
  /** An object over several rows: columns under this path are a part for each row; rows belong together that agree on the others. */
  readonly parts: string | null
  /** What identifies an object among its like: the first of these that is not empty, or all of them together. */
  readonly identity: { readonly paths: readonly string[]; readonly all: boolean }
}

export const column = (path: string, title: string, more: Partial<SheetColumn> = {}): SheetColumn => ({
  path,
  title,
  type: 'text',
  needed: true,
  ...more,
})
export const may = (path: string, title: string, type: CellType = 'text'): SheetColumn => ({
  path,
  title,
  type,
  needed: false,
})

/** What a row of a file comes to. */
export type ReadRow =
  | { readonly line: number; readonly id: string; readonly value: unknown }
  | { readonly line: number; readonly problem: string }

/** A row of a file: its line there, and its cells by the path of their column. */
export interface FileRow {
  readonly line: number
  readonly cells: Readonly<Record<string, string>>
}

/**
 * Reads rows as a sheet's objects, each checked by its shape. A bad row says what is wrong in which column; of an object over
 * several rows, every row says so. Two rows for one object are both bad.
 */
export function readRows(sheet: Sheet, rows: readonly FileRow[]): ReadRow[] {
  const groups = sheet.parts === null ? rows.map((row) => [row]) : [...together(sheet, rows).values()]
  const read = groups.map((group) => ({ group, object: readObject(sheet, group) }))
  const seen = new Map<string, number>()
  for (const { object } of read) if ('id' in object) seen.set(object.id, (seen.get(object.id) ?? 0) + 1)
  return read
    .flatMap(({ group, object }): ReadRow[] => {
      const problem =
        'problem' in object
          ? object.problem
          : (seen.get(object.id) ?? 0) > 1
            ? `${object.id} is there more than once`
            : null
      if (problem !== null) return group.map((row) => ({ line: row.line, problem }))
      return [
        {
          line: (group[0] as FileRow).line,
          id: (object as { id: string }).id,
          value: (object as { value: unknown }).value,
        },
      ]
    })
    .sort((a, b) => a.line - b.line)
}

function together(sheet: Sheet, rows: readonly FileRow[]): Map<string, FileRow[]> {
  const groups = new Map<string, FileRow[]>()
  const own = sheet.columns.filter(({ path }) => !path.startsWith(`${sheet.parts}.`))
  for (const row of rows) {
    const key = JSON.stringify(own.map(({ path }) => row.cells[path] ?? ''))
    groups.set(key, [...(groups.get(key) ?? []), row])
  }
  return groups
}

function readObject(
  sheet: Sheet,
  group: readonly FileRow[],
): { readonly id: string; readonly value: unknown } | { readonly problem: string } {
  const [first] = group as [FileRow]
  try {
    const { parts } = sheet
    const own = objectOf(
      first,
      sheet.columns.filter(({ path }) => parts === null || !path.startsWith(`${parts}.`)),
    )
    if (parts !== null) {
      const columns = sheet.columns
        .filter(({ path }) => path.startsWith(`${parts}.`))
        .map((c) => ({ ...c, path: c.path.slice(parts.length + 1) }))
      const filled = group.filter((row) =>
        columns.some((c) => (row.cells[`${parts}.${c.path}`] ?? '') !== ''),
      )
      own[parts] =
        filled.length === 0
          ? null
          : filled.map((row) =>
              objectOf(
                {
                  line: row.line,
                  cells: Object.fromEntries(
                    columns.map((c) => [c.path, row.cells[`${parts}.${c.path}`] ?? '']),
                  ),
                },
                columns,
              ),
            )
    }
    const { id: given, ...value } = own
    const checked = sheet.shape.safeParse(value)
    if (!checked.success) return { problem: complaint(sheet, checked.error) }
    return { id: typeof given === 'string' ? given : identityOf(sheet, value), value: checked.data }
  } catch (error) {
    if (error instanceof BadCell) return { problem: error.message }
    throw error
  }
}

function complaint({ columns }: Sheet, error: z.ZodError): string {
  const [issue] = error.issues
  const path = issue?.path.filter((step) => typeof step === 'string').join('.') ?? ''
  const title = columns.find((c) => c.path === path)?.title ?? path
  return `${title}${title ? ': ' : ''}${issue?.message ?? 'cannot be read'}`
}

/** What an object is known by among its like. */
export function identityOf(sheet: Sheet, value: unknown): string {
  const parts = sheet.identity.paths.map((path) =>
    cellOf(value, { path, title: path, type: 'text', needed: false }),
  )
  return sheet.identity.all ? parts.filter(Boolean).join(' ') : (parts.find(Boolean) ?? '')
}

class BadCell extends Error {}

function objectOf(row: FileRow, columns: readonly SheetColumn[]): Record<string, unknown> {
  const object: Record<string, unknown> = {}
  for (const each of columns) {
    const text = row.cells[each.path] ?? ''
    if (text.trim() === '' && each.needed) throw new BadCell(`${each.title} is missing`)
    put(object, each.path.split('.'), valueOf(text, each))
  }
  return pruned(object) as Record<string, unknown>
}

function put(object: Record<string, unknown>, [head = '', ...rest]: readonly string[], value: unknown): void {
  if (rest.length === 0) object[head] = value
  else put((object[head] ??= {}) as Record<string, unknown>, rest, value)
}

/** An object of nothing but empty cells is none. */
function pruned(value: unknown, depth = 0): unknown {
  if (value === null || typeof value !== 'object' || Array.isArray(value)) return value
  const fields = Object.entries(value).map(([key, part]) => [key, pruned(part, depth + 1)] as const)
  return depth > 0 && fields.every(([, part]) => part === null) ? null : Object.fromEntries(fields)
}

const YES: readonly string[] = ['yes', 'y', 'true', '1', 'x']
const NO: readonly string[] = ['no', 'n', 'false', '0']

function valueOf(text: string, { type, title }: SheetColumn): unknown {
  const plain = text.trim()
  if (type === 'list')
    return plain === ''
      ? []
      : plain
          .split(';')
          .map((part) => part.trim())
          .filter(Boolean)
  if (type === 'numbers')
    return plain === '' ? [] : plain.split(';').map((part) => wholeOf(part.trim(), title))
  if (plain === '') return null
  if (type === 'flag') {
    if (YES.includes(plain.toLowerCase())) return true
    if (NO.includes(plain.toLowerCase())) return false
    throw new BadCell(`${title}: “${plain}” is neither yes nor no`)
  }
  if (type === 'whole') return wholeOf(plain, title)
  // A space before or after a name is part of it: it is shown where it matters, and not taken away here.
  return type === 'covers' ? plain.split(';').map((part) => coverOf(part.trim(), title)) : text
}

function wholeOf(text: string, title: string): number {
  if (!/^-?\d{1,9}$/.test(text)) throw new BadCell(`${title}: “${text}” is no whole number`)
  return Number(text)
}

/** What parts places, or parts of one, stands in a name as three signs. */
const escaped = (name: string): string => name.replace(/[%/;]/g, (sign) => encodeURIComponent(sign))
const unescaped = (name: string): string =>
  name.replace(/%(25|2F|3B)/gi, (signs) => decodeURIComponent(signs))

/** A place as country/region/city/postal code/+4 range; what is left empty does not narrow it. */
function coverOf(text: string, title: string): object {
  const [country = '', region = '', city = '', postalCode = '', plus4 = '', ...more] = text
    .split('/')
    .map((part) => unescaped(part.trim()))
  const range = /^(\d{4})-(\d{4})$/.exec(plus4)
  if (more.length > 0 || country === '' || (plus4 !== '' && !range))
    throw new BadCell(`${title}: “${text}” is no place (country/region/city/postal code/0000-9999)`)
  return {
    country,
    ...(region ? { region } : {}),
    ...(city ? { city } : {}),
    ...(postalCode ? { postalCode } : {}),
    ...(range ? { plus4: { from: range[1], to: range[2] } } : {}),
  }
}

/** An object as rows of cells, in the order of the columns: one row, or one for each of its parts. */
export function writeRows(sheet: Sheet, id: string | null, value: unknown): string[][] {
  const { parts } = sheet
  const own = { ...(value as object), ...(id === null ? {} : { id }) }
  const list = parts === null ? [null] : ((value as Record<string, unknown>)[parts] as unknown[] | null)
  return (list === null || list.length === 0 ? [null] : list).map((part) =>
    sheet.columns.map((each) =>
      parts !== null && each.path.startsWith(`${parts}.`)
        ? part === null
          ? ''
          : cellOf(part, { ...each, path: each.path.slice(parts.length + 1) })
        : cellOf(own, each),
    ),
  )
}

function cellOf(value: unknown, { path, type }: SheetColumn): string {
  const found = path
    .split('.')
    .reduce<unknown>(
      (at, step) => (at as Readonly<Record<string, unknown>> | null | undefined)?.[step],
      value,
    )
  if (found === null || found === undefined) return ''
  if (type === 'flag') return found === true ? 'yes' : 'no'
  if (type === 'covers') return (found as Readonly<Record<string, unknown>>[]).map(coverText).join('; ')
  return Array.isArray(found) ? found.join('; ') : String(found as string | number)
}

function coverText(cover: Readonly<Record<string, unknown>>): string {
  const plus4 = cover['plus4'] as { from: string; to: string } | undefined
  return [
    cover['country'],
    cover['region'],
    cover['city'],
    cover['postalCode'],
    plus4 && `${plus4.from}-${plus4.to}`,
  ]
    .map((part) => escaped(String(part ?? '')))
    .join('/')
    .replace(/\/+$/, '')
}
