import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** Spreadsheets on their way in: staged row by row, so that nothing is taken before somebody has seen what it comes to. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table file_import (
  entity_id text not null references legal_entity, import_id uuid not null default gen_random_uuid(), target text not null, sheet text, file_name text not null, content bytea, state text not null,
  sheets jsonb not null default '[]', total integer not null default 0, bad integer not null default 0, report jsonb not null default '{}', mode text, person text not null, at timestamptz not null default now(),
  primary key (entity_id, import_id));
create table file_import_row (
  entity_id text not null, import_id uuid not null, sheet text not null, line integer not null, cells jsonb not null, object_id text, value jsonb, problem text,
  primary key (entity_id, import_id, sheet, line), foreign key (entity_id, import_id) references file_import on delete cascade);
create index file_import_row_bad on file_import_row (entity_id, import_id) where problem is not null;
create table file_mapping (
  entity_id text not null references legal_entity, sheet text not null, header text not null, mapping jsonb not null, person text not null, at timestamptz not null default now(),
  primary key (entity_id, sheet, header));
${['file_import', 'file_import_row', 'file_mapping'].map(guarded).join('\n')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table file_mapping, file_import_row, file_import')
}
