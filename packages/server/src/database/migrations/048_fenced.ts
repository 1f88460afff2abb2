import type { Knex } from 'knex'
import { entering } from './042_homes.ts'

/** Whoever writes for a run holds its lease to the end of the transaction: nobody takes the run over between the look at the lease and the commit. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(entering('for key share'))
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(entering(''))
}
