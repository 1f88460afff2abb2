import type { Knex } from 'knex'

/**
 * What a whole month comes to is summed in sets: its facts are read once. Looked up unit by unit, as for the few that a proof has just written
 * (\`count_units\`), a month took as long as its full proof.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create or replace function totals_of(entity text, month text) returns setof tie_total language sql stable as $$
  with own as materialized (select unit_id, split_stated from unit where entity_id = entity and period = month and posted and taken),
  fact as materialized (
    select f.unit_id, f.voice, f.agency, f.account, sum(f.in_base) as in_base from tax_fact f join own using (unit_id) where f.entity_id = entity and f.tax <> 0 group by 1, 2, 3, 4),
  owed as (select unit_id, agency, min(account) as account from fact where voice = 'expected' group by 1, 2),
  member as (
    select f.unit_id, f.agency, coalesce(f.account, o.account) as account, sum(f.in_base) filter (where f.voice = 'stated') as stated,
      sum(f.in_base) filter (where f.voice = 'expected') as expected, sum(f.in_base) filter (where f.voice = 'booked') as booked
    from fact f left join owed o on f.voice = 'stated' and o.unit_id = f.unit_id and o.agency = f.agency group by 1, 2, 3),
  split as (select m.*, case when m.stated is null and not o.split_stated then m.expected end as unsplit from member m join own o using (unit_id)),
  apart as (select s.*, coalesce(s.expected, 0) - coalesce(s.unsplit, s.stated, 0) as stated_gap, coalesce(s.booked, 0) - coalesce(s.expected, 0) as booked_gap from split s)
  select entity, month, coalesce(agency, ''), coalesce(account, ''), count(*), count(stated), count(unsplit),
    coalesce(sum(stated), 0), coalesce(sum(expected), 0), coalesce(sum(booked), 0), coalesce(sum(unsplit), 0),
    sum(greatest(stated_gap, 0)), sum(least(stated_gap, 0)), sum(greatest(booked_gap, 0)), sum(least(booked_gap, 0))
  from apart group by agency, account $$;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
create or replace function totals_of(entity text, month text) returns setof tie_total language sql stable as $$
  select entity_id, period, coalesce(agency, ''), coalesce(account, ''), count(*), count(stated), count(unsplit),
    coalesce(sum(stated), 0), coalesce(sum(expected), 0), coalesce(sum(booked), 0), coalesce(sum(unsplit), 0),
    sum(greatest(stated_gap, 0)), sum(least(stated_gap, 0)), sum(greatest(booked_gap, 0)), sum(least(booked_gap, 0))
  from (
    select m.*, coalesce(m.expected, 0) - coalesce(m.unsplit, m.stated, 0) as stated_gap, coalesce(m.booked, 0) - coalesce(m.expected, 0) as booked_gap from (
      select m.*, case when m.stated is null and not m.split_stated then m.expected end as unsplit from (
        select o.entity_id, o.period, o.split_stated, o.unit_id, f.agency, f.account,
          sum(f.in_base) filter (where f.voice = 'stated') as stated, sum(f.in_base) filter (where f.voice = 'expected') as expected, sum(f.in_base) filter (where f.voice = 'booked') as booked
        from (select * from unit where entity_id = entity and period = month) o cross join lateral (
          select a.voice, a.agency, a.in_base, coalesce(a.account, case when a.voice = 'stated' then (
            select min(e.account) from tax_fact e where e.entity_id = a.entity_id and e.unit_id = a.unit_id and e.voice = 'expected' and e.agency = a.agency and e.tax <> 0) end) as account
          from tax_fact a where a.entity_id = o.entity_id and a.unit_id = o.unit_id and a.tax <> 0 offset 0) f
        where o.posted and o.taken
        group by o.entity_id, o.period, o.split_stated, o.unit_id, f.agency, f.account) m) m) m
  group by entity_id, period, agency, account $$;
`)
}
