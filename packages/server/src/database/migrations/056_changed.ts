import type { Knex } from 'knex'

/**
 * What a pull found otherwise is counted on each page of Align and Connect, and when set-up changed last is asked of what is tried: both are found
 * without reading all that came with it, which may be a million documents.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create index held_change_otherwise on held_change (entity_id, pull_id, resource) where kind <> 'added';
create index held_change_set_up on held_change (entity_id, resource, pull_id) where resource <> all (array['documents', 'journal-entries', 'settlements', 'bank-lines']);
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop index held_change_otherwise, held_change_set_up')
}
