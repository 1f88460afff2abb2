import type { Knex } from 'knex'

/**
 * Statistics are taken after a transaction, in one of their own, and pass by a table that somebody else is taking them of: nobody waits.
 * Until then the planner may think a table empty that is being filled, and checked foreign keys by whole scans: facts, which a proof alone
 * writes with their units, have none any more, and go with their units by statement.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
${learning('analyze (skip_locked)', ', held_object, held_record')}
do $$ declare k record; begin
  for k in select conname, conrelid::regclass as held from pg_constraint where contype = 'f' and confrelid in ('tie_unit'::regclass, 'record_unit'::regclass)
  loop execute format('alter table %s drop constraint %I', k.held, k.conname); end loop;
end $$;
${gone('tie_unit', FACTS)}
${gone('record_unit', RECORD_FACTS)}
`)
}

export async function down(knex: Knex): Promise<void> {
  const back = (unit: string, facts: readonly Facts[]): string =>
    facts
      .map(
        ([table, key]) =>
          `alter table ${table} add foreign key (entity_id, ${key}) references ${unit} (entity_id, unit_id) on delete cascade;`,
      )
      .join('\n')
  await knex.raw(`
${learning('analyze', ', tie_unit')}
drop trigger with_facts on tie_unit; drop trigger with_facts on record_unit;
drop function tie_unit_gone, record_unit_gone;
${back('tie_unit', FACTS)}
${back('record_unit', RECORD_FACTS)}
`)
}

/** A table of facts, and the column that names their unit. */
type Facts = readonly [table: string, key: string]
const FACTS: readonly Facts[] = [
  ['tax_fact', 'unit_id'],
  ['net_fact', 'unit_id'],
  ['unproved_share', 'unit_id'],
  ['stake_share', 'unit_id'],
  ['special_line', 'tie_unit'],
]
const RECORD_FACTS: readonly Facts[] = [
  ['record_stake', 'unit_id'],
  ['special_line', 'record_unit'],
]

function gone(unit: string, facts: readonly Facts[]): string {
  return `
create function ${unit}_gone() returns trigger language plpgsql as $$ begin
  ${facts.map(([table, key]) => `delete from ${table} f using gone g where f.entity_id = g.entity_id and f.${key} = g.unit_id;`).join('\n  ')}
  return null;
end $$;
create trigger with_facts after delete on ${unit} referencing old table as gone for each statement execute function ${unit}_gone();`
}

function learning(analyze: string, more: string): string {
  return `
create or replace function learn_sizes() returns void language plpgsql security definer set search_path = public
  as $$ begin ${analyze} source_document, ledger_entry, booking${more}; end $$;
create or replace function learn_facts() returns void language plpgsql security definer set search_path = public
  as $$ begin ${analyze} tie_unit, tax_fact, net_fact, unproved_share, stake_share, record_unit, record_stake; end $$;
create or replace function learn_align() returns void language plpgsql security definer set search_path = public
  as $$ begin ${analyze} align_row, align_finding; end $$;`
}
