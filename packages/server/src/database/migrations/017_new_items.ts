import type { Knex } from 'knex'

/** Whether a posting takes the items into the baseline that only its documents name (C5): nobody chose so until somebody does. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(
    `alter table agreed_default add column new_items text not null default 'left-open' check (new_items in ('left-open', 'taken-in'))`,
  )
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('alter table agreed_default drop column new_items')
}
