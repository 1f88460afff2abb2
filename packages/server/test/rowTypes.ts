import { format, resolveConfig } from 'prettier'
import type { Database } from '../src/database/connection.ts'

interface Column {
  readonly relation: string
  readonly column: string
  readonly type: string
  readonly nullable: boolean
  /** Whether a row can be written without it. */
  readonly optional: boolean
  readonly values: readonly string[] | null
}

/** How the driver gives a column of a type. */
const TYPES: Readonly<Record<string, string>> = {
  text: 'string',
  tstzrange: 'string',
  daterange: 'string',
  date: 'string',
  uuid: 'string',
  bpchar: 'string',
  int8: 'string',
  numeric: 'string',
  time: 'string',
  int2: 'number',
  int4: 'number',
  float8: 'number',
  bool: 'boolean',
  timestamptz: 'Date',
  bytea: 'Buffer',
  jsonb: 'Json',
  json: 'Json',
}
const COLUMNS = `
  select c.relname as relation, a.attname as column, t.typname as type, not a.attnotnull as nullable,
    not a.attnotnull or a.atthasdef or a.attidentity <> '' as optional,
    (select array_agg(m[1] order by n) from pg_constraint k, regexp_matches(pg_get_constraintdef(k.oid), '''([^'']*)''::text', 'g') with ordinality as r(m, n)
      where k.conrelid = c.oid and k.contype = 'c' and k.conkey = array[a.attnum]
        and pg_get_constraintdef(k.oid) ~ ('^CHECK \\(\\(' || a.attname || ' = ANY \\(ARRAY\\[[^()]*\\]\\)\\)\\)$')) as values
  from pg_class c join pg_namespace s on s.oid = c.relnamespace
    join pg_attribute a on a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped join pg_type t on t.oid = a.atttypid
  where s.nspname = 'public' and c.relkind in ('r', 'v') and c.relname not like 'knex%'
  order by c.relname, a.attname`

/** The rows of every table and view of a migrated schema, as types for the query builder. */
export async function rowTypes(database: Database): Promise<string> {
  const { rows } = (await database.raw(COLUMNS)) as { rows: Column[] }
  const tables = [...new Set(rows.map((row) => row.relation))].map((relation) => {
    const columns = rows.filter((row) => row.relation === relation)
    const read = columns.map((c) => `${c.column}: ${typeOf(c)}${c.nullable ? ' | null' : ''}`)
    const optional = columns.filter((c) => c.optional).map((c) => `'${c.column}'`)
    return `${relation}: Row<{ ${read.join(';')} }${optional.length > 0 ? `, ${optional.join(' | ')}` : ''}>`
  })
  const text = `import type { Knex } from 'knex'

  // Written from the migrated schema, and compared with it, by schema.test.ts (with -u it is written anew).

  /** What stands in a column of JSON: read by whoever knows its shape. */
  type Json = unknown
  /** A row as it is read, and what of it may be left out when it is written. */
  type Row<R, Optional extends keyof R = never> = Knex.CompositeTableType<
    R,
    Written<Omit<R, Optional>> & Partial<Written<Pick<R, Optional>>>
  >
  type Written<R> = { [C in keyof R]: R[C] | (Date extends R[C] ? string : never) | Knex.Raw }

  declare module 'knex/types/tables.js' {
    interface Tables { ${tables.join('\n')} }
  }`
  return format(text, { ...(await resolveConfig(import.meta.filename)), parser: 'typescript' })
}

function typeOf({ type, values }: Column): string {
  if (values) return values.map((value) => `'${value}'`).join(' | ')
  const element = type.startsWith('_') ? TYPES[type.slice(1)] : undefined
  const found = element ? `readonly ${element}[]` : TYPES[type]
  if (!found) throw new Error(`nobody says how the driver gives ${type}`)
  return found
}
