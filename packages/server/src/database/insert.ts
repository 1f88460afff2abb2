import { createHash } from 'node:crypto'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { Client } from 'pg'
import { from as copyFrom } from 'pg-copy-streams'
import { asJson, asList, asText, plain, valuesOf } from './copied.ts'
import { type Transaction } from './connection.ts'
import { json } from './json.ts'

/** So many rows are worth a table of their own to arrive in. */
const MANY = 500

/**
 * Inserts rows, many at a time. Columns are those of the first row; amounts go as text, and PostgreSQL reads them by the table's own types.
 * A few travel as one JSON text, many as lines.
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
  const into = { table, columns, onConflict }
  if (rows.length < MANY)
    return put(trx, into, {
      from: 'jsonb_populate_recordset(null::??, ?::jsonb)',
      bindings: [table, `[${rows.map(json).join(',')}]`],
    })
  const held = await columnsOf(trx, table)
  const own = columns.map((column) => held.get(column)?.form ?? 'plain')
  const lines = rows.map((row) =>
    columns.map((column, at) => written((row as Record<string, unknown>)[column], own[at])).join('\t'),
  )
  return copied(trx, into, lines)
}

/**
 * Inserts rows that are written already, each a line in COPY's text form (`copied.ts`).
 * @param columns of each line, in their order
 */
export async function insertLines(
  trx: Transaction,
  table: string,
  columns: readonly string[],
  lines: readonly string[],
): Promise<void> {
  if (lines.length === 0) return
  const into = { table, columns }
  if (lines.length >= MANY) return copied(trx, into, lines)
  const held = await columnsOf(trx, table)
  const rows = lines.map(valuesOf)
  const names = columns.map(() => '??').join(', ')
  // Each value is read as its column's type by the same rules as a copy reads it.
  await trx.raw(
    `insert into ?? (${names}) select ${columns.map((column) => `??::${held.get(column)?.type ?? 'text'}`).join(', ')} from unnest(${columns.map(() => '?::text[]').join(', ')}) as line (${names})`,
    [
      table,
      ...columns,
      ...columns,
      ...(columns.map((_, at) => rows.map((row) => row[at] ?? null)) as never[]),
      ...columns,
    ],
  )
}

interface Into {
  readonly table: string
  readonly columns: readonly string[]
  readonly onConflict?: readonly string[] | undefined
}

/**
 * Lines are copied into a table of the session, and go on from there: row-level security forbids a copy into a table that it holds. It is
 * emptied and kept to the end of the transaction: each table that is made and dropped leaves its locks behind until then, and a transaction
 * that writes a million documents would take more of them than the database has.
 */
async function copied(trx: Transaction, into: Into, lines: readonly string[]): Promise<void> {
  const { table, columns } = into
  const names = columns.map(() => '??').join(', ')
  // Another set of columns is another table.
  const staged = `staged_${table}_${createHash('sha256').update(columns.join(' ')).digest('hex').slice(0, 12)}`
  await trx.raw(`create temp table if not exists ?? on commit drop as select ${names} from ?? with no data`, [
    staged,
    ...columns,
    table,
  ])
  const connection = await (trx.client as { acquireConnection(): Promise<Client> }).acquireConnection()
  const statement = trx.raw(`copy ?? (${names}) from stdin`, [staged, ...columns]).toQuery()
  await pipeline(Readable.from(pieces(lines), { objectMode: true }), connection.query(copyFrom(statement)))
  await put(trx, into, { from: '??', bindings: [staged] })
  await trx.raw('truncate ??', [staged])
}

async function put(
  trx: Transaction,
  { table, columns, onConflict }: Into,
  { from, bindings }: { readonly from: string; readonly bindings: readonly string[] },
): Promise<void> {
  const names = columns.map(() => '??').join(', ')
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

interface HeldColumn {
  /** How its values are written: as JSON, as an array, or as they are. */
  readonly form: 'json' | 'array' | 'plain'
  /** As SQL names it. */
  readonly type: string
}
/** The schema stands for as long as the process does. */
const COLUMNS = new Map<string, ReadonlyMap<string, HeldColumn>>()

async function columnsOf(trx: Transaction, table: string): Promise<ReadonlyMap<string, HeldColumn>> {
  const known = COLUMNS.get(table)
  if (known) return known
  const { rows } = (await trx.raw(
    `select attname as name, format_type(atttypid, atttypmod) as type, case when typname in ('json', 'jsonb') then 'json' when typcategory = 'A' then 'array' else 'plain' end as form
     from pg_attribute join pg_type t on t.oid = atttypid where attrelid = ?::regclass and attnum > 0 and not attisdropped`,
    [table],
  )) as { rows: (HeldColumn & { readonly name: string })[] }
  const columns = new Map(rows.map((row) => [row.name, row]))
  COLUMNS.set(table, columns)
  return columns
}

const PIECE = 65_536

/** Lines, some at a time. */
function* pieces(lines: readonly string[]): Generator<string> {
  let text = ''
  for (const line of lines) {
    text += `${line}\n`
    if (text.length < PIECE) continue
    yield text
    text = ''
  }
  yield text
}

function written(value: unknown, form: HeldColumn['form'] | undefined): string {
  if (form === 'json') return asJson(value)
  if (form === 'array' && Array.isArray(value)) return asList(value)
  return value == null ? asText(null) : asText(plain(value))
}
