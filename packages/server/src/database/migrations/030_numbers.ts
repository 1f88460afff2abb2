import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

const FACTS = ['tax_fact', 'net_fact', 'unproved_share', 'stake_share', 'special_line'] as const

/**
 * A unit has a number, of the entity's own, that says nothing and leaves the server nowhere: what it is known by is the document, or the entry,
 * that it is. What a document states is compared with what is expected of it in its `determination`, what is booked in its unit: a unit of
 * several documents is proved when each of them and the unit are. Today each has one.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
drop view facts_text, unit_member, tie_member, open_share, tie_unit;
create temp table numbered on commit drop as select entity_id, unit_id, (row_number() over (partition by entity_id order by unit_id))::text as no from unit;
create index on numbered (entity_id, unit_id);
alter table unit add column entry_id text;
update unit set entry_id = regexp_replace(unit_id, '^entry:[^:]*:', '') where starts_with(unit_id, 'entry:');
${['unit', ...FACTS]
  .map(
    (table) => `
update ${table} f set unit_id = n.no from numbered n where n.entity_id = f.entity_id and n.unit_id = f.unit_id;
alter table ${table} alter column unit_id type bigint using unit_id::bigint;`,
  )
  .join('')}
drop index tie_unit_key;
alter table unit add column named text not null generated always as (system_id || '/' || coalesce(document_id, entry_id)) stored, add check (num_nonnulls(document_id, entry_id) = 1);
create unique index unit_named on unit (entity_id, named);
create index unit_entry on unit (entity_id, entry_id) where entry_id is not null;

create table determination (
  entity_id text not null, system_id text not null, document_id text not null, unit_id bigint not null, stated_signature text, expected_at_stated text,
  primary key (entity_id, system_id, document_id));
create index determination_unit on determination (entity_id, unit_id);
${guarded('determination')}
insert into determination (entity_id, system_id, document_id, unit_id, stated_signature, expected_at_stated)
  select entity_id, system_id, document_id, unit_id, stated_signature, expected_at_stated from unit where document_id is not null;
alter table unit drop column differs;
alter table unit add column members_agree boolean not null default true;
update unit set members_agree = stated_signature is not distinct from expected_at_stated;
alter table unit drop column stated_signature, drop column expected_at_stated, alter column members_agree drop default;
${differing('not members_agree')}
${gone([...FACTS, 'determination'])}

alter table work_tick rename column unit_id to named;
update work_tick set named = regexp_replace(named, '^(doc|entry):([^:]*):', '\\2/');
${views('u.named', 'create view tie_unit with (security_invoker = true) as select * from unit where posted;')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop view facts_text, unit_member, tie_member, open_share, tie_unit;
update work_tick w set named = case when exists (select from unit u where u.entity_id = w.entity_id and u.named = w.named and u.entry_id is not null) then 'entry:' else 'doc:' end || regexp_replace(named, '/', ':');
alter table work_tick rename column named to unit_id;
alter table unit drop column differs;
alter table unit add column stated_signature text, add column expected_at_stated text;
update unit u set stated_signature = d.stated_signature, expected_at_stated = d.expected_at_stated from determination d where d.entity_id = u.entity_id and d.unit_id = u.unit_id;
alter table unit drop column members_agree;
${differing('stated_signature is distinct from expected_at_stated')}
drop table determination;
${gone(FACTS)}
create temp table numbered on commit drop as
  select entity_id, unit_id::text as no, case when document_id is null then 'entry:' || system_id || ':' || entry_id else 'doc:' || system_id || ':' || document_id end as unit_id from unit;
create index on numbered (entity_id, no);
alter table unit drop column named, drop column entry_id;
create index tie_unit_key on unit (entity_id, ((system_id || '/'::text) || document_id));
${['unit', ...FACTS]
  .map(
    (table) => `
alter table ${table} alter column unit_id type text using unit_id::text;
update ${table} f set unit_id = n.unit_id from numbered n where n.entity_id = f.entity_id and n.no = f.unit_id;`,
  )
  .join('')}
${views('u.unit_id', TIE_UNIT_OF_BEFORE)}
`)
}

function differing(members: string): string {
  return `
alter table unit add column differs boolean generated always as (posted and (
  ${members} or expected_signature is distinct from booked_signature
  or not expected_complete or bookings <> 1 or edited or voided or flaws <> '[]')) stored;
create index unit_differs on unit (entity_id, period) where differs;`
}

/** What goes with units that are gone. */
function gone(tables: readonly string[]): string {
  return `
create or replace function unit_gone() returns trigger language plpgsql as $$ begin
  ${tables.map((table) => `delete from ${table} f using gone g where f.entity_id = g.entity_id and f.unit_id = g.unit_id;`).join('\n  ')}
  return null;
end $$;`
}

/** Each unit's three voices side by side in the base currency, by agency and account. A source states no account: its amount stands where it is expected. */
function members(view: string, units: string): string {
  return `
create view ${view} with (security_invoker = true) as
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

/** As it was made by 028, without what 029 added to its table. */
const TIE_UNIT_OF_BEFORE = `
do $$ begin execute (select 'create view tie_unit with (security_invoker = true) as select ' || string_agg(column_name, ', ' order by ordinal_position) || ' from unit where posted'
  from information_schema.columns where table_schema = 'public' and table_name = 'unit' and column_name not in ('determined_at', 'core_version')); end $$;`

/**
 * @param named what a unit is known by
 * @param tieUnit makes the view of units that are tied out
 */
function views(named: string, tieUnit: string): string {
  return `
${tieUnit}
grant select, insert, update, delete on tie_unit to axion_app;
create view open_share with (security_invoker = true) as select entity_id, unit_id, place, agency, account, currency, period, tax from unproved_share where not settled;
grant select on open_share to axion_app;
${members('tie_member', 'tie_unit')}
${members('unit_member', 'unit')}
-- What a unit's facts say, as one text that is the same wherever the facts are: one line a fact, in an order of its own, under the version of this form.
create view facts_text with (security_invoker = true) as
  select u.entity_id, u.period, u.unit_id, u.system_id, u.document_id, ${named} as named, 'facts 1' || coalesce(E'\\n' || f.lines, '') as text
  from unit u left join lateral (
    select string_agg(line, E'\\n' order by line collate "C") as lines from (
      select jsonb_build_array('tax', voice, line_id, jurisdiction, agency, account, currency, period, base::text, tax::text, in_base::text, origin)::text as line from tax_fact t where t.entity_id = u.entity_id and t.unit_id = u.unit_id
      union all select jsonb_build_array('net', voice, account, rounding, currency, period, net::text, in_base::text)::text from net_fact n where n.entity_id = u.entity_id and n.unit_id = u.unit_id) l) f on true;
grant select on facts_text to axion_app;`
}
