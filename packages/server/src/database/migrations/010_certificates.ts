import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** Files that prove an exemption, kept beside its certificate. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table certificate_file (
  entity_id text not null references legal_entity, file_id uuid not null default gen_random_uuid(), certificate text not null, name text not null, type text not null, size integer not null, digest text not null, content bytea not null,
  person text not null, at timestamptz not null default now(), removed_at timestamptz, removed_by text,
  primary key (entity_id, file_id));
create index certificate_file_of on certificate_file (entity_id, certificate);
${guarded('certificate_file')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table certificate_file')
}
