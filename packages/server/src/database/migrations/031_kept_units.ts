import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/**
 * A unit that comes to the same as before stays as it is written: its fingerprint says what it came to. When all of a month was last determined
 * stands once a month, since a row that stays does not say so.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table unit add column fingerprint text;
create table month_proof (entity_id text not null references legal_entity, period text not null, determined_at timestamptz not null, primary key (entity_id, period));
${guarded('month_proof')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop table month_proof;
alter table unit drop column fingerprint;
`)
}
