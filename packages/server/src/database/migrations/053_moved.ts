import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** Which links moved at a tick of the set-up's clock, where nothing else did: of the grids, only rows that they concern are worked out anew. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table align_moved (entity_id text not null references legal_entity, set_up bigint not null, kind text not null, system_id text not null, object_id text not null, stood_for text[] not null,
  primary key (entity_id, set_up, kind, system_id, object_id));
${guarded('align_moved')}`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table align_moved')
}
