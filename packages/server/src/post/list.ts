import type { Columns } from '../database/row.ts'
import {
  say,
  type Code,
  type PostFilter,
  type PostListQuery,
  type PostRow,
  type PostState,
  type PostSums,
} from '@axion/contract'
import { formatAmount } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { states } from '../documents/states.ts'
import { choicesOf } from '../lists/choices.ts'
import { allOf, narrowed, ORDERS, type Listed } from '../lists/list.ts'
import type { Remark } from './remark.ts'

/** A document of the month with its booking, and what it states in the base currency. */
export interface PostRecord
  extends
    Columns<
      'post_line',
      'system_id' | 'document_id' | 'number' | 'kind' | 'party' | 'currency' | 'tax' | 'total' | 'warned'
    >,
    Columns<'booking', 'findings' | 'reason_code' | 'reason_facts'> {
  readonly unit: string
  readonly external_id: string | null
  readonly document_date: string
  readonly state: PostState
  readonly stated_total: string
  readonly findings: Remark[] | null
  readonly reason_code: Code | null
  readonly reason_facts: Record<string, string> | null
}

/** What a posting did stays beside its document. */
const DONE: readonly Code[] = ['AXION_ITEM_TAKEN_IN']

export function postList(month: string, { state, warned }: PostFilter): Listed {
  return {
    table: 'post_line',
    month,
    bindings: { states: state?.split(',') ?? null },
    // What is sent or booked has nothing left to be remarked on: Tie out says what came of it.
    where: [...(state ? ['l.state = any(:states::text[])'] : []), ...(warned ? ['l.warned'] : [])],
    amount: 'total',
    sorts: {
      ...ORDERS,
      tax: [{ column: 'tax', type: 'bigint' }],
      total: [{ column: 'total', type: 'bigint' }],
    },
    usual: { sort: 'date', down: false },
  }
}

/** Documents of Post with what is known of their bookings, in the order in which they are named. What is in doubt of one, be it a correction, says why. Each is looked up by itself, not all met with these. */
export async function recordsOf({ trx, entityId }: Books, units: readonly string[]): Promise<PostRecord[]> {
  const { rows } = (await trx.raw(
    `select l.named as unit, l.system_id, l.document_id, l.number, l.kind, l.party, l.document_date, l.currency, l.state, l.warned, l.tax, l.total,
       b.external_id, b.findings, coalesce(q.reason_code, b.reason_code) as reason_code, coalesce(q.reason_facts, b.reason_facts) as reason_facts, d.value->>'total' as stated_total
     from unnest(:units::text[]) with ordinality as o (named, place)
     cross join lateral (select * from post_line l where l.entity_id = :entity and l.system_id = split_part(o.named, '/', 1) and l.document_id = substr(o.named, strpos(o.named, '/') + 1) offset 0) l
     join document d on d.entity_id = l.entity_id and d.system_id = l.system_id and d.document_id = l.document_id
     left join booking b on b.entity_id = l.entity_id and b.system_id = l.system_id and b.document_id = l.document_id and b.kind = l.kind
     left join lateral (select q.reason_code, q.reason_facts from booking q where q.entity_id = l.entity_id and q.system_id = l.system_id and q.document_id = l.document_id and q.state in ${states('in-doubt')} limit 1) q on true
     order by o.place`,
    { entity: entityId, units: [...units] } as never,
  )) as { rows: PostRecord[] }
  return rows
}

/** How many documents stand in each state, what tax they state, and how much of it has a remark. */
export async function countsOf(
  { trx, entityId }: Books,
  month: string,
): Promise<{
  readonly states: readonly { readonly state: PostState; readonly n: number; readonly tax: string }[]
  readonly remarked: { readonly n: number; readonly tax: string }
}> {
  const { rows } = (await trx.raw(
    `select state, sum(documents)::int as n, sum(tax)::bigint::text as tax, coalesce(sum(documents) filter (where warned), 0)::int as warned, coalesce(sum(tax_size) filter (where warned), 0)::bigint::text as warned_tax
     from post_sum where entity_id = :entity and period = :month group by 1 having sum(documents) <> 0`,
    { entity: entityId, month },
  )) as { rows: { state: PostState; n: number; tax: string; warned: number; warned_tax: string }[] }
  return {
    states: rows,
    remarked: {
      n: rows.reduce((sum, row) => sum + row.warned, 0),
      tax: rows.reduce((sum, row) => sum + BigInt(row.warned_tax), 0n).toString(),
    },
  }
}

/** How many documents a filter finds, and what they state. */
export async function postSums(books: Books, month: string, query: PostListQuery): Promise<PostSums> {
  const { sql, bindings } = await narrowed(books, postList(month, query), query)
  const { rows } = (await books.trx.raw(
    `select count(*)::int as documents, coalesce(sum(l.tax), 0)::bigint::text as tax, coalesce(sum(l.total), 0)::bigint::text as total from ${sql}`,
    bindings as never,
  )) as { rows: [PostSums] }
  const { documents, tax, total } = rows[0]
  const text = (amount: string): string => formatAmount(BigInt(amount), books.currency)
  return { documents, tax: text(tax), total: text(total) }
}

const UNSENT: readonly PostState[] = ['failed', 'in-doubt', 'blocked', 'waiting']

export function postRow(row: PostRecord, currency: string): PostRow {
  return {
    unit: row.unit,
    externalId: row.external_id,
    number: row.number,
    kind: row.kind,
    party: row.party,
    date: row.document_date,
    state: row.state,
    tax: formatAmount(BigInt(row.tax), currency),
    total: formatAmount(BigInt(row.total), currency),
    foreign:
      row.currency === currency
        ? null
        : {
            currency: row.currency,
            total: row.kind === 'credit-note' ? `-${row.stated_total}` : row.stated_total,
          },
    remarks: (row.findings ?? [])
      .filter(({ code }) => row.warned || DONE.includes(code))
      .map((remark) => ({ code: remark.code, blocks: remark.blocks, ...say(remark.code, remark.facts) })),
    reason:
      row.reason_code && UNSENT.includes(row.state) ? say(row.reason_code, row.reason_facts ?? {}) : null,
  }
}

/** All that a filter finds, as it goes out. */
export async function postTable(books: Books, month: string, query: PostListQuery): Promise<string[][]> {
  const { currency } = books
  const rows = await recordsOf(books, await allOf(books, postList(month, query), query))
  const { systems } = await choicesOf(books, month)
  const named = (id: string): string => systems.find((one) => one.id === id)?.name ?? id
  return rows.map((row) => postCells(postRow(row, currency), named(row.system_id), currency))
}

export const POST_HEADER = [
  'Number',
  'Kind',
  'Date',
  'Party',
  'System',
  'Tax',
  'Total',
  'Currency',
  'State',
  'What to know',
]

function postCells(row: PostRow, system: string, currency: string): string[] {
  const know = row.reason?.says ?? row.remarks.map((remark) => remark.says).join(' ')
  return [row.number, row.kind, row.date, row.party, system, row.tax, row.total, currency, row.state, know]
}
