import type { TieOutListQuery, TieOutRow, TieOutSums, TieOutView } from '@axion/contract'
import { formatAmount } from '@axion/core'
import { loadBaseline } from '../baseline/load.ts'
import { awaitedSystems } from '../connect/awaited.ts'
import { notFresh } from '../connect/fresh.ts'
import type { Books } from '../database/connection.ts'
import { notPostedOf } from '../documents/notPosted.ts'
import { unitSums } from '../documents/unitSums.ts'
import { choicesOf } from '../lists/choices.ts'
import { allOf, narrowed, pageOf } from '../lists/list.ts'
import { groundsOf, type Grounds } from '../proof/grounds.ts'
import { causesOf } from './causes.ts'
import { keptSums } from './kept.ts'
import { tieOutList } from './list.ts'
import { monthResting } from './ownWord.ts'

interface ListedUnit {
  readonly unit: string
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
  readonly posted: boolean
  readonly proved: boolean
  readonly settled: TieOutRow['settled']
  readonly bookings: number
  readonly known: TieOutRow['known']
  readonly booked_unnamed: boolean
}

/** The tie-out of a month: every document by agency and liability account, in three voices, beside what is not proved. */
export async function tieOut(books: Books, month: string, query: TieOutListQuery): Promise<TieOutView> {
  const { currency } = books
  const grounds = await groundsOf(books)
  const systems = grounds.systems.map((s) => s.row)
  const { units, next } = await pageOf(books, await tieOutList(books, month, query), query)
  const rows = await linesOf(books, units)
  return {
    currency,
    ...(await headOf(books, month)),
    awaits: await awaitedSystems(books, systems),
    notFresh: await notFresh(books, systems),
    kept: await keptSums(books, month),
    notPosted: await notPostedOf(books, month),
    resting: await monthResting(books, month),
    overridden: await isOverridden(books, month),
    causes: await causesOf(grounds, month),
    rows: rows.map((row, at) => rowOf(grounds, row, { at, rows })),
    choices: await choicesOf(books, month, query.show === 'not-posted' ? 'not-posted' : 'posted'),
    next,
  }
}

async function isOverridden({ trx, entityId }: Books, month: string): Promise<boolean> {
  return (
    (await trx('unit').where({ entity_id: entityId, period: month, overridden: true }).first('unit_id')) !==
    undefined
  )
}

/** The month as a whole, whatever is looked for. */
async function headOf(
  books: Books,
  month: string,
): Promise<Pick<TieOutView, 'unproved' | 'unprovedNet' | 'expected' | 'documents' | 'proved' | 'pulled'>> {
  const { trx, entityId, currency } = books
  const { units, proved, open, unproved, net } = await unitSums(books, month)
  const { expected } = (await trx('tie_total')
    .where({ entity_id: entityId, period: month })
    .first(trx.raw('coalesce(sum(expected), 0) as expected'))) as unknown as { expected: string }
  const text = (amount: string): string => formatAmount(BigInt(amount), currency)
  return {
    unproved: text(unproved),
    unprovedNet: text(net),
    expected: text(expected),
    documents: open,
    proved,
    pulled: units > 0,
  }
}

/** How many documents a filter finds, and what they come to. What its scope leaves out is listed, and counts in no amount. */
export async function tieOutSums(books: Books, month: string, query: TieOutListQuery): Promise<TieOutSums> {
  const { trx, currency } = books
  const { sql, bindings } = await narrowed(books, await tieOutList(books, month, query), query)
  const { rows } = (await trx.raw(
    `select count(*)::int as documents, ${(['stated', 'expected', 'booked', 'unproved'] as const).map((of) => `coalesce(sum(l.${of}) filter (where l.taken), 0)::bigint::text as ${of}`).join(', ')} from ${sql}`,
    bindings as never,
  )) as { rows: [TieOutSums] }
  const text = (amount: string): string => formatAmount(BigInt(amount), currency)
  const { documents, stated, expected, booked, unproved } = rows[0]
  return {
    documents,
    stated: text(stated),
    expected: text(expected),
    booked: text(booked),
    unproved: text(unproved),
  }
}

