import type { FullProofView } from '@axion/contract'
import type { Voice } from '@axion/core'
import type { Books, Transaction } from '../database/connection.ts'
import { overMonths } from '../database/planner.ts'

const MOST_NAMED = 50

/**
 * The slow proof beside the quick one: sums every tax fact anew, joins the voices in full, and sees whether each unit's stored
 * signatures say the same. What it finds is a fault of Axion's own, not of the books.
 */
export async function fullProof(
  { trx, entityId }: Books,
  period: string,
): Promise<{ readonly view: FullProofView; readonly disagreeing: readonly string[] }> {
  const {
    rows: [counted],
  } = (await trx.raw(
    `select count(*)::int as units, (select count(*)::int from tax_fact f join tie_unit u using (entity_id, unit_id) where u.entity_id = :e and u.period = :p) as facts from tie_unit where entity_id = :e and period = :p`,
    { e: entityId, p: period },
  )) as { rows: { units: number; facts: number }[] }
  const { rows } = (await overMonths(trx, () => trx.raw(FROM_DETAIL, { e: entityId, p: period }))) as {
    rows: { named: string; number: string; quick: boolean; full: boolean }[]
  }
  const view = {
    documents: counted?.units ?? 0,
    facts: counted?.facts ?? 0,
    astray: Number(
      (
        (await trx('tie_unit')
          .where({ entity_id: entityId, period, differs: true })
          .whereNull('settled')
          .first(trx.raw('count(*) as n'))) as { n: string }
      ).n,
    ),
    disagreeing: rows.length,
    miscounted: await overMonths(trx, () => miscounted(trx, entityId, period)),
    named: rows
      .slice(0, MOST_NAMED)
      .map(
        ({ named, number, quick }) => ({ unit: named, number, quick: quick ? 'differs' : 'agrees' }) as const,
      ),
  }
  return { view, disagreeing: rows.map((row) => row.named) }
}

/** How many sums by agency and account are kept otherwise than their parts come to. */
async function miscounted(trx: Transaction, entityId: string, period: string): Promise<number> {
  const { rows } = (await trx.raw(
    `with kept as (select * from tie_total where entity_id = :e and period = :p and members <> 0), summed as (select * from totals_of(:e, :p))
     select count(distinct (agency, account))::int as n from ((select * from kept except select * from summed) union all (select * from summed except select * from kept)) astray`,
    { e: entityId, p: period },
  )) as { rows: [{ n: number }] }
  return rows[0].n
}

/** Sums a month's parts by agency and account anew, and keeps what they come to. */
export async function countAnew({ trx, entityId }: Books, period: string): Promise<void> {
  await trx('tie_total').where({ entity_id: entityId, period }).delete()
  await overMonths(trx, () =>
    trx.raw('insert into tie_total select * from totals_of(?, ?)', [entityId, period]),
  )
}

/**
 * Members per unit and pair of voices, at the grain that both have: a source states no account, and where it states no split its
 * total is compared; where the ledger names no agency, its accounts are. Facts are read once, and summed from the finest grain upwards:
 * the three voices of a member stand in one row.
 */
export const FROM_DETAIL = `
with unit as materialized (
  select u.unit_id, u.named, u.number, u.differs, u.split_stated, u.expected_complete, u.bookings, u.edited, u.voided,
    m.stated_signature is not null as states, u.booked_signature is not null as books, u.expected_signature is not null as expects
  from tie_unit u left join determination m on m.entity_id = u.entity_id and m.unit_id = u.unit_id where u.entity_id = :e and u.period = :p),
tax as materialized (
  select f.unit_id, f.agency, f.account, f.currency, f.period, ${said('tax', 'stated')} as tax_stated, ${said('tax', 'expected')} as tax_expected, ${said('tax', 'booked')} as tax_booked,
    ${said('in_base', 'expected')} as in_base_expected, ${said('in_base', 'booked')} as in_base_booked,
    bool_or(f.voice = 'booked' and f.tax <> 0) as any_booked, bool_or(f.base is not null and f.voice <> 'expected') as based
  from tax_fact f join unit u using (unit_id) where f.entity_id = :e group by 1, 2, 3, 4, 5),
tax_by_agency as (
  select unit_id, sum(tax_stated) - sum(tax_expected) as apart, bool_or(tax_expected <> tax_booked or in_base_expected <> in_base_booked) as ledger_apart,
    bool_or(agency is null and any_booked) as unnamed, bool_or(based) as based
  from tax group by unit_id, agency, currency, period),
tax_by_unit as (
  select unit_id, bool_or(apart <> 0) as agencies_apart, sum(apart) <> 0 as total_apart, bool_or(ledger_apart) as ledger_apart, bool_or(unnamed) as unnamed, bool_or(based) as based
  from tax_by_agency group by 1),
unnamed as (
  select t.unit_id from tax t join tax_by_unit u using (unit_id) where u.unnamed group by t.unit_id, t.account, t.currency, t.period
  having sum(tax_expected) <> sum(tax_booked) or sum(in_base_expected) <> sum(in_base_booked)),
net as (
  select f.unit_id, f.account, f.currency, f.period, ${said('net', 'stated')} as net_stated, ${said('net', 'expected')} as net_expected, ${said('net', 'booked')} as net_booked, bool_or(f.account is null and f.net <> 0 and f.voice <> 'stated') as unaccounted
  from net_fact f join unit u using (unit_id) where f.entity_id = :e group by 1, 2, 3, 4),
net_by_period as (
  select unit_id, sum(net_stated) - sum(net_expected) as source_apart, sum(net_expected) - sum(net_booked) as ledger_apart, bool_or(net_expected <> net_booked) as accounts_apart, bool_or(unaccounted) as unaccounted
  from net group by unit_id, currency, period),
net_by_unit as (
  select unit_id, bool_or(source_apart <> 0) as source_apart, bool_or(ledger_apart <> 0) as ledger_apart, bool_or(accounts_apart) as accounts_apart, bool_or(unaccounted) as unaccounted
  from net_by_period group by 1),
compared as (
  select u.*, coalesce(t.based, false) as based, coalesce(
       u.states and (n.source_apart or case when u.split_stated then t.agencies_apart else t.total_apart end)
    or (u.books or u.expects) and case when t.unnamed then o.unit_id is not null else t.ledger_apart end
    or u.books and (n.ledger_apart or n.accounts_apart and not n.unaccounted), false) as apart
  from unit u left join tax_by_unit t using (unit_id) left join net_by_unit n using (unit_id) left join (select distinct unit_id from unnamed) o using (unit_id))
select named, number, differs as quick, apart as full from compared
where differs <> apart and (apart or expected_complete and bookings = 1 and not edited and not voided and not based)
order by number`

/** SQL, of facts `f` of a member: what a voice comes to. */
function said(column: 'tax' | 'in_base' | 'net', voice: Voice): string {
  return `coalesce(sum(f.${column}) filter (where f.voice = '${voice}'), 0)`
}
