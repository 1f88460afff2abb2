import type { Knex } from 'knex'

/** Every combined rate that a document is taxed at, not the first alone. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table tie_unit add column combined_rates text[] not null default '{}';
update tie_unit set combined_rates = array[combined_rate] where combined_rate is not null;
alter table tie_unit drop column combined_rate;
-- What a document is taxed at beside its first is known once it is proved again.
update pull set proved_at = null;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
alter table tie_unit add column combined_rate text;
update tie_unit set combined_rate = combined_rates[1];
alter table tie_unit drop column combined_rates;
`)
}
