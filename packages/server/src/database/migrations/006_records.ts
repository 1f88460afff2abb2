import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** What systems of every role have beside documents that are posted one to one. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table held_record (
  entity_id text not null, system_id text not null, resource text not null, record_id text not null, revision text not null, number text not null, kind text not null,
  day date not null, trading_day date not null, period text not null, currency text not null, removed boolean not null, value jsonb not null,
  primary key (entity_id, system_id, resource, record_id), foreign key (entity_id, system_id) references system);
create index held_record_period on held_record (entity_id, period, system_id, kind);
${guarded('held_record')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table held_record')
}
