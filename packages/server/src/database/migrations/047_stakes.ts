import type { Knex } from 'knex'

/** What is at stake in a month, in all and by kind and code, stands with its grids: null where somebody left a finding since, and it has to be worked out. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw('alter table align_built add column stakes jsonb')
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('alter table align_built drop column stakes')
}
