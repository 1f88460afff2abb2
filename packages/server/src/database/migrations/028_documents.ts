import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/**
 * One table of documents and one of units, whatever their kind; `posted` says whether documents of that system are booked one to one so far.
 * `source_document` and `tie_unit` are views of those that are: what is tied out, and what its falling number counts.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table source_document rename to document;
alter table document add column posted boolean not null default true, add column trading_day date;
update document set trading_day = document_date;
alter table document alter column posted drop default, alter column trading_day set not null;
insert into document (entity_id, system_id, document_id, revision, number, kind, status, credits_document, document_date, trading_day, period, currency, party, value, not_taken, posted)
  select entity_id, system_id, record_id, revision, number, kind, case when removed then 'void' else value->>'status' end, value->>'creditsDocumentId', day, trading_day, period, currency,
    coalesce(value->'party'->>'name', ''), value, not_taken, false from held_record where resource = 'documents';
delete from held_record where resource = 'documents';
create view source_document with (security_invoker = true) as select * from document where posted;
grant select, insert, update, delete on source_document to axion_app;

alter table tie_unit rename to unit;
alter function tie_unit_gone rename to unit_gone;
alter table unit add column posted boolean not null default true;
alter table unit alter column posted drop default;
${differing('unit', 'posted and (', ')')}
insert into unit (entity_id, unit_id, system_id, document_id, period, number, party, document_date, kind, currency, exchange_rate, combined_rates, expected_complete, bookings, edited, voided, posted, missing_why)
  select u.entity_id, 'doc:' || u.system_id || ':' || u.record_id, u.system_id, u.record_id, u.period, u.number, u.party, u.document_date, u.kind, u.currency, u.exchange_rate, u.combined_rates, u.complete, 0, false, false, false, d.not_taken
  from record_unit u join document d on d.entity_id = u.entity_id and d.system_id = u.system_id and d.document_id = u.record_id;
insert into stake_share (entity_id, finding_key, unit_id, period, currency, amount)
  select s.entity_id, s.finding_key, 'doc:' || u.system_id || ':' || u.record_id, s.period, s.currency, s.amount from record_stake s join record_unit u using (entity_id, unit_id);
alter table special_line alter column unit_id drop expression;
alter table special_line drop column tie_unit, drop column record_unit;
update special_line set unit_id = 'doc:' || substr(unit_id, 5) where starts_with(unit_id, 'rec:');
${gone('unit_gone', [...FACTS, 'special_line'])}
drop view at_stake;
drop table record_stake, record_unit;
drop function record_unit_gone;
create view tie_unit with (security_invoker = true) as select * from unit where posted;
grant select, insert, update, delete on tie_unit to axion_app;
${members('tie_member', 'tie_unit')}
${members('unit_member', 'unit')}
${learning('document', 'unit, tax_fact, net_fact, unproved_share, stake_share')}
-- What is not booked one to one has facts now: all is proved anew with the next pull.
update pull set proved_at = null;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
create table record_unit (
  entity_id text not null, unit_id text not null, system_id text not null, record_id text not null, revision text not null, period text not null, number text not null, party text not null, document_date date not null,
  kind text not null, currency text not null, exchange_rate text, combined_rates text[] not null, stated bigint not null, expected bigint not null, complete boolean not null, agrees boolean not null,
  recoverable jsonb not null default '{}', charged jsonb not null default '{}',
  primary key (entity_id, unit_id), foreign key (entity_id, system_id) references system);
create table record_stake (
  entity_id text not null, finding_key text not null, unit_id text not null, period text not null, currency text not null, amount bigint not null, primary key (entity_id, finding_key, unit_id));
create view at_stake with (security_invoker = true) as
  select entity_id, finding_key, unit_id, period, amount from stake_share union all select entity_id, finding_key, unit_id, period, amount from record_stake;
insert into held_record (entity_id, system_id, resource, record_id, revision, number, kind, day, trading_day, period, currency, removed, value, not_taken)
  select entity_id, system_id, 'documents', document_id, revision, number, kind, document_date, trading_day, period, currency, status = 'void' and value->>'status' <> 'void', value, not_taken from document where not posted;
drop view unit_member, tie_member, tie_unit, source_document;
delete from unit where not posted;
delete from document where not posted;
alter table document drop column posted, drop column trading_day;
alter table document rename to source_document;
alter table unit rename to tie_unit;
alter function unit_gone rename to tie_unit_gone;
${differing('tie_unit', '', '')}
alter table tie_unit drop column posted;
drop table special_line;
create table special_line (
  entity_id text not null, tie_unit text, record_unit text, unit_id text not null generated always as (coalesce(tie_unit, record_unit)) stored, place int not null, period text not null, system_id text not null,
  what text not null, wording text not null, region text not null, amount bigint not null, taxed text not null, item_tax_code text, account text, open boolean not null, rules text[] not null,
  primary key (entity_id, unit_id, place), check (num_nonnulls(tie_unit, record_unit) = 1));
create index special_line_tie on special_line (entity_id, tie_unit);
create index special_line_record on special_line (entity_id, record_unit);
create index special_line_period on special_line (entity_id, period, system_id);
${['special_line', 'record_unit', 'record_stake'].map(guarded).join('\n')}
grant select on at_stake to axion_app;
${gone('tie_unit_gone', FACTS, 'tie_unit')}
${gone('record_unit_gone', ['record_stake'], 'record_unit')}
create trigger with_facts after delete on record_unit referencing old table as gone for each statement execute function record_unit_gone();
${members('tie_member', 'tie_unit')}
${learning('source_document', 'tie_unit, tax_fact, net_fact, unproved_share, stake_share')}
update pull set proved_at = null;
`)
}

const FACTS = ['tax_fact', 'net_fact', 'unproved_share', 'stake_share']

/** What goes with units that are gone. @param lines the column of special lines that names them, where it is another */
function gone(name: string, facts: readonly string[], lines?: string): string {
  const deletes = [...facts.map((table) => [table, 'unit_id']), ...(lines ? [['special_line', lines]] : [])]
  return `
create or replace function ${name}() returns trigger language plpgsql as $$ begin
  ${deletes.map(([table, key]) => `delete from ${table} f using gone g where f.entity_id = g.entity_id and f.${key} = g.unit_id;`).join('\n  ')}
  return null;
end $$;`
}

