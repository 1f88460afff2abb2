import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/**
 * What is to be proved anew after somebody changed what it was determined from: a document or entry by what it goes by, or, where nothing is named,
 * everything. Until then figures are older than set-up, and pages say so. Asked for again while a proof is under way, it is due again.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table proof_due (entity_id text not null references legal_entity, named text not null, since timestamptz not null, primary key (entity_id, named));
${guarded('proof_due')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`drop table proof_due`)
}
