import type { Knex } from 'knex'

/** Tables of one legal entity's data, beside the baseline's. Each begins its key with the entity's id. */
const ENTITY_TABLES = `
create table system (
  entity_id text not null references legal_entity, system_id text not null, role text not null, name text not null, address text not null,
  token_sealed bytea not null, about jsonb not null, settings jsonb, connected_at timestamptz not null default now(), disconnected_at timestamptz,
  primary key (entity_id, system_id));

create table readiness (
  entity_id text not null, system_id text not null, check_code text not null, state text not null, facts jsonb not null, checked_at timestamptz not null default now(),
  primary key (entity_id, system_id, check_code), foreign key (entity_id, system_id) references system);

create table run (
  entity_id text not null references legal_entity, run_id uuid not null default gen_random_uuid(), kind text not null, state text not null default 'queued',
  total integer not null default 0, done integer not null default 0, failed integer not null default 0, step text not null default '',
  payload jsonb not null default '{}', report jsonb not null default '{}', cancel_requested boolean not null default false,
  started_by text not null, created_at timestamptz not null default now(), updated_at timestamptz not null default now(),
  primary key (entity_id, run_id));

create table pull (
  entity_id text not null, pull_id bigint generated always as identity, system_id text not null, run_id uuid not null, finished_at timestamptz not null default now(),
  counts jsonb not null, primary key (entity_id, pull_id), foreign key (entity_id, system_id) references system, foreign key (entity_id, run_id) references run);

create table pull_cursor (
  entity_id text not null, system_id text not null, resource text not null, sequence bigint not null,
  primary key (entity_id, system_id, resource), foreign key (entity_id, system_id) references system);

create table held_object (
  entity_id text not null, system_id text not null, resource text not null, object_id text not null, revision text not null, value jsonb, removed boolean not null,
  primary key (entity_id, system_id, resource, object_id), foreign key (entity_id, system_id) references system);

create table held_change (
  entity_id text not null, change_id bigint generated always as identity, pull_id bigint not null, system_id text not null, resource text not null, object_id text not null,
  kind text not null, label text not null, before jsonb, after jsonb,
  primary key (entity_id, change_id), foreign key (entity_id, pull_id) references pull);

create table finding (
  entity_id text not null, system_id text not null, resource text not null, object_id text not null, code text not null, facts jsonb not null, found_at timestamptz not null default now(),
  primary key (entity_id, system_id, resource, object_id), foreign key (entity_id, system_id) references system);

create table source_document (
  entity_id text not null, system_id text not null, document_id text not null, revision text not null, number text not null, status text not null,
  document_date date not null, period text not null, currency text not null, party text not null, value jsonb not null,
  primary key (entity_id, system_id, document_id), foreign key (entity_id, system_id) references system);
create index source_document_period on source_document (entity_id, period, document_date, number);

create table ledger_entry (
  entity_id text not null, system_id text not null, entry_id text not null, revision text not null, external_id text, booking_id text, booking_revision text,
  posting_date date not null, period text not null, currency text not null, voided boolean not null, changed_by text not null, changed_at timestamptz not null, value jsonb not null,
  primary key (entity_id, system_id, entry_id), foreign key (entity_id, system_id) references system);
create index ledger_entry_external on ledger_entry (entity_id, external_id);

create table ledger_balance (
  entity_id text not null, system_id text not null, period text not null, account text not null, currency text not null, opening bigint not null, closing bigint not null,
  primary key (entity_id, system_id, period, account, currency), foreign key (entity_id, system_id) references system);

create table link (
  entity_id text not null, system_id text not null, kind text not null, object_id text not null, baseline_id text not null,
  evidence jsonb not null default '[]', linked_by text not null, linked_at timestamptz not null default now(),
  primary key (entity_id, system_id, kind, object_id), foreign key (entity_id, system_id) references system);

create table booking (
  entity_id text not null, external_id text not null, system_id text not null, document_id text not null, number text not null, period text not null, currency text not null,
  state text not null, revision integer not null default 1, source_revision text not null, tax bigint not null, total bigint not null,
  journal jsonb, request jsonb, findings jsonb not null default '[]', ledger_booking_id text, ledger_revision text, run_id uuid,
  attempts integer not null default 0, not_before timestamptz, lease_token bigint, lease_until timestamptz, uncertain_since timestamptz,
  reason_code text, reason_facts jsonb, updated_at timestamptz not null default now(),
  primary key (entity_id, external_id), foreign key (entity_id, system_id, document_id) references source_document, foreign key (entity_id, run_id) references run);
create index booking_state on booking (entity_id, state);
create index booking_run on booking (entity_id, run_id);

create table tie_unit (
  entity_id text not null, unit_id text not null, period text not null, system_id text not null, document_id text, number text not null, party text not null,
  document_date date not null, currency text not null, combined_rate text, findings jsonb not null default '[]', expected_complete boolean not null,
  stated_signature text, expected_at_stated text, expected_signature text, booked_signature text, bookings integer not null, edited boolean not null, voided boolean not null,
  differs boolean generated always as (
    stated_signature is distinct from expected_at_stated or expected_signature is distinct from booked_signature
    or not expected_complete or bookings <> 1 or edited or voided) stored,
  proved boolean not null default false, headline text, facets text[] not null default '{}', odd text[] not null default '{}', missing_why text,
  split_stated boolean not null default true, unproved bigint not null default 0, unproved_net bigint not null default 0, cause text, assumptions jsonb not null default '[]',
  primary key (entity_id, unit_id), foreign key (entity_id, system_id) references system);
create index tie_unit_differs on tie_unit (entity_id, period) where differs;
create index tie_unit_period on tie_unit (entity_id, period, document_date, number);

create table tax_fact (
  entity_id text not null, unit_id text not null, voice text not null, place integer not null, line_id text, jurisdiction text, agency text, account text,
  currency text not null, period text not null, base bigint, tax bigint not null, origin jsonb,
  primary key (entity_id, unit_id, voice, place), foreign key (entity_id, unit_id) references tie_unit on delete cascade);
create index tax_fact_account on tax_fact (entity_id, period, voice, agency, account);

create table net_fact (
  entity_id text not null, unit_id text not null, voice text not null, place integer not null, currency text not null, period text not null, net bigint not null,
  primary key (entity_id, unit_id, voice, place), foreign key (entity_id, unit_id) references tie_unit on delete cascade);

create table unproved_share (
  entity_id text not null, unit_id text not null, place integer not null, agency text, account text, currency text not null, period text not null, tax bigint not null,
  primary key (entity_id, unit_id, place), foreign key (entity_id, unit_id) references tie_unit on delete cascade);

create table stake_share (
  entity_id text not null, finding_key text not null, unit_id text not null, period text not null, currency text not null, amount bigint not null,
  primary key (entity_id, finding_key, unit_id), foreign key (entity_id, unit_id) references tie_unit on delete cascade);

-- Each unit's three voices side by side, by agency and account. A source states no account: its amount stands where it is expected.
create view tie_member with (security_invoker = true) as
  select f.entity_id, u.period, f.unit_id, f.agency, f.account, f.currency,
    sum(f.tax) filter (where f.voice = 'stated') as stated, sum(f.tax) filter (where f.voice = 'expected') as expected, sum(f.tax) filter (where f.voice = 'booked') as booked
  from (
    select entity_id, unit_id, voice, agency, currency, tax, coalesce(account, case when voice = 'stated' then (
      select min(e.account) from tax_fact e where e.entity_id = t.entity_id and e.unit_id = t.unit_id and e.voice = 'expected' and e.agency = t.agency and e.tax <> 0) end) as account
    from tax_fact t where tax <> 0) f
  join tie_unit u using (entity_id, unit_id)
  group by f.entity_id, u.period, f.unit_id, f.agency, f.account, f.currency;
grant select on tie_member to axion_app;

create table unproved_history (
  entity_id text not null references legal_entity, period text not null, at timestamptz not null default clock_timestamp(), currency text not null, unproved bigint not null, expected bigint not null,
  primary key (entity_id, period, at));

create table audit_entry (
  entity_id text not null references legal_entity, audit_id bigint generated always as identity, at timestamptz not null default now(),
  person text not null, action text not null, object text not null, before jsonb, after jsonb,
  primary key (entity_id, audit_id));
`

