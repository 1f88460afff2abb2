import type { Knex } from 'knex'

const OF = (due: string): string =>
  `create or replace function due_pulls() returns table (entity_id text, system_id text) language sql security definer stable set search_path = public
  as $$ select c.entity_id, c.system_id from system_scope c join system s using (entity_id, system_id) where ${due} and s.disconnected_at is null order by c.next_pull_at $$;`

/** What is recorded is recorded past all before it, and a pull is due too where its time is further away than any that is ever set: the database's clock was set back. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table legal_entity add column recorded_last timestamptz not null default now();
create function pull_is_due(next timestamptz, scope jsonb) returns boolean language sql stable
  as $$ select next <= now() or next > now() + case when jsonb_exists(scope->'schedule', 'everyMinutes') then make_interval(mins => (scope->'schedule'->>'everyMinutes')::int) else interval '3 days' end $$;
${OF('pull_is_due(c.next_pull_at, c.scope)')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(
    `${OF('c.next_pull_at <= now()')} drop function pull_is_due; alter table legal_entity drop column recorded_last;`,
  )
}
