import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** What was taken from another legal entity's baseline, object by object as it was there: what is another there since is seen by it. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table copied (entity_id text not null references legal_entity, source text not null, follows boolean not null, things jsonb not null,
  person text not null, at timestamptz not null default now(),
  primary key (entity_id, source));
${guarded('copied')}`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table copied')
}