const VALUE_COLUMNS: Readonly<Record<string, string>> = {
  agency: 'name text not null',
  jurisdiction: 'name text not null, level text not null, parent text, agency text, covers jsonb not null',
  rate_version:
    'jurisdiction text not null, percent numeric(9, 6) not null check (percent between 0 and 100)',
  combined_rate: 'name text not null, jurisdictions text[] not null',
  item_tax_code: 'name text not null',
  item: 'name text not null, item_tax_code text not null',
  code_rule: 'jurisdiction text not null, item_tax_code text not null, treatment text not null',
  registration: 'agency text not null, number text not null',
  rounding_place: 'jurisdiction text not null, level text not null, unit text not null, tie text not null',
  posting_rule: 'kind text not null, agency text, account text not null',
}

/** A baseline table has two times: valid from and to, and recorded when. Two versions never hold at once. */
function bitemporal(table: string, columns: string): string {
  return `create table ${table} (
    entity_id text not null references legal_entity, version_id bigint generated always as identity, object_id text not null, ${columns},
    valid daterange not null, recorded tstzrange not null default tstzrange(now(), null),
    primary key (entity_id, version_id),
    exclude using gist (entity_id with =, object_id with =, valid with &&, recorded with &&));`
}

const PEOPLE = `
create table person (person_id uuid primary key default gen_random_uuid(), email text not null unique, name text not null, password_hash text not null, may_create_entities boolean not null default false);
create table session (token_hash text primary key, person_id uuid not null references person, expires_at timestamptz not null);
create table worker_heartbeat (worker_id text primary key, at timestamptz not null default now());
create table legal_entity (
  entity_id text primary key check (entity_id ~ '^[a-z0-9][a-z0-9-]{0,59}$'), name text not null, country text not null, base_currency text not null,
  time_zone text not null, locale text not null, created_at timestamptz not null default now());
create table membership (
  entity_id text not null references legal_entity, person_id uuid not null references person, role text not null check (role in ('viewer', 'preparer', 'reviewer', 'administrator')),
  primary key (entity_id, person_id));
create sequence lease_token;
create function found_entity(p_entity_id text, p_name text, p_country text, p_currency text, p_time_zone text, p_locale text, p_person uuid) returns void
  language plpgsql security definer set search_path = public as $$
  begin
    if not exists (select from person where person_id = p_person and may_create_entities) then raise exception 'not allowed' using errcode = '42501'; end if;
    insert into legal_entity (entity_id, name, country, base_currency, time_zone, locale) values (p_entity_id, p_name, p_country, p_currency, p_time_zone, p_locale);
    insert into membership values (p_entity_id, p_person, 'administrator');
  end $$;
`

