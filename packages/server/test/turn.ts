import { connect } from '../src/database/connection.ts'

/** What is written outside of an entity's turn (`changing`) too, and why no two of its writers meet in two orders. */
const OUTSIDE: Readonly<Record<string, string>> = {
  align_batch: 'one row, of a run that one worker holds',
  align_built: 'grids have a lock of their own, and are written by nothing else',
  align_finding: 'as align_built',
  align_row: 'as align_built',
  audit_entry: 'written by the function that keeps the chain, under the chain’s own lock',
  entity_lock: 'what is waited for itself',
  entity_number: 'a row a kind of number, of which one statement takes the next',
  booking: 'leases and outcomes: rows of one batch, taken with skip locked',
  file_import: 'one person’s import, before it is taken',
  file_import_row: 'as file_import',
  file_mapping: 'one row a header',
  legal_entity: 'founding: nobody else knows of it yet',
  membership: 'as legal_entity',
  pull: 'a run’s own rows, under the run’s lease',
  pull_page: 'pages as they come, of a system that one run pulls at a time',
  staged_object: 'as pull_page',
  post_line:
    'as booking, whose rows are held first: what a line has of a document, a unit and bookings are columns apart',
  post_sum: 'rows of their own, which nobody else writes until they are put together in the turn',
  run: 'one row, under its lease',
  system: 'what a system says of itself, one row a statement',
}

/** What alone needs the turn in a table of which something else is written outside of it. */
const WITHIN: Readonly<Record<string, string>> = {
  // When it is pulled next is set by whoever looks what is due: one row a statement.
  system_scope: 'scope',
}

/**
 * Refuses, in a database of tests, whatever writes rows that a proof reads or writes without waiting for the entity's turn: two such
 * transactions would take the same locks in two orders.
 */
export async function guardTurns(ownerUrl: string): Promise<void> {
  const owner = connect(ownerUrl, 1)
  try {
    await owner.raw(`
      create function in_turn() returns trigger language plpgsql as $$
      begin
        if session_user = 'axion_app' and not 'changes' = any(string_to_array(coalesce(current_setting('axion.turn', true), ''), ' ')) then
          raise exception '% is written outside of the turn of %', tg_table_name, current_setting('axion.entity', true);
        end if;
        return null;
      end $$`)
    const { rows } = await owner.raw<{ rows: { name: string }[] }>(
      `select c.table_name as name from information_schema.columns c join information_schema.tables t using (table_schema, table_name)
       where c.table_schema = 'public' and c.column_name = 'entity_id' and t.table_type = 'BASE TABLE' and c.table_name <> all (?)`,
      [Object.keys(OUTSIDE)],
    )
    for (const { name } of rows)
      await owner.raw(
        `create trigger in_turn before insert or delete or update ${WITHIN[name] ? `of ${WITHIN[name]}` : ''} on ?? for each statement execute function in_turn()`,
        [name],
      )
  } finally {
    await owner.destroy()
  }
}
