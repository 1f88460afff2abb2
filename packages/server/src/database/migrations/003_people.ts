import type { Knex } from 'knex'

/** Where somebody was when they did something, and people added by those who run the practice. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
-- Set for the transaction by the request that began it; empty for what a worker does.
alter table audit_entry add column from_address text default nullif(current_setting('axion.from', true), '');
create index audit_entry_at on audit_entry (entity_id, at desc, audit_id desc);

create function add_person(p_email text, p_name text, p_password_hash text, p_by uuid) returns boolean
  language plpgsql security definer set search_path = public as $$
  begin
    if not exists (select from person where person_id = p_by and may_create_entities) then raise exception 'not allowed' using errcode = '42501'; end if;
    insert into person (email, name, password_hash) values (p_email, p_name, p_password_hash) on conflict (email) do nothing;
    return found;
  end $$;
create function change_password(p_person uuid, p_password_hash text) returns void language sql security definer set search_path = public
  as $$ update person set password_hash = p_password_hash where person_id = p_person $$;
revoke all on function add_person, change_password from public;
grant execute on function add_person, change_password to axion_app;
`)
}

export async function down(): Promise<void> {
  throw new Error('The audit trail is never taken back; restore a backup instead.')
}