const SECURITY = `
create function unfinished_runs() returns table (entity_id text, run_id uuid) language sql security definer stable set search_path = public
  as $$ select run.entity_id, run.run_id from run where state in ('queued', 'running') $$;
do $$
declare t record;
begin
  for t in select c.table_name from information_schema.columns c join information_schema.tables using (table_schema, table_name)
    where c.table_schema = 'public' and c.column_name = 'entity_id' and table_type = 'BASE TABLE' loop
    execute format('alter table %I enable row level security', t.table_name);
    execute format('alter table %I force row level security', t.table_name);
    execute format($p$create policy one_entity on %I to axion_app using (entity_id = current_setting('axion.entity', true)) with check (entity_id = current_setting('axion.entity', true))$p$, t.table_name);
    execute format('create policy owner on %I to axion_owner using (true) with check (true)', t.table_name);
    execute format('grant select, insert, update, delete on %I to axion_app', t.table_name);
  end loop;
end $$;
create policy own_memberships on membership for select to axion_app using (person_id::text = current_setting('axion.person', true));
create policy own_entities on legal_entity for select to axion_app
  using (exists (select from membership m where m.entity_id = legal_entity.entity_id and m.person_id::text = current_setting('axion.person', true)));
revoke update, delete on audit_entry from axion_app;
revoke insert, delete on legal_entity from axion_app;
grant select on person to axion_app;
grant select, insert, delete on session to axion_app;
grant select, insert, update on worker_heartbeat to axion_app;
grant usage on all sequences in schema public to axion_app;
revoke all on function found_entity, unfinished_runs from public;
grant execute on function found_entity, unfinished_runs to axion_app;
`

export async function up(knex: Knex): Promise<void> {
  await knex.raw('create extension if not exists btree_gist')
  await knex.raw(PEOPLE)
  for (const [table, columns] of Object.entries(VALUE_COLUMNS)) await knex.raw(bitemporal(table, columns))
  await knex.raw(ENTITY_TABLES)
  await knex.raw(SECURITY)
}

export async function down(): Promise<void> {
  throw new Error('The first schema is not taken back; restore a backup instead.')
}
