import { json, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'

/** Columns of what may be revised one by one. */
const COLUMNS = {
  agency: ['name'],
  combined_rate: ['name', 'jurisdictions', 'item_tax_code'],
  rate_version: ['jurisdiction', 'percent', 'on_top_of'],
  item: ['name', 'item_tax_code'],
  party: ['name', 'claims', 'catch_all', 'address'],
  posting_rule: ['kind', 'agency', 'account'],
} as const
export type Revisable = keyof typeof COLUMNS

export interface Revision {
  readonly table: Revisable
  readonly objectId: string
  readonly values: Readonly<Record<string, unknown>>
  /** From this day on; whatever holds now, at all its dates, where null. */
  readonly from: string | null
}

/**
 * Changes values of one object of the baseline: what was believed before is ended in recorded time, and stays readable by it.
 * @throws AXION_NOT_FOUND where nothing holds on that day
 */
export async function revise(trx: Transaction, entityId: string, { table, objectId, values, from }: Revision): Promise<void> {
  const current = (await trx(table).where({ entity_id: entityId, object_id: objectId }).whereRaw('upper_inf(recorded)')
    .modify((q) => void (from === null || q.whereRaw('valid @> ?::date', [from]))).select('version_id', trx.raw('to_jsonb(??.*) as row', [table]))) as { version_id: string; row: Readonly<Record<string, unknown>> }[]
  if (current.length === 0) throw new Problem('AXION_NOT_FOUND', { what: `such ${table.replaceAll('_', ' ')} in the baseline${from === null ? '' : ` on ${from}`}` })
  await trx(table).where({ entity_id: entityId }).whereIn('version_id', current.map((row) => row.version_id)).update({ recorded: trx.raw('tstzrange(lower(recorded), now())') })
  for (const { row } of current) {
    if (from !== null) await record(trx, table, row, 'daterange(lower(r.valid), :from::date)', from)
    await record(trx, table, { ...row, ...values }, from === null ? 'r.valid' : 'daterange(:from::date, upper(r.valid))', from)
  }
}

/** @param valid an expression over the row `r` and the day `:from`; an empty range records nothing. */
async function record(trx: Transaction, table: Revisable, row: object, valid: string, from: string | null): Promise<void> {
  const columns = COLUMNS[table].join(', ')
  await trx.raw(
    `insert into :table: (entity_id, object_id, ${columns}, valid) select r.entity_id, r.object_id, ${COLUMNS[table].map((c) => `r.${c}`).join(', ')}, ${valid} from jsonb_populate_record(null:::table:, :row::jsonb) r where not isempty(${valid})`,
    { table, row: json(row), from },
  )
}
