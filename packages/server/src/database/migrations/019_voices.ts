import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** What is net of tax by its account, and what a unit's trouble is beside its tax: a line that nobody decided, or revenue that was moved. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table net_fact add column account text, add column rounding boolean not null default false;
alter table tie_unit add column matter jsonb, add column undecided bigint not null default 0, add column open_lines text[] not null default '{}';
-- What cannot be read keeps its place in the sequence, what could be read of it, and the month that it shows in.
alter table finding add column sequence bigint, add column value jsonb, add column period text;
-- A pull that did not end says why; one that nobody knows the end of was before this.
alter table pull add column started_at timestamptz not null default now(), add column problem jsonb, add column ended boolean not null default true;
alter table pull alter column ended set default false;
-- Readiness is a month's: looking at May says nothing of September. What was checked before was of no month that anybody kept.
delete from readiness;
alter table readiness drop constraint readiness_pkey, add column period text not null, add primary key (entity_id, period, system_id, check_code);
-- What sources other than billing charge, by agency, in the base currency.
alter table record_unit add column charged jsonb not null default '{}';
delete from record_unit;
-- What somebody says was corrected where it stands, of one cause; the next pull looks whether it was.
create table work_tick (entity_id text not null references legal_entity, unit_id text not null, cause text not null, person text not null, at timestamptz not null default now(), primary key (entity_id, unit_id, cause));
${guarded('work_tick')}
-- What bars a proof though the amounts agree: a version older than its source, an agency that is not there.
alter table tie_unit add column flaws jsonb not null default '[]';
alter table tie_unit drop column differs;
alter table tie_unit add column differs boolean generated always as (
  stated_signature is distinct from expected_at_stated or expected_signature is distinct from booked_signature
  or not expected_complete or bookings <> 1 or edited or voided or flaws <> '[]') stored;
create index tie_unit_differs on tie_unit (entity_id, period) where differs;
-- Signatures of before compare at another grain: everything is proved anew with the next pull.
update pull set proved_at = null;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop table work_tick;
drop index tie_unit_differs;
alter table tie_unit drop column differs, drop column flaws, drop column matter, drop column undecided, drop column open_lines;
alter table tie_unit add column differs boolean generated always as (
  stated_signature is distinct from expected_at_stated or expected_signature is distinct from booked_signature
  or not expected_complete or bookings <> 1 or edited or voided) stored;
create index tie_unit_differs on tie_unit (entity_id, period) where differs;
alter table record_unit drop column charged;
delete from readiness;
alter table readiness drop constraint readiness_pkey, drop column period, add primary key (entity_id, system_id, check_code);
alter table pull drop column started_at, drop column problem, drop column ended;
alter table finding drop column sequence, drop column value, drop column period;
alter table net_fact drop column account, drop column rounding;
update pull set proved_at = null;
`)
}
