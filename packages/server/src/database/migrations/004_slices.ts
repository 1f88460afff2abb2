import type { Knex } from 'knex'

/** Documents by the key that pulls and proofs name them by, and entries and bookings by the document that their external id names. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create index source_document_key on source_document (entity_id, (system_id || '/' || document_id));
create index tie_unit_key on tie_unit (entity_id, (system_id || '/' || document_id));
create index booking_key on booking (entity_id, (system_id || '/' || document_id));
create index ledger_entry_stem on ledger_entry (entity_id, regexp_replace(external_id, '[^/]*$', ''));
create index ledger_entry_period on ledger_entry (entity_id, system_id, period);

-- The application's role may not analyze what it does not own. A table that was analyzed while it was empty makes every index look alike to the planner, and foreign keys are then checked by whole scans.
create function learn_sizes() returns void language plpgsql security definer set search_path = public
  as $$ begin analyze source_document, ledger_entry, booking, tie_unit; end $$;
create function learn_facts() returns void language plpgsql security definer set search_path = public
  as $$ begin analyze tie_unit, tax_fact, net_fact, unproved_share, stake_share; end $$;
revoke all on function learn_sizes, learn_facts from public;
grant execute on function learn_sizes, learn_facts to axion_app;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(
    'drop function learn_sizes, learn_facts; drop index source_document_key, tie_unit_key, booking_key, ledger_entry_stem, ledger_entry_period',
  )
}
