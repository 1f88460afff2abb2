import type { Columns } from '../database/row.ts'
import {
  say,
  type Code,
  type PostFilter,
  type PostListQuery,
  type PostRow,
  type PostState,
} from '@axion/contract'
import { formatAmount } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { nameSql, withDetermination } from '../documents/ids.ts'
import { POST_STATE, states } from '../documents/states.ts'
import { choicesOf } from '../lists/choices.ts'
import { allOf, type Listed } from '../lists/list.ts'
import type { Remark } from './remark.ts'

/** A document of the month with its booking, and what it states in the base currency. */
export interface PostRecord extends Columns<
  'booking',
  | 'system_id'
  | 'document_id'
  | 'number'
  | 'kind'
  | 'currency'
  | 'tax'
  | 'total'
  | 'findings'
  | 'reason_code'
  | 'reason_facts'
> {
  readonly unit: string
  readonly external_id: string | null
  readonly party: string
  readonly document_date: string
  readonly state: PostState
  readonly stated_total: string
  readonly findings: Remark[] | null
  readonly warned: boolean
  readonly reason_code: Code | null
  readonly reason_facts: Record<string, string> | null
}

/** What a posting did stays beside its document. */
const DONE: readonly Code[] = ['AXION_ITEM_TAKEN_IN']

/** What is sent or booked has nothing left to be remarked on: Tie out says what came of it. */
const REMARKED = `('not-composed', ${states('blocked', 'rehearsed', 'waiting', 'failed', 'changed').slice(1)}`

const DOCUMENTS = `
  select x.*, (x.state in ${REMARKED} and coalesce(x.findings, '[]') <> '[]') as warned from (
    select ${nameSql('d')} as unit, d.system_id, d.document_id, d.number, d.kind, d.party, d.document_date, d.currency,
      b.external_id, b.findings, coalesce(q.reason_code, b.reason_code) as reason_code, coalesce(q.reason_facts, b.reason_facts) as reason_facts, d.value->>'total' as stated_total, ${POST_STATE} as state,
      coalesce(t.tax, 0)::bigint as tax, (coalesce(t.tax, 0) + coalesce(n.net, 0))::bigint as total
    from source_document d
    left join booking b on b.entity_id = d.entity_id and b.system_id = d.system_id and b.document_id = d.document_id and b.kind = d.kind
    left join lateral (select q.reason_code, q.reason_facts from booking q where q.entity_id = d.entity_id and q.system_id = d.system_id and q.document_id = d.document_id and q.state in ${states('in-doubt')} limit 1) q on true
    ${withDetermination('d')}
    left join lateral (select sum(f.in_base) as tax from tax_fact f where f.entity_id = d.entity_id and f.unit_id = own.unit_id and f.voice = 'stated') t on true
    left join lateral (select sum(f.in_base) as net from net_fact f where f.entity_id = d.entity_id and f.unit_id = own.unit_id and f.voice = 'stated') n on true
    where d.entity_id = :entity and d.period = :month) x`

export function postList(entityId: string, month: string, { state, warned }: PostFilter): Listed {
  return {
    sql: DOCUMENTS,
    bindings: { entity: entityId, month, states: state?.split(',') ?? null },
    where: [...(state ? ['l.state = any(:states::text[])'] : []), ...(warned ? ['l.warned'] : [])],
    amount: 'l.total',
    sorts: {
      date: { by: `(f.document_date::text || ' ' || f.number)`, type: 'text' },
      number: { by: 'f.number', type: 'text' },
      party: { by: 'lower(f.party)', type: 'text' },
      tax: { by: 'f.tax', type: 'numeric' },
      total: { by: 'f.total', type: 'numeric' },
      state: { by: 'f.state', type: 'text' },
    },
    usual: { sort: 'date', down: false },
  }
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
    `select l.state, count(*)::int as n, sum(l.tax)::bigint::text as tax, (count(*) filter (where l.warned))::int as warned, coalesce(sum(abs(l.tax)) filter (where l.warned), 0)::bigint::text as warned_tax from (${DOCUMENTS}) l group by 1`,
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
  const { entityId, currency } = books
  const rows = await allOf<PostRecord>(books, postList(entityId, month, query), query)
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
