import type { Knex } from 'knex'

const WAITS =
  "(due_at <= now() or due_at > now() + interval '5 minutes') and (leased_until is null or leased_until <= now() or leased_until > now() + interval '5 minutes')"

const unfinished = (waits: string): string => `
create or replace view run_unfinished as select entity_id, run_id, due_at, leased_by, ${waits} as waits
  from run where state in ('queued', 'running')
    and exists (select from legal_entity e where e.entity_id = run.entity_id and e.lives_in is null and e.moving_since is null);`

/**
 * Whether a run waits is asked of its row, so that whoever takes it asks the row that they locked. Asked of the view alone, the answer was of the
 * time before they locked it, and one who came at the same moment took the run once more.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create function run_is_due(due_at timestamptz, leased_until timestamptz) returns boolean language sql stable as $$ select ${WAITS} $$;
${unfinished('run_is_due(due_at, leased_until)')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`${unfinished(WAITS)} drop function run_is_due;`)
}
