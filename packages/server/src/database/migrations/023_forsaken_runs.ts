import type { Knex } from 'knex'

const FUNCTION = (columns: string, selected: string): string => `
drop function unfinished_runs();
create function unfinished_runs() returns table (${columns}) language sql security definer stable set search_path = public
  as $$ select ${selected} from run where state in ('queued', 'running') $$;
revoke all on function unfinished_runs from public;
grant execute on function unfinished_runs to axion_app;
`

/** When something was last heard of each run that has not ended. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(
    FUNCTION(
      'entity_id text, run_id uuid, updated_at timestamptz',
      'run.entity_id, run.run_id, run.updated_at',
    ),
  )
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(FUNCTION('entity_id text, run_id uuid', 'run.entity_id, run.run_id'))
}
