import type { Knex } from 'knex'
import { BASELINE_TABLES, guarded } from './guarded.ts'

/** The numbers that came from sequences which all entities shared, by their table. */
const NUMBERS: readonly (readonly [table: string, column: string])[] = [
  ...BASELINE_TABLES.map((table) => [table, 'version_id'] as const),
  ['align_batch', 'batch_id'],
  ['held_change', 'change_id'],
  ['past', 'past_id'],
  ['pull', 'pull_id'],
]
const COLUMNS = [...new Set(NUMBERS.map(([, column]) => column))]

/** Numbers are taken in ranges, so that a statement with very many rows asks seldom; what is left of one is nobody's. */
const numbered = (column: string): string => `
create function number_${column}() returns trigger language plpgsql as $$
declare
  kept text := 'axion.numbers_' || tg_table_name;
  held text[] := string_to_array(current_setting(kept, true), ' ');
  next bigint; last bigint; size bigint := 1;
begin
  if held[1] = new.entity_id and held[2]::bigint <= held[3]::bigint then
    next := held[2]; last := held[3]; size := held[4];
  else
    if held[1] = new.entity_id then size := least(held[4]::bigint * 2, 1024); end if;
    insert into entity_number as n values (new.entity_id, tg_table_name, size)
      on conflict (entity_id, of) do update set last = n.last + excluded.last returning n.last into last;
    next := last - size + 1;
  end if;
  perform set_config(kept, concat_ws(' ', new.entity_id, next + 1, last, size), true);
  new.${column} := next;
  return new;
end $$;`

/** One that is further away than this is of a database whose clock was set back. */
const LONGEST = `interval '5 minutes'`

/**
 * What an entity's work rests on is the entity's own: its numbers, its locks, and its runs, which wait, are leased and fenced in their own rows.
 * So an entity can live in any database, and workers anywhere ask each what is due.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table entity_lock (entity_id text not null references legal_entity, of text not null, primary key (entity_id, of));
${guarded('entity_lock')}
create function wait_for(entity text, what text) returns void language plpgsql as $$
begin
  perform from entity_lock where entity_id = entity and of = what for update;
  if not found then
    insert into entity_lock values (entity, what) on conflict do nothing;
    perform from entity_lock where entity_id = entity and of = what for update;
  end if;
  perform set_config('axion.turn', concat_ws(' ', current_setting('axion.turn', true), what), true);
end $$;

create table entity_number (entity_id text not null references legal_entity, of text not null, last bigint not null, primary key (entity_id, of));
${guarded('entity_number')}
${COLUMNS.map(numbered).join('\n')}
${NUMBERS.map(
  ([table, column]) => `
insert into entity_number select entity_id, '${table}', max(${column}) from ${table} group by entity_id;
alter table ${table} alter column ${column} drop identity, alter column ${column} set default 0;
create trigger numbered before insert on ${table} for each row when (new.${column} = 0) execute function number_${column}();`,
).join('')}
alter table audit_entry drop constraint audit_entry_pkey, drop constraint audit_entry_entity_id_place_key, drop column audit_id;
alter table audit_entry add primary key (entity_id, place);

alter table booking alter column lease_token type uuid using null;
drop sequence lease_token;

alter table run add column due_at timestamptz not null default now(), add column leased_until timestamptz, add column leased_by text, add column lease bigint not null default 0, add column tried int not null default 0;
create index run_due on run (entity_id, due_at) where state in ('queued', 'running');
create view run_unfinished as select entity_id, run_id, due_at, leased_by,
    (due_at <= now() or due_at > now() + ${LONGEST}) and (leased_until is null or leased_until <= now() or leased_until > now() + ${LONGEST}) as waits
  from run where state in ('queued', 'running');
create view pull_due as select c.entity_id, c.system_id, c.next_pull_at from system_scope c join system s using (entity_id, system_id)
  where pull_is_due(c.next_pull_at, c.scope) and s.disconnected_at is null;
grant select on run_unfinished, pull_due to axion_app;
drop function due_pulls(), unfinished_runs();
drop schema if exists pgboss cascade;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
create function unfinished_runs() returns table (entity_id text, run_id uuid, updated_at timestamptz) language sql security definer stable set search_path = public
  as $$ select run.entity_id, run.run_id, run.updated_at from run where state in ('queued', 'running') $$;
drop view run_unfinished, pull_due;
create function due_pulls() returns table (entity_id text, system_id text) language sql security definer stable set search_path = public
  as $$ select c.entity_id, c.system_id from system_scope c join system s using (entity_id, system_id) where pull_is_due(c.next_pull_at, c.scope) and s.disconnected_at is null order by c.next_pull_at $$;
revoke all on function unfinished_runs, due_pulls from public;
grant execute on function unfinished_runs, due_pulls to axion_app;
drop index run_due;
alter table run drop column due_at, drop column leased_until, drop column leased_by, drop column lease, drop column tried;
create sequence lease_token;
grant usage on sequence lease_token to axion_app;
alter table booking alter column lease_token type bigint using null;
alter table audit_entry drop constraint audit_entry_pkey, add column audit_id bigint generated always as identity;
alter table audit_entry add primary key (entity_id, audit_id), add unique (entity_id, place);
create index audit_entry_at on audit_entry (entity_id, at desc, audit_id desc);
${NUMBERS.map(
  ([table, column]) => `
drop trigger numbered on ${table};
alter table ${table} alter column ${column} drop default, alter column ${column} add generated always as identity;
select setval(pg_get_serial_sequence('${table}', '${column}'), coalesce((select max(${column}) from ${table}), 0) + 1, false);`,
).join('')}
drop function ${COLUMNS.map((column) => `number_${column}`).join(', ')};
drop function wait_for;
drop table entity_number, entity_lock;
`)
}