function differing(table: string, open: string, close: string): string {
  return `
alter table ${table} drop column differs;
alter table ${table} add column differs boolean generated always as (${open}
  stated_signature is distinct from expected_at_stated or expected_signature is distinct from booked_signature
  or not expected_complete or bookings <> 1 or edited or voided or flaws <> '[]'${close}) stored;
create index ${table}_differs on ${table} (entity_id, period) where differs;`
}

/** Each unit's three voices side by side in the base currency, by agency and account. A source states no account: its amount stands where it is expected. */
function members(view: string, units: string): string {
  return `
create or replace view ${view} with (security_invoker = true) as
  select f.entity_id, u.period, f.unit_id, f.agency, f.account,
    sum(f.in_base) filter (where f.voice = 'stated') as stated, sum(f.in_base) filter (where f.voice = 'expected') as expected, sum(f.in_base) filter (where f.voice = 'booked') as booked
  from (
    select entity_id, unit_id, voice, agency, in_base, coalesce(account, case when voice = 'stated' then (
      select min(e.account) from tax_fact e where e.entity_id = t.entity_id and e.unit_id = t.unit_id and e.voice = 'expected' and e.agency = t.agency and e.tax <> 0) end) as account
    from tax_fact t where tax <> 0) f
  join ${units} u using (entity_id, unit_id)
  group by f.entity_id, u.period, f.unit_id, f.agency, f.account;
grant select on ${view} to axion_app;`
}

function learning(documents: string, facts: string): string {
  return `
create or replace function learn_sizes() returns void language plpgsql security definer set search_path = public
  as $$ begin analyze (skip_locked) ${documents}, ledger_entry, booking, held_object, held_record; end $$;
create or replace function learn_facts() returns void language plpgsql security definer set search_path = public
  as $$ begin analyze (skip_locked) ${facts}; end $$;`
}
