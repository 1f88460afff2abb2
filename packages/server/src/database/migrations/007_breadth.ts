import type { Knex } from 'knex'
import { bitemporal, guarded } from './guarded.ts'

const BASELINE: Readonly<Record<string, string>> = {
  registration_threshold: 'jurisdiction text not null, sales bigint, transactions integer, currency text',
  payment_method: 'name text not null, kind text not null',
  location: 'name text not null, time_zone text not null, cut_off text, address jsonb not null',
  dimension_value: 'dimension text not null, code text not null, name text not null',
}

/** The rest of what is agreed: payment methods, places, dimensions, thresholds; posting rules for one party, item, code, channel or method. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table posting_rule add column only_by text, add column only_id text;
alter table registration add column basis text, add column frequency text;
-- What was done at once in Align, with what takes it back.
create table align_batch (
  entity_id text not null references legal_entity, batch_id bigint generated always as identity, action text not null, says text not null, person text not null, at timestamptz not null default now(),
  size integer not null, steps jsonb not null, undone_at timestamptz, undone_by text, run_id uuid,
  primary key (entity_id, batch_id), unique (entity_id, run_id), foreign key (entity_id, run_id) references run);
${guarded('align_batch')}
`)
  for (const [table, columns] of Object.entries(BASELINE)) await knex.raw(bitemporal(table, columns))
  await knex.raw('grant usage on all sequences in schema public to axion_app')
}

export async function down(): Promise<void> {
  throw new Error('What was recorded since has no place in the schema before; restore a backup instead.')
}
