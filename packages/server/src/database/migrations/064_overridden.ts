import type { Knex } from 'knex'

/** Whether somebody overrode what a document is taxed as, by what its source says: a list of its own, whatever it came to. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table unit add column overridden boolean not null default false;
create index unit_overridden on unit (entity_id, period) where overridden;`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('alter table unit drop column overridden')
}