function rowOf(
  { index, currency }: Grounds,
  row: ListedUnit,
  { at, rows }: { readonly at: number; readonly rows: readonly ListedUnit[] },
): TieOutRow {
  const text = (units: string): string => formatAmount(BigInt(units), currency)
  const first = rows[at - 1]?.unit !== row.unit
  return {
    unit: row.unit,
    number: row.number,
    party: row.party,
    date: row.document_date,
    agency: row.agency,
    agencyName: row.agency === null ? null : (index.agency(row.agency)?.name ?? row.agency),
    account: row.account,
    stated: row.stated === null ? null : text(row.stated),
    expected: row.expected === null ? null : text(row.expected),
    booked: row.booked === null ? (row.bookings > 0 ? text('0') : null) : text(row.booked),
    unproved: text(row.unproved ?? '0'),
    headline: row.headline,
    facets: row.facets,
    cause: row.cause,
    posted: row.posted,
    proved: row.proved,
    settled: row.settled,
    known: row.known,
    bookedUnnamed: row.booked_unnamed,
    unprovedAlone:
      row.posted &&
      !row.proved &&
      row.settled === null &&
      first &&
      rows.every((other) => other.unit !== row.unit || (other.unproved ?? '0') === '0'),
    first,
  }
}

/**
 * The lines of documents, one an agency and account, documents in the order given and the largest account first. Each is looked up by itself:
 * where it might be hashed, or found by another key than its unit’s, all facts would be read for a page.
 */
async function linesOf({ trx, entityId }: Books, units: readonly string[]): Promise<ListedUnit[]> {
  const { rows } = (await trx.raw(
    `with chosen as (select u.*, o.place from unnest(:units::text[]) with ordinality as o (named, place) join unit u on u.entity_id = :entity and u.named = o.named)
     select c.named as unit, c.number, c.party, c.document_date, m.agency, m.account, m.stated, m.expected, m.booked, m.unproved, c.headline, c.facets, c.cause, c.posted, c.proved, c.settled, c.bookings,
       case when c.expected_complete then 'yes' when c.matter->>'wording' is not null then 'partly' else 'no' end as known,
       coalesce((select bool_or(f.voice = 'booked' and f.agency is null and f.tax <> 0) from tax_fact f where f.entity_id = c.entity_id and f.unit_id = c.unit_id), false) as booked_unnamed
     from chosen c left join lateral (
       select agency, account, sum(stated) as stated, sum(expected) as expected, sum(booked) as booked, sum(unproved) as unproved from (
         select m.agency, m.account, m.stated, m.expected, m.booked, null::numeric as unproved from unit_member m where m.entity_id = :entity and m.unit_id = c.unit_id
         union all select s.agency, s.account, null, null, null, s.tax from open_share s where s.entity_id = :entity and s.unit_id = c.unit_id
       ) x group by agency, account) m on true order by c.place, m.account nulls last, m.agency`,
    { entity: entityId, units: [...units] },
  )) as { rows: ListedUnit[] }
  return rows
}

export const TIE_OUT_HEADER = [
  'Number',
  'Date',
  'Party',
  'Agency',
  'Account',
  'Stated',
  'Expected',
  'Booked',
  'Not proved',
  'Currency',
  'Finding',
]

/** Everything that a filter finds, line by line, as it goes out: what is not known, not stated or not booked says so. */
export async function tieOutCells(books: Books, month: string, query: TieOutListQuery): Promise<string[][]> {
  const { currency } = books
  const index = await loadBaseline(books)
  const rows = await linesOf(books, await allOf(books, await tieOutList(books, month, query), query))
  const text = (amount: string | null, silence: string): string =>
    amount === null ? silence : formatAmount(BigInt(amount), currency)
  return rows.map((row) => [
    row.number,
    row.document_date,
    row.party,
    row.agency === null ? 'no agency' : (index.agency(row.agency)?.name ?? row.agency),
    row.account ?? '',
    text(row.stated, 'not stated'),
    row.known === 'no' ? 'not known' : text(row.expected ?? '0', ''),
    text(row.booked ?? (row.bookings > 0 ? '0' : null), 'not booked'),
    text(row.unproved ?? '0', ''),
    currency,
    !row.posted ? 'not posted yet' : row.proved ? 'proved' : (row.settled ?? row.facets.join(', ')),
  ])
}
