import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** What separate tax services keep of the documents that they were told of, and for which systems each computes, by somebody's word. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table committed_document (
  entity_id text not null, system_id text not null, committed_id text not null, revision text not null, number text not null, kind text not null, source_document text,
  status text not null, document_date date not null, period text not null, currency text not null, removed boolean not null, value jsonb not null,
  primary key (entity_id, system_id, committed_id), foreign key (entity_id, system_id) references system);
create index committed_source on committed_document (entity_id, system_id, source_document);
create index committed_number on committed_document (entity_id, system_id, number);
create index committed_period on committed_document (entity_id, period);
create table computes_for (
  entity_id text not null, service_id text not null, source_id text not null, said_by text not null, said_at timestamptz not null default now(),
  primary key (entity_id, service_id, source_id), foreign key (entity_id, service_id) references system, foreign key (entity_id, source_id) references system);
${guarded('committed_document')}
${guarded('computes_for')}`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table computes_for; drop table committed_document')
}
