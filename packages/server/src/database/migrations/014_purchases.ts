import type { Knex } from 'knex'

/** What of the tax on purchases can be had back, and what the month's purchases come to of it, by agency. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table code_rule add column recoverable numeric(9, 6);
alter table record_unit add column recoverable jsonb not null default '{}';
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(
    'alter table record_unit drop column recoverable; alter table code_rule drop column recoverable',
  )
}
