import type { Knex } from 'knex'

/** Until when what is past stood is a column: of an expression row-level security lets nobody use the index (050). */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
drop index past_until;
alter table past add column until timestamptz generated always as (upper(recorded)) stored;
create index past_until on past (entity_id, kept_of, until)`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
alter table past drop column until;
create index past_until on past (entity_id, kept_of, upper(recorded))`)
}
