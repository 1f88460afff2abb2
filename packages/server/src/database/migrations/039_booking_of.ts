import type { Knex } from 'knex'

/** The booking of a document is found by what it is the booking of: without, each document met each booking, wherever the planner took them for few. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw('create index booking_of on booking (entity_id, system_id, document_id, kind)')
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop index booking_of')
}
