import type { Knex } from 'knex'

/** What is net of tax by its account, and what a unit's trouble is beside its tax: a line that nobody decided, or revenue that was moved. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table net_fact add column account text, add column rounding boolean not null default false;
alter table tie_unit add column matter jsonb, add column undecided bigint not null default 0, add column open_lines text[] not null default '{}';
-- Signatures of before compare at another grain: everything is proved anew with the next pull.
update pull set proved_at = null;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(
    'alter table net_fact drop column account, drop column rounding; alter table tie_unit drop column matter, drop column undecided, drop column open_lines',
  )
}
