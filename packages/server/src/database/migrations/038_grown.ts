import type { Knex } from 'knex'

/**
 * The planner knows nothing of a table that was empty when it was last looked at, or never: it takes every condition for one row's, and
 * joins whole tables in loops within loops. Whoever changes books asks whether any has grown to twice its size since.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create function learn_grown() returns void language plpgsql security definer set search_path = public as $$
declare grown record;
begin
  for grown in select c.oid::regclass as name from pg_class c
    where c.relnamespace = 'public'::regnamespace and c.relkind = 'r'
      and pg_relation_size(c.oid) / current_setting('block_size')::int > greatest(2 * c.relpages, 7)
  loop
    execute format('analyze (skip_locked) %s', grown.name);
  end loop;
end $$;
revoke all on function learn_grown from public;
grant execute on function learn_grown to axion_app;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop function learn_grown')
}
