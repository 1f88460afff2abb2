import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/**
 * Documents of every kind and currency, rules and certificates in the baseline, explanations of several assumptions.
 * Amounts on tie units and shares are from here on in the entity's base currency; facts hold both.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table rate_version add column on_top_of text[] not null default '{}';
alter table combined_rate add column item_tax_code text;
alter table code_rule add column percent numeric(9, 6), add column per_unit numeric, add column threshold bigint, add column threshold_taxes text, add column cap bigint, add column currency text;

alter table source_document add column kind text not null default 'invoice', add column credits_document text;
create index source_document_credits on source_document (entity_id, system_id, credits_document) where credits_document is not null;

alter table pull add column proved_at timestamptz;
alter table system add column circuit_failures integer not null default 0, add column circuit_until timestamptz;

alter table booking add column kind text not null default 'invoice', add column accepted_revision text, add column action text not null default 'book';

alter table tie_unit add column kind text not null default 'invoice', add column exchange_rate text;
alter table tie_unit drop column differs;
alter table tie_unit add column differs boolean generated always as (
  stated_signature is distinct from expected_at_stated or expected_signature is distinct from booked_signature
  or not expected_complete or bookings <> 1 or edited or voided) stored;
create index tie_unit_differs on tie_unit (entity_id, period) where differs;

drop view tie_member;
alter table tax_fact add column in_base bigint;
update tax_fact set in_base = tax;
alter table tax_fact alter column in_base set not null;
alter table net_fact add column in_base bigint;
update net_fact set in_base = net;
alter table net_fact alter column in_base set not null;

-- Each unit's three voices side by side in the base currency, by agency and account. A source states no account: its amount stands where it is expected.
create view tie_member with (security_invoker = true) as
  select f.entity_id, u.period, f.unit_id, f.agency, f.account,
    sum(f.in_base) filter (where f.voice = 'stated') as stated, sum(f.in_base) filter (where f.voice = 'expected') as expected, sum(f.in_base) filter (where f.voice = 'booked') as booked
  from (
    select entity_id, unit_id, voice, agency, in_base, coalesce(account, case when voice = 'stated' then (
      select min(e.account) from tax_fact e where e.entity_id = t.entity_id and e.unit_id = t.unit_id and e.voice = 'expected' and e.agency = t.agency and e.tax <> 0) end) as account
    from tax_fact t where tax <> 0) f
  join tie_unit u using (entity_id, unit_id)
  group by f.entity_id, u.period, f.unit_id, f.agency, f.account;
grant select on tie_member to axion_app;
`)
  for (const [table, columns] of Object.entries(BASELINE)) {
    await knex.raw(`create table ${table} (
      entity_id text not null references legal_entity, version_id bigint generated always as identity, object_id text not null, ${columns},
      valid daterange not null, recorded tstzrange not null default tstzrange(now(), null),
      primary key (entity_id, version_id),
      exclude using gist (entity_id with =, object_id with =, valid with &&, recorded with &&));
      ${guarded(table)}`)
  }
  await knex.raw('grant usage on all sequences in schema public to axion_app')
}

const BASELINE: Readonly<Record<string, string>> = {
  region_rule:
    'jurisdiction text not null, origin_levels text[] not null, taxed_by text not null, taxed_before_discount boolean not null, exemption_reasons text[] not null',
  party: 'name text not null, claims text, catch_all boolean not null, address jsonb',
  certificate: 'number text not null, party text not null, reason text not null, regions text[] not null',
  home_address: 'address jsonb not null',
}

export async function down(): Promise<void> {
  throw new Error('What was recorded since has no place in the schema before; restore a backup instead.')
}
