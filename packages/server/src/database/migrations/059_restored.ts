import type { Knex } from 'knex'

/**
 * Whether a database was brought back from a copy. Each knows where it was last seen: in which cluster, as which database, in which table; a dump that is
 * read in, be it in its own place, stands in another. Since when an entity does not know what was sent is its own, and goes with it where it is moved.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table origin (one boolean primary key default true check (one), seen text not null);
grant select on origin to axion_app;
alter table legal_entity add column restored_at timestamptz;

create function here() returns text language plpgsql stable set search_path = public as $$
declare cluster text;
begin
  begin
    select system_identifier into cluster from pg_control_system();
  exception when insufficient_privilege then
    -- Where a provider keeps it to itself, the other two have to do.
    cluster := 'unknown';
  end;
  return concat_ws(' ', cluster, (select oid from pg_database where datname = current_database()), 'booking'::regclass::oid::text);
end $$;

create function note_origin(p_restored boolean) returns boolean language plpgsql security definer set search_path = public as $$
declare known text;
begin
  select seen into known from origin;
  if known = here() and not p_restored then return false; end if;
  insert into origin (seen) values (here()) on conflict (one) do update set seen = excluded.seen;
  -- The first time there is nothing that it could have been brought back from.
  if known is null and not p_restored then return false; end if;
  update legal_entity set restored_at = clock_timestamp();
  return true;
end $$;
revoke all on function note_origin from public;
grant execute on function note_origin to axion_app;`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(
    'drop function note_origin, here; alter table legal_entity drop column restored_at; drop table origin',
  )
}
