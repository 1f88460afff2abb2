import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** What the documents of tills, shops and purchasing come to, and what set-up puts at stake on them: analysed, not booked yet. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
-- A system that comes back is read from its beginning once.
alter table pull_cursor add column whole boolean not null default false;
create table record_unit (
  entity_id text not null, unit_id text not null, system_id text not null, record_id text not null, revision text not null, period text not null, number text not null, party text not null, document_date date not null,
  kind text not null, currency text not null, exchange_rate text, combined_rates text[] not null, stated bigint not null, expected bigint not null, complete boolean not null, agrees boolean not null,
  primary key (entity_id, unit_id), foreign key (entity_id, system_id) references system);
create index record_unit_period on record_unit (entity_id, period, system_id);
create table record_stake (
  entity_id text not null, finding_key text not null, unit_id text not null, period text not null, currency text not null, amount bigint not null,
  primary key (entity_id, finding_key, unit_id), foreign key (entity_id, unit_id) references record_unit on delete cascade);
create index record_stake_unit on record_stake (entity_id, unit_id);
${['record_unit', 'record_stake'].map(guarded).join('\n')}
create view at_stake with (security_invoker = true) as
  select entity_id, finding_key, unit_id, period, amount from stake_share union all select entity_id, finding_key, unit_id, period, amount from record_stake;
grant select on at_stake to axion_app;
create or replace function learn_facts() returns void language plpgsql security definer set search_path = public
  as $$ begin analyze tie_unit, tax_fact, net_fact, unproved_share, stake_share, record_unit, record_stake; end $$;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`create or replace function learn_facts() returns void language plpgsql security definer set search_path = public as $$ begin analyze tie_unit, tax_fact, net_fact, unproved_share, stake_share; end $$;
    drop view at_stake; drop table record_stake, record_unit`)
}
