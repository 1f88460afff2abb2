import type { Knex } from 'knex'
import { bitemporal } from './guarded.ts'

/** What new items and new customers start with, as agreed (D1). */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(bitemporal('agreed_default', 'item_tax_code text, parties_taxable boolean'))
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table agreed_default')
}
