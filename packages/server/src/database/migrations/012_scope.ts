import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** What of each system is taken, which way, from when and how often; why a document is not taken stands beside it. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table system_scope (
  entity_id text not null, system_id text not null, scope jsonb not null, next_pull_at timestamptz, changed_by text not null, changed_at timestamptz not null default now(),
  primary key (entity_id, system_id), foreign key (entity_id, system_id) references system);
${guarded('system_scope')}
alter table source_document add column not_taken text;
alter table held_record add column not_taken text;
alter table tie_unit add column taken boolean generated always as (missing_why is null or missing_why not in ('draft', 'out-of-range', 'kind-off')) stored;

-- The one place that says whether a document is within a scope; null where it is.
create function why_not_taken(scope jsonb, day date, kind text, value jsonb) returns text language sql stable as $$
  select case
    when scope is null or value is null then null
    when (scope->>'from')::date > day then 'out-of-range'
    when not (scope->>'comesIn')::boolean or jsonb_exists(scope->'off'->'kinds', kind) or jsonb_exists(scope->'off'->'statuses', value->>'status')
      or jsonb_exists(scope->'off'->'channels', coalesce(value->>'channel', '')) or jsonb_exists(scope->'off'->'places', coalesce(value->>'locationId', '')) then 'kind-off' end $$;

-- Which systems are to be pulled by now, over all entities: ids alone, for the worker.
create function due_pulls() returns table (entity_id text, system_id text) language sql security definer stable set search_path = public
  as $$ select c.entity_id, c.system_id from system_scope c join system s using (entity_id, system_id) where c.next_pull_at <= now() and s.disconnected_at is null order by c.next_pull_at $$;
revoke all on function due_pulls from public;
grant execute on function due_pulls to axion_app;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(
    'drop function due_pulls, why_not_taken; alter table tie_unit drop column taken; alter table held_record drop column not_taken; alter table source_document drop column not_taken; drop table system_scope',
  )
}
