import type { Knex } from 'knex'

/**
 * What documents and bookings go by, and what all bookings of a document have before their kind, are columns of their own, as of a unit
 * already: row-level security lets nobody use an index of an expression that might see a row before its policy has, and every look-up by name
 * read all documents of all months.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
drop index source_document_key, booking_key, ledger_entry_stem;
alter table document add column named text not null generated always as (system_id || '/' || document_id) stored;
alter table booking add column named text not null generated always as (system_id || '/' || document_id) stored,
  add column stem text not null generated always as (regexp_replace(external_id, '[^/]*$', '')) stored;
alter table ledger_entry add column stem text generated always as (regexp_replace(external_id, '[^/]*$', '')) stored;
create index document_named on document (entity_id, named);
create index booking_named on booking (entity_id, named);
create index booking_stem on booking (entity_id, stem);
create index ledger_entry_stem on ledger_entry (entity_id, stem);
create or replace view source_document with (security_invoker = true) as select ${await columnsOf(knex)}, named from document where posted;
analyze document, booking, ledger_entry`)
}

export async function down(knex: Knex): Promise<void> {
  const columns = await columnsOf(knex)
  await knex.raw(`
drop view source_document;
alter table document drop column named;
alter table booking drop column named, drop column stem;
alter table ledger_entry drop column stem;
create view source_document with (security_invoker = true) as select ${columns} from document where posted;
grant select, insert, update, delete on source_document to axion_app;
create index source_document_key on document (entity_id, (system_id || '/' || document_id));
create index booking_key on booking (entity_id, (system_id || '/' || document_id));
create index ledger_entry_stem on ledger_entry (entity_id, regexp_replace(external_id, '[^/]*$', ''))`)
}

/** The columns that the view has beside the name. */
async function columnsOf(knex: Knex): Promise<string> {
  const { rows } = await knex.raw<{ rows: { columns: string }[] }>(
    `select string_agg(quote_ident(column_name), ', ' order by ordinal_position) as columns from information_schema.columns where table_schema = 'public' and table_name = 'source_document' and column_name <> 'named'`,
  )
  return rows[0]?.columns ?? ''
}
