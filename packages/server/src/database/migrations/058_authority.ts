import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/**
 * On whose word a rate or rule stands that was drafted out of systems: those that hold it, and who read it in the agency's own text since. What it said
 * then stands beside it: another value is another word. What somebody entered or imported has no row.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table authority (entity_id text not null references legal_entity, kind text not null, object text not null, says text not null,
  seen_in text[] not null, accepted_by text not null, accepted_at timestamptz not null default now(),
  checked_says text, checked_against text, checked_on date, checked_by text, checked_at timestamptz,
  primary key (entity_id, kind, object),
  check (num_nulls(checked_says, checked_against, checked_on, checked_by, checked_at) in (0, 5)));
${guarded('authority')}`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table authority')
}
