import type { FullProofView } from '@axion/contract'
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
  await trx.raw('insert into tie_total select * from totals_of(?, ?)', [entityId, period])
}

/**
 * Members per unit and pair of voices, at the grain that both have: a source states no account, and where it states no split its
 * total is compared; where the ledger names no agency, its accounts are.
 */
export const FROM_DETAIL = `
with unit as (
  select u.unit_id, u.named, u.number, u.differs, u.split_stated, u.expected_complete, u.bookings, u.edited, u.voided, m.stated_signature, u.booked_signature, u.expected_signature,
    not exists (select from tax_fact f where f.entity_id = u.entity_id and f.unit_id = u.unit_id and f.voice = 'booked' and f.agency is null and f.tax <> 0) as agencies_booked
  from tie_unit u left join determination m on m.entity_id = u.entity_id and m.unit_id = u.unit_id where u.entity_id = :e and u.period = :p),
tax as (
  select f.unit_id, f.voice, f.agency, f.account, f.currency, f.period, sum(f.tax) as tax, sum(f.in_base) as in_base
  from tax_fact f join unit u using (unit_id) where f.entity_id = :e group by 1, 2, 3, 4, 5, 6),
net as (
  select f.unit_id, f.voice, f.account, f.currency, f.period, sum(f.net) as net from net_fact f join unit u using (unit_id) where f.entity_id = :e group by 1, 2, 3, 4, 5),
against_source as (
  select unit_id, case when split_stated then coalesce(agency, '') else '' end as agency, currency, period,
    sum(tax) filter (where voice = 'stated') as stated, sum(tax) filter (where voice = 'expected') as expected
  from tax join unit using (unit_id) where voice <> 'booked' and stated_signature is not null group by 1, 2, 3, 4),
against_ledger as (
  select unit_id, case when agencies_booked then coalesce(agency, '') else '' end as agency, coalesce(account, '') as account, currency, period,
    sum(tax) filter (where voice = 'expected') as expected, sum(tax) filter (where voice = 'booked') as booked,
    sum(in_base) filter (where voice = 'expected') as expected_in_base, sum(in_base) filter (where voice = 'booked') as booked_in_base
  from tax join unit using (unit_id) where voice <> 'stated' and (booked_signature is not null or expected_signature is not null) group by 1, 2, 3, 4, 5),
unaccounted as (select distinct unit_id from net where account is null and net <> 0 and voice <> 'stated'),
net_by_account as (
  select unit_id, account, currency, period, sum(net) filter (where voice = 'expected') as expected, sum(net) filter (where voice = 'booked') as booked
  from net where voice <> 'stated' and unit_id not in (select unit_id from unaccounted) group by 1, 2, 3, 4),
nets as (
  select unit_id, currency, period, sum(net) filter (where voice = 'stated') as stated, sum(net) filter (where voice = 'expected') as expected, sum(net) filter (where voice = 'booked') as booked
  from net group by 1, 2, 3),
astray as (
  select unit_id from against_source where coalesce(stated, 0) <> coalesce(expected, 0)
  union select unit_id from against_ledger where coalesce(expected, 0) <> coalesce(booked, 0) or coalesce(expected_in_base, 0) <> coalesce(booked_in_base, 0)
  union select n.unit_id from nets n join unit u using (unit_id) where (u.stated_signature is not null and coalesce(n.stated, 0) <> coalesce(n.expected, 0)) or (u.booked_signature is not null and coalesce(n.expected, 0) <> coalesce(n.booked, 0))
  union select n.unit_id from net_by_account n join unit u using (unit_id) where u.booked_signature is not null and coalesce(n.expected, 0) <> coalesce(n.booked, 0))
select u.unit_id, u.named, u.number, u.differs as quick, (a.unit_id is not null) as full
from unit u left join astray a using (unit_id)
where not u.differs and a.unit_id is not null
  or u.differs and a.unit_id is null and u.expected_complete and u.bookings = 1 and not u.edited and not u.voided
    and not exists (select from tax_fact f where f.entity_id = :e and f.unit_id = u.unit_id and f.base is not null and f.voice in ('stated', 'booked'))
order by u.number`
