import type { TieOutRow, TieOutView } from '@axion/contract'
import { formatAmount } from '@axion/core'
import { loadBaseline } from '../baseline/load.ts'
import { awaitedSystems } from '../connect/awaited.ts'
import { notFresh } from '../connect/fresh.ts'
import { loadHeld } from '../connect/held.ts'
import type { Transaction } from '../database/connection.ts'
import { causesOf } from './causes.ts'
import { likePattern } from './periods.ts'

export interface TieOutQuery {
  readonly cause?: string | undefined
  readonly show?: 'unproved' | 'all' | undefined
  readonly search?: string | undefined
  readonly agency?: string | undefined
  readonly offset: number
  readonly limit: number
}

interface Row {
  readonly unit_id: string
  readonly number: string
  readonly party: string
  readonly document_date: string
  readonly agency: string | null
  readonly account: string | null
  readonly stated: string | null
  readonly expected: string | null
  readonly booked: string | null
  readonly unproved: string | null
  readonly headline: string | null
  readonly facets: string[]
  readonly cause: string | null
  readonly proved: boolean
  readonly bookings: number
  readonly known: TieOutRow['known']
  readonly booked_unnamed: boolean
  readonly total: string
}

/** The tie-out of a month: every document by agency and liability account, in three voices, beside what is not proved. */
export async function tieOut(
  trx: Transaction,
  entityId: string,
  month: string,
  currency: string,
  query: TieOutQuery,
): Promise<TieOutView> {
  const index = await loadBaseline(trx, entityId)
  const systems = await loadHeld(trx, entityId)
  const where = [
    'u.entity_id = :entityId',
    'u.period = :month',
    query.cause ? 'u.cause = :cause' : '',
    query.show === 'all' || query.cause ? '' : 'not u.proved and u.cause is not null',
    query.agency
      ? 'exists (select from tie_member x where x.entity_id = u.entity_id and x.unit_id = u.unit_id and x.agency = :agency)'
      : '',
    query.search ? `(u.number ilike :search or u.party ilike :search)` : '',
  ]
    .filter(Boolean)
    .join(' and ')
  const bindings = {
    entityId,
    month,
    cause: query.cause ?? '',
    agency: query.agency ?? '',
    search: likePattern(query.search ?? ''),
    offset: query.offset,
    limit: query.limit,
  }
  const members = `with chosen as (select u.* from tie_unit u where ${where}),
    member as (
      select unit_id, agency, account, sum(stated) as stated, sum(expected) as expected, sum(booked) as booked, sum(unproved) as unproved from (
        select m.unit_id, m.agency, m.account, m.stated, m.expected, m.booked, null::numeric as unproved from tie_member m where m.entity_id = :entityId and m.period = :month
        union all select s.unit_id, s.agency, s.account, null, null, null, s.tax from unproved_share s where s.entity_id = :entityId
      ) x group by unit_id, agency, account)`
  const { rows } = (await trx.raw(
    `${members} select c.unit_id, c.number, c.party, c.document_date, m.agency, m.account, m.stated, m.expected, m.booked, m.unproved, c.headline, c.facets, c.cause, c.proved, c.bookings,
       case when c.expected_complete then 'yes' when c.matter->>'wording' is not null then 'partly' else 'no' end as known,
       exists (select from tax_fact f where f.entity_id = c.entity_id and f.unit_id = c.unit_id and f.voice = 'booked' and f.agency is null and f.tax <> 0) as booked_unnamed, count(*) over () as total
     from chosen c left join member m using (unit_id) order by c.unproved desc, c.document_date, c.number, c.unit_id, m.account nulls last, m.agency limit :limit offset :offset`,
    bindings,
  )) as { rows: Row[] }
  const { rows: sums } = (await trx.raw(
    `${members} select coalesce(sum(m.stated), 0) as stated, coalesce(sum(m.expected), 0) as expected, coalesce(sum(m.booked), 0) as booked, coalesce(sum(m.unproved), 0) as unproved from chosen c join member m using (unit_id) where c.taken`,
    bindings,
  )) as { rows: Record<'stated' | 'expected' | 'booked' | 'unproved', string>[] }
  const head = (await trx('tie_unit')
    .where({ entity_id: entityId, period: month })
    .first(
      trx.raw(
        `count(*) as units, count(*) filter (where proved) as proved, count(*) filter (where not proved and cause is not null) as open, coalesce(sum(unproved), 0) as unproved, coalesce(sum(unproved_net), 0) as net,
      (select coalesce(sum(m.expected), 0) from tie_member m join tie_unit t using (entity_id, unit_id) where m.entity_id = ? and m.period = ? and t.taken) as expected`,
        [entityId, month],
      ),
    )) as Record<'units' | 'proved' | 'open' | 'unproved' | 'net' | 'expected', string>
  const text = (units: string | null | undefined): string => formatAmount(BigInt(units ?? '0'), currency)
  const total = sums[0]
  return {
    currency,
    unproved: text(head.unproved),
    unprovedNet: text(head.net),
    expected: text(head.expected),
    documents: Number(head.open),
    proved: Number(head.proved),
    pulled: Number(head.units) > 0,
    awaits: await awaitedSystems(
      trx,
      entityId,
      systems.map((s) => s.row),
    ),
    notFresh: await notFresh(
      trx,
      entityId,
      systems.map((s) => s.row),
    ),
    causes: await causesOf(trx, entityId, month, currency, systems, index),
    rows: rows.map((row, at): TieOutRow => ({
      unit: row.unit_id,
      number: row.number,
      party: row.party,
      date: row.document_date,
      agency: row.agency,
      agencyName: row.agency === null ? null : (index.agency(row.agency)?.name ?? row.agency),
      account: row.account,
      stated: row.stated === null ? null : text(row.stated),
      expected: row.expected === null ? null : text(row.expected),
      booked: row.booked === null ? (row.bookings > 0 ? text('0') : null) : text(row.booked),
      unproved: text(row.unproved),
      headline: row.headline,
      facets: row.facets,
      cause: row.cause,
      proved: row.proved,
      known: row.known,
      bookedUnnamed: row.booked_unnamed,
      first: rows[at - 1]?.unit_id !== row.unit_id,
    })),
    totals: {
      stated: text(total?.stated),
      expected: text(total?.expected),
      booked: text(total?.booked),
      unproved: text(total?.unproved),
    },
    total: Number(rows[0]?.total ?? 0),
  }
}
