import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

const SUMS = [
  'members',
  'stated_members',
  'unsplit_members',
  'stated',
  'expected',
  'booked',
  'unsplit',
  'stated_over',
  'stated_under',
  'booked_over',
  'booked_under',
] as const
const FACTS = ['determination', 'tax_fact', 'net_fact', 'special_line', 'unproved_share', 'stake_share']

/** Facts are found by their key, whatever the planner takes the tables for. */
const BY_KEY = 'set enable_seqscan = off'

/**
 * What units come to by month, agency and account: three voices, and what they are apart, too much and too little each by itself. Facts are
 * found unit by unit (`offset 0` keeps it so): of a table that was empty when the planner last looked, it would read all once a unit.
 * @param units SQL of a table expression of rows of `unit`
 */
function sumsOf(units: string, sign: '' | '-' = ''): string {
  return `
  select entity_id, period, coalesce(agency, ''), coalesce(account, ''), ${sign}count(*), ${sign}count(stated), ${sign}count(unsplit),
    ${sign}coalesce(sum(stated), 0), ${sign}coalesce(sum(expected), 0), ${sign}coalesce(sum(booked), 0), ${sign}coalesce(sum(unsplit), 0),
    ${sign}sum(greatest(stated_gap, 0)), ${sign}sum(least(stated_gap, 0)), ${sign}sum(greatest(booked_gap, 0)), ${sign}sum(least(booked_gap, 0))
  from (
    select m.*, coalesce(m.expected, 0) - coalesce(m.unsplit, m.stated, 0) as stated_gap, coalesce(m.booked, 0) - coalesce(m.expected, 0) as booked_gap from (
      select m.*, case when m.stated is null and not m.split_stated then m.expected end as unsplit from (
        select o.entity_id, o.period, o.split_stated, o.unit_id, f.agency, f.account,
          sum(f.in_base) filter (where f.voice = 'stated') as stated, sum(f.in_base) filter (where f.voice = 'expected') as expected, sum(f.in_base) filter (where f.voice = 'booked') as booked
        from ${units} o cross join lateral (
          select a.voice, a.agency, a.in_base, coalesce(a.account, case when a.voice = 'stated' then (
            select min(e.account) from tax_fact e where e.entity_id = a.entity_id and e.unit_id = a.unit_id and e.voice = 'expected' and e.agency = a.agency and e.tax <> 0) end) as account
          from tax_fact a where a.entity_id = o.entity_id and a.unit_id = o.unit_id and a.tax <> 0 offset 0) f
        where o.posted and o.taken
        group by o.entity_id, o.period, o.split_stated, o.unit_id, f.agency, f.account) m) m) m
  group by entity_id, period, agency, account`
}

/** Adds what units come to, to what their months do; or takes it away. */
function counted(units: string, sign: '' | '-' = ''): string {
  return `
  insert into tie_total as t (entity_id, period, agency, account, ${SUMS.join(', ')})
  ${sumsOf(units, sign)}
  on conflict (entity_id, period, agency, account) do update set ${SUMS.map((of) => `${of} = t.${of} + excluded.${of}`).join(', ')};`
}

function gone(before: string, setting: string): string {
  return `
create or replace function unit_gone() returns trigger language plpgsql ${setting} as $$ begin
  ${before}
  ${FACTS.map((table) => `delete from ${table} f using gone g where f.entity_id = g.entity_id and f.unit_id = g.unit_id;`).join('\n  ')}
  return null;
end $$;`
}

/**
 * What months come to by agency and account is kept beside the facts: what is written is added once its facts are (\`count_units\`), and
 * taken away where they go, by whoever it is that deletes a unit. An agency or account that nobody names is ''.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table tie_total (entity_id text not null references legal_entity, period text not null, agency text not null, account text not null,
  ${SUMS.map((of) => `${of} bigint not null`).join(', ')}, primary key (entity_id, period, agency, account));
${guarded('tie_total')}
create function count_units(entity text, units bigint[]) returns void language plpgsql ${BY_KEY} as $$ begin
  ${counted('(select * from unit where entity_id = entity and unit_id = any(units))')}
end $$;
create function totals_of(entity text, month text) returns setof tie_total language sql stable as
  $$ ${sumsOf('(select * from unit where entity_id = entity and period = month)')} $$;
grant execute on function count_units, totals_of to axion_app;
${gone(counted('gone', '-'), BY_KEY)}
${counted('unit')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
${gone('', '')}
drop function count_units, totals_of;
drop table tie_total;
`)
}
