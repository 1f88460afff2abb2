import type { Knex } from 'knex'

/**
 * How far explanations were looked for: pairs of assumptions that were possible and were not tried, and whether the proof had none left for
 * the unit, so that one of the next goes on with it. What was weighed before is not known of: where nothing explains it, it waits.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table unit add column pairs_left int not null default 0, add column search_waits boolean not null default false;
create index unit_search_waits on unit (entity_id, period) where search_waits;
update unit set search_waits = true where cause like 'unexplained|%' and document_id is not null`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('alter table unit drop column pairs_left, drop column search_waits')
}
