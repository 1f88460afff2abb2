/** Row-level security as every table of an entity's data has it: the application's role sees one entity at a time, and owns nothing. */
export function guarded(table: string): string {
  return `alter table ${table} enable row level security;
    alter table ${table} force row level security;
    create policy one_entity on ${table} to axion_app using (entity_id = current_setting('axion.entity', true)) with check (entity_id = current_setting('axion.entity', true));
    create policy owner on ${table} to axion_owner using (true) with check (true);
    grant select, insert, update, delete on ${table} to axion_app;`
}
