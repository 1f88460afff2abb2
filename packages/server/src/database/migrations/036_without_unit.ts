import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/**
 * Entries of a ledger in which no tax stands have no unit, and rest on the set-up all the same: what is agreed to be a tax account tomorrow
 * makes them one. What those of a month were read by is kept for all of them together.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table without_unit (entity_id text not null references legal_entity, period text not null, rests_on int[] not null, primary key (entity_id, period));
${guarded('without_unit')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`drop table without_unit`)
}
