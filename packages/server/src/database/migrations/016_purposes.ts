import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** Accounts that are kept for kinds of amount alone: nothing else is offered them (E3). */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table account_purpose (
  entity_id text not null references legal_entity, account text not null, kinds text[] not null check (cardinality(kinds) > 0), changed_by text not null, changed_at timestamptz not null default now(), primary key (entity_id, account));
${guarded('account_purpose')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table account_purpose')
}
