import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** Pages of a pull that is not whole yet, as they came: the next attempt goes on from the last of them. Text, since nobody has looked at what they hold. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table pull_page (
  entity_id text not null, system_id text not null, resource text not null, after bigint not null, next bigint not null, items text not null, came_at timestamptz not null default now(),
  primary key (entity_id, system_id, resource, after), foreign key (entity_id, system_id) references system, check (next > after));
${guarded('pull_page')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table pull_page')
}
