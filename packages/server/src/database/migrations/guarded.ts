/** Row-level security as every table of an entity's data has it: the application's role sees one entity at a time, and owns nothing. */
export function guarded(table: string): string {
  return `alter table ${table} enable row level security;
    alter table ${table} force row level security;
    create policy one_entity on ${table} to axion_app using (entity_id = current_setting('axion.entity', true)) with check (entity_id = current_setting('axion.entity', true));
    create policy owner on ${table} to axion_owner using (true) with check (true);
    grant select, insert, update, delete on ${table} to axion_app;`
}

/** The tables of the baseline, as they have been since 033. */
export const BASELINE_TABLES = [
  'agency',
  'agreed_default',
  'certificate',
  'code_rule',
  'combined_rate',
  'dimension_value',
  'home_address',
  'item',
  'item_tax_code',
  'jurisdiction',
  'line_rule',
  'location',
  'party',
  'payment_method',
  'posting_rule',
  'rate_version',
  'region_rule',
  'registration',
  'registration_threshold',
  'rounding_place',
] as const

/** A baseline table has two times: valid from and to, and recorded when. Two versions never hold at once. */
export function bitemporal(table: string, columns: string): string {
  return `create table ${table} (
    entity_id text not null references legal_entity, version_id bigint generated always as identity, object_id text not null, ${columns},
    valid daterange not null, recorded tstzrange not null default tstzrange(now(), null),
    primary key (entity_id, version_id),
    exclude using gist (entity_id with =, object_id with =, valid with &&, recorded with &&));
    ${guarded(table)}`
}
