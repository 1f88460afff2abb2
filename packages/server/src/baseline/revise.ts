import { type Books, type Transaction } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'
import { recordedAt } from './import.ts'

/** Columns of what may be revised one by one. */
const COLUMNS = {
  agency: ['name'],
  jurisdiction: ['name', 'level', 'parent', 'agency', 'covers'],
  registration: ['agency', 'number', 'basis', 'frequency'],
  rounding_place: ['jurisdiction', 'level', 'unit', 'tie'],
  combined_rate: ['name', 'jurisdictions', 'item_tax_code'],
  rate_version: ['jurisdiction', 'percent', 'on_top_of'],
  item_tax_code: ['name'],
  item: ['name', 'item_tax_code'],
  party: ['name', 'claims', 'catch_all', 'address'],
  posting_rule: ['kind', 'agency', 'only_by', 'only_id', 'account'],
  certificate: ['number', 'party', 'reason', 'regions'],
  payment_method: ['name', 'kind'],
  location: ['name', 'time_zone', 'cut_off', 'address'],
  dimension_value: ['dimension', 'code', 'name'],
} as const
export type Revisable = keyof typeof COLUMNS

export interface Revision {
  readonly table: Revisable
  readonly objectId: string
  readonly values: Readonly<Record<string, unknown>>
  /** From this day on; whatever holds now, at all its dates, where null. */
  readonly from: string | null
  /** Of something new: the last day; it goes on where null. */
  readonly to?: string | null
}

/** What a change of one object left behind: what held before, and the versions that hold now. Enough to take it back. */
export interface Revised {
  readonly table: Revisable
  readonly objectId: string
  readonly before: readonly object[]
  readonly after: readonly string[]
}

/**
 * Changes values of one object of the baseline: what was believed before is ended in recorded time, and stays readable by it.
 * @throws AXION_NOT_FOUND where nothing holds on that day
 */
export async function revise(books: Books, { table, objectId, values, from }: Revision): Promise<Revised> {
  const current = (await standing(books, table, objectId)).filter(({ holds }) => from === null || holds(from))
  if (current.length === 0)
    throw new Problem('AXION_NOT_FOUND', {
      what: `such ${table.replaceAll('_', ' ')} in the baseline${from === null ? '' : ` on ${from}`}`,
    })
  const before = (await standing(books, table, objectId)).map(({ row }) => row)
  const at = await end(
    books,
    table,
    current.map((version) => version.id),
  )
  for (const { row } of current) {
    if (from !== null)
      await record(books.trx, table, row, { valid: 'daterange(lower(r.valid), :from::date)', from, at })
    await record(
      books.trx,
      table,
      { ...row, ...values },
      { valid: from === null ? 'r.valid' : 'daterange(:from::date, upper(r.valid))', from, at },
    )
  }
  return { table, objectId, before, after: await idsOf(books, table, objectId) }
}

/** Adds an object that the baseline does not have. @throws AXION_ALREADY_EXISTS where it does */
export async function introduce(
  books: Books,
  { table, objectId, values, from, to = null }: Revision,
): Promise<Revised> {
  if ((await idsOf(books, table, objectId)).length > 0)
    throw new Problem('AXION_ALREADY_EXISTS', { what: objectId })
  await record(
    books.trx,
    table,
    { ...values, entity_id: books.entityId, object_id: objectId, valid: `[${from ?? ''},${to ?? ''}]` },
    { valid: 'r.valid', from: null, at: await end(books, table, []) },
  )
  return { table, objectId, before: [], after: await idsOf(books, table, objectId) }
}

/** Makes an object what it was before a change. @throws AXION_NOT_UNDONE where it was changed again since */
export async function unrevise(books: Books, { table, objectId, before, after }: Revised): Promise<void> {
  const now = await idsOf(books, table, objectId)
  if (now.length !== after.length || now.some((id) => !after.includes(id)))
    throw new Problem('AXION_NOT_UNDONE', { what: objectId, why: 'it was changed again since' })
  const at = await end(books, table, now)
  for (const row of before) await record(books.trx, table, row, { valid: 'r.valid', from: null, at })
}

interface Version {
  readonly id: string
  readonly row: Readonly<Record<string, unknown>>
  readonly holds: (day: string) => boolean
}

async function standing({ trx, entityId }: Books, table: Revisable, objectId: string): Promise<Version[]> {
  const rows = (await trx(table)
    .where({ entity_id: entityId, object_id: objectId })
    .whereRaw('upper_inf(recorded)')
    .orderBy('version_id')
    .select(
      trx.raw('version_id::text as id'),
      trx.raw('to_jsonb(??.*) as row', [table]),
      trx.raw('lower(valid)::text as "from"'),
      trx.raw('(upper(valid) - 1)::text as "to"'),
    )) as unknown as {
    id: string
    row: Readonly<Record<string, unknown>>
    from: string | null
    to: string | null
  }[]
  return rows.map(({ id, row, from, to }) => ({
    id,
    row,
    holds: (day) => (from === null || from <= day) && (to === null || day <= to),
  }))
}

async function idsOf(books: Books, table: Revisable, objectId: string): Promise<string[]> {
  return (await standing(books, table, objectId)).map(({ id }) => id)
}

/** Ends versions, and says at which instant: what takes their place is recorded from it, without a gap. */
async function end(books: Books, table: Revisable, ids: readonly string[]): Promise<string> {
  const { trx, entityId } = books
  const at = await recordedAt(books)
  await trx(table)
    .where({ entity_id: entityId })
    .whereIn('version_id', [...ids])
    .update({ recorded: trx.raw('tstzrange(lower(recorded), ?::timestamptz)', [at]) })
  return at
}

/** @param valid an expression over the row `r` and the day `:from`; an empty range records nothing. */
async function record(
  trx: Transaction,
  table: Revisable,
  row: object,
  { valid, from, at }: { readonly valid: string; readonly from: string | null; readonly at: string },
): Promise<void> {
  const columns = COLUMNS[table].join(', ')
  await trx.raw(
    `insert into :table: (entity_id, object_id, ${columns}, valid, recorded) select r.entity_id, r.object_id, ${COLUMNS[table].map((c) => `r.${c}`).join(', ')}, ${valid}, tstzrange(:at::timestamptz, null)
     from jsonb_populate_record(null:::table:, :row::jsonb) r where not isempty(${valid})`,
    { table, row: json(row), from, at },
  )
}
