import type { Knex } from 'knex'

/** The states of a booking are known to the database too. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(
    `alter table booking add constraint booking_state_known check (state in
      ('blocked', 'rehearsed', 'waiting', 'sending', 'sent', 'booked', 'failed', 'in-doubt', 'changed', 'withdrawn'));
    create index booking_in_doubt on booking (entity_id, system_id, document_id) where state = 'in-doubt'`,
  )
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop index booking_in_doubt; alter table booking drop constraint booking_state_known')
}
