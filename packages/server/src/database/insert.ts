import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { Client } from 'pg'
import { from as copyFrom } from 'pg-copy-streams'
import { json, type Transaction } from './connection.ts'

/** So many rows are worth a table of their own to arrive in. */
const MANY = 500

/**
 * Inserts rows, many at a time. Columns are those of the first row; amounts go as text, and PostgreSQL reads them by the table's own types.
 * A few travel as one JSON text. Many are copied into a table of the session, and go on from there: row-level security forbids a copy into a
 * table that it holds.
 * @param onConflict the columns of a key: a row that is there already is changed
 */
export async function insertRows(
  trx: Transaction,
  table: string,
  rows: readonly object[],
  onConflict?: readonly string[],
): Promise<void> {
  const [first] = rows
  if (!first) return
  const columns = Object.keys(first)
  const names = columns.map(() => '??').join(', ')
  const into = { table, columns, names, onConflict }
  if (rows.length < MANY)
    return put(trx, into, {
      from: 'jsonb_populate_recordset(null::??, ?::jsonb)',
      bindings: [table, `[${rows.map(json).join(',')}]`],
    })
  const staged = `staged_${table}`
  await trx.raw(`create temp table if not exists ?? on commit drop as select ${names} from ?? with no data`, [
    staged,
    ...columns,
    table,
  ])
  await copy(trx, { ...into, staged }, rows)
  await put(trx, into, { from: '??', bindings: [staged] })
  // Another set of columns makes another table.
  await trx.raw('drop table ??', [staged])
}

interface Into {
  readonly table: string
  readonly columns: readonly string[]
  readonly names: string
  readonly onConflict?: readonly string[] | undefined
}

async function put(
  trx: Transaction,
  { table, columns, names, onConflict }: Into,
  { from, bindings }: { readonly from: string; readonly bindings: readonly string[] },
): Promise<void> {
  const merged = columns.filter((column) => !onConflict?.includes(column))
  const merge = onConflict
    ? ` on conflict (${onConflict.map(() => '??').join(', ')}) do update set ${merged.map(() => '?? = excluded.??').join(', ')}`
    : ''
  await trx.raw(`insert into ?? (${names}) select ${names} from ${from}${merge}`, [
    table,
    ...columns,
    ...columns,
    ...bindings,
    ...(onConflict ? [...onConflict, ...merged.flatMap((column) => [column, column])] : []),
  ])
}

async function copy(
  trx: Transaction,
  { table, columns, names, staged }: Into & { readonly staged: string },
  rows: readonly object[],
): Promise<void> {
  const forms = await formsOf(trx, table)
  const own = columns.map((column) => forms.get(column) ?? 'plain')
  const connection = await (trx.client as { acquireConnection(): Promise<Client> }).acquireConnection()
  const statement = trx.raw(`copy ?? (${names}) from stdin`, [staged, ...columns]).toQuery()
  await pipeline(
    Readable.from(pieces(rows, columns, own), { objectMode: true }),
    connection.query(copyFrom(statement)),
  )
}

/** How a column's values are written: as JSON, as an array, or as they are. */
type Form = 'json' | 'array' | 'plain'
/** The schema stands for as long as the process does. */
const FORMS = new Map<string, ReadonlyMap<string, Form>>()

async function formsOf(trx: Transaction, table: string): Promise<ReadonlyMap<string, Form>> {
  const known = FORMS.get(table)
  if (known) return known
  const { rows } = (await trx.raw(
    `select attname as name, case when typname in ('json', 'jsonb') then 'json' when typcategory = 'A' then 'array' else 'plain' end as form
     from pg_attribute join pg_type t on t.oid = atttypid where attrelid = ?::regclass and attnum > 0 and not attisdropped`,
    [table],
  )) as { rows: { name: string; form: Form }[] }
  const forms = new Map(rows.map(({ name, form }) => [name, form]))
  FORMS.set(table, forms)
  return forms
}

const PIECE = 65_536

/** Rows in the text form of COPY, some at a time. */
function* pieces(
  rows: readonly object[],
  columns: readonly string[],
  forms: readonly Form[],
): Generator<string> {
  let text = ''
  for (const row of rows) {
    for (const [at, column] of columns.entries())
      text += `${at === 0 ? '' : '\t'}${written((row as Record<string, unknown>)[column], forms[at])}`
    text += '\n'
    if (text.length < PIECE) continue
    yield text
    text = ''
  }
  yield text
}

function written(value: unknown, form: Form | undefined): string {
  if (value === null || value === undefined) return '\\N'
  if (form === 'json') return escaped(json(value))
  if (form === 'array' && Array.isArray(value))
    return escaped(`{${value.map((one: unknown) => (one === null ? 'null' : quoted(plain(one)))).join(',')}}`)
  return escaped(plain(value))
}

function plain(value: unknown): string {
  return typeof value === 'string' ? value : value instanceof Date ? value.toISOString() : String(value)
}

function quoted(text: string): string {
  return `"${text.replaceAll(/["\\]/g, '\\$&')}"`
}

const ESCAPES: Readonly<Record<string, string>> = { '\\': '\\\\', '\t': '\\t', '\n': '\\n', '\r': '\\r' }

function escaped(text: string): string {
  return /[\\\t\n\r]/.test(text)
    ? text.replaceAll(/[\\\t\n\r]/g, (letter) => ESCAPES[letter] ?? letter)
    : text
}
