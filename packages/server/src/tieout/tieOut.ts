import type { TieOutListQuery, TieOutRow, TieOutView } from '@axion/contract'
import { formatAmount } from '@axion/core'
import { loadBaseline } from '../baseline/load.ts'
import { awaitedSystems } from '../connect/awaited.ts'
import { notFresh } from '../connect/fresh.ts'
import type { Books } from '../database/connection.ts'
import { notPostedOf } from '../documents/notPosted.ts'
import { choicesOf } from '../lists/choices.ts'
import { allOf, narrowed, pageOf } from '../lists/list.ts'
import { groundsOf, type Grounds } from '../proof/grounds.ts'
import { causesOf } from './causes.ts'
import { keptSums } from './kept.ts'
import { tieOutList } from './list.ts'

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
  const { entityId, currency } = books
  const grounds = await groundsOf(books)
  const systems = grounds.systems.map((s) => s.row)
  const list = tieOutList(entityId, month, query)
  const page = await pageOf<{ readonly unit: string }>(books, list, query)
  const units = page.rows.map((row) => row.unit)
  const rows = await linesOf(books, units)
  return {
    currency,
    ...(await headOf(books, month)),
    awaits: await awaitedSystems(books, systems),
    notFresh: await notFresh(books, systems),
    kept: await keptSums(books, month),
    notPosted: await notPostedOf(books, month),
    causes: await causesOf(grounds, month),
    rows: rows.map((row, at) => rowOf(grounds, row, { at, rows })),
    totals: await totalsOf(books, narrowed(list, query, currency)),
    choices: await choicesOf(books, month, query.show === 'not-posted' ? 'not-posted' : 'posted'),
    total: page.total,
    next: page.next,
  }
}

/** The month as a whole, whatever is looked for. */
async function headOf(
  { trx, entityId, currency }: Books,
  month: string,
): Promise<Pick<TieOutView, 'unproved' | 'unprovedNet' | 'expected' | 'documents' | 'proved' | 'pulled'>> {
  const head = (await trx('tie_unit')
    .where({ entity_id: entityId, period: month })
    .first(
      trx.raw(
        `count(*) as units, count(*) filter (where proved) as proved, count(*) filter (where not proved and cause is not null) as open, coalesce(sum(unproved), 0) as unproved, coalesce(sum(unproved_net), 0) as net,
      (select coalesce(sum(expected), 0) from tie_total where entity_id = ? and period = ?) as expected`,
        [entityId, month],
      ),
    )) as Record<'units' | 'proved' | 'open' | 'unproved' | 'net' | 'expected', string>
  const text = (units: string): string => formatAmount(BigInt(units), currency)
  return {
    unproved: text(head.unproved),
    unprovedNet: text(head.net),
    expected: text(head.expected),
    documents: Number(head.open),
    proved: Number(head.proved),
    pulled: Number(head.units) > 0,
  }
}

/** The sums of all that a filter finds. */
async function totalsOf(
  { trx, currency }: Books,
  found: ReturnType<typeof narrowed>,
): Promise<TieOutView['totals']> {
  const { rows } = (await trx.raw(
    `with chosen as (${found.sql}) select coalesce(sum(m.stated), 0) as stated, coalesce(sum(m.expected), 0) as expected, coalesce(sum(m.booked), 0) as booked,
       (select coalesce(sum(s.tax), 0) from open_share s join chosen c on c.entity_id = s.entity_id and c.unit_id = s.unit_id where c.taken) as unproved
     from chosen c join unit_member m on m.entity_id = c.entity_id and m.unit_id = c.unit_id where c.taken`,
    found.bindings as never,
  )) as { rows: Record<keyof TieOutView['totals'], string>[] }
  const text = (units: string | undefined): string => formatAmount(BigInt(units ?? '0'), currency)
  const [total] = rows
  return {
    stated: text(total?.stated),
    expected: text(total?.expected),
    booked: text(total?.booked),
    unproved: text(total?.unproved),
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

/** The lines of documents, one an agency and account, documents in the order given and the largest account first. */
async function linesOf({ trx, entityId }: Books, units: readonly string[]): Promise<ListedUnit[]> {
  const { rows } = (await trx.raw(
    `with chosen as (select u.*, o.place from unnest(:units::text[]) with ordinality as o (named, place) join unit u on u.entity_id = :entity and u.named = o.named),
     member as (
       select unit_id, agency, account, sum(stated) as stated, sum(expected) as expected, sum(booked) as booked, sum(unproved) as unproved from (
         select m.unit_id, m.agency, m.account, m.stated, m.expected, m.booked, null::numeric as unproved from unit_member m where m.entity_id = :entity and m.unit_id in (select unit_id from chosen)
         union all select s.unit_id, s.agency, s.account, null, null, null, s.tax from open_share s where s.entity_id = :entity and s.unit_id in (select unit_id from chosen)
       ) x group by unit_id, agency, account)
     select c.named as unit, c.number, c.party, c.document_date, m.agency, m.account, m.stated, m.expected, m.booked, m.unproved, c.headline, c.facets, c.cause, c.posted, c.proved, c.settled, c.bookings,
       case when c.expected_complete then 'yes' when c.matter->>'wording' is not null then 'partly' else 'no' end as known,
       exists (select from tax_fact f where f.entity_id = c.entity_id and f.unit_id = c.unit_id and f.voice = 'booked' and f.agency is null and f.tax <> 0) as booked_unnamed
     from chosen c left join member m using (unit_id) order by c.place, m.account nulls last, m.agency`,
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
  const { entityId, currency } = books
  const index = await loadBaseline(books)
  const units = await allOf<{ readonly unit: string }>(books, tieOutList(entityId, month, query), query)
  const rows = await linesOf(
    books,
    units.map(({ unit }) => unit),
  )
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
