import type { Knex } from 'knex'

function learning(facts: string): string {
  return `
create or replace function learn_facts() returns void language plpgsql security definer set search_path = public
  as $$ begin analyze (skip_locked) ${facts}; end $$;`
}

/** Whatever goes with units is looked at where many were written: of what was empty before, all would be read once for each unit that goes. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(
    learning('unit, determination, tax_fact, net_fact, special_line, unproved_share, stake_share'),
  )
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(learning('unit, tax_fact, net_fact, unproved_share, stake_share'))
}
