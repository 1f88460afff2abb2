import type { Knex } from 'knex'

/** Whether another row of a grid bears a row's name; grids are worked out anew, so that they know. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw('alter table align_row add column shared boolean not null default false')
  await knex.raw('update align_clock set set_up = set_up + 1')
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('alter table align_row drop column shared')
}
