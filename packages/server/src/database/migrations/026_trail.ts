import type { Knex } from 'knex'

/**
 * The trail as a chain: each line carries a digest of the one before, an entity's lines one chain and the practice's another. Functions
 * alone write it, under the name that a session's token, a run's row or an invitation's link stands for. A role of its own reads
 * password hashes and opens sessions.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(CHAIN)
  await knex.raw(PEOPLE)
  await knex.raw(KEYS)
}

/** The chain, what stands there already as its beginning, and the functions that alone write it. */
const CHAIN = `
alter table person add column must_change boolean not null default false;
alter table session add column session_id uuid not null default gen_random_uuid() unique, add column began_at timestamptz not null default now(), add column from_address text, add column agent text;

create table chain_head (chain text primary key, place bigint not null, digest bytea not null);
create table practice_entry (place bigint primary key, at timestamptz not null, person text not null, from_address text, action text not null, object text not null, before jsonb, after jsonb, digest bytea not null);
alter table audit_entry add column place bigint, add column digest bytea, alter column from_address drop default;

create function trail_digest(p_last bytea, p_place bigint, p_at timestamptz, p_person text, p_from text, p_action text, p_object text, p_before jsonb, p_after jsonb) returns bytea language sql stable
  as $$ select sha256(p_last || convert_to(jsonb_build_array(p_place, to_char(p_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US'), p_person, p_from, p_action, p_object, p_before, p_after)::text, 'UTF8')) $$;

-- What stands there already becomes the beginning of each chain.
do $$ declare line record; last chain_head; begin
  for line in select * from audit_entry order by entity_id, audit_id loop
    if last.chain is distinct from line.entity_id then last := (line.entity_id, 0, ''::bytea)::chain_head; end if;
    last.place := last.place + 1;
    last.digest := trail_digest(last.digest, last.place, line.at, line.person, line.from_address, line.action, line.object, line.before, line.after);
    update audit_entry set place = last.place, digest = last.digest where entity_id = line.entity_id and audit_id = line.audit_id;
    insert into chain_head values (last.chain, last.place, last.digest) on conflict (chain) do update set place = excluded.place, digest = excluded.digest;
  end loop;
end $$;
alter table audit_entry alter column place set not null, alter column digest set not null, add unique (entity_id, place);
create index practice_entry_action on practice_entry (action, at);

-- Appends lines to a chain, under its lock. The practice's chain has no entity.
create function trail_write(p_entity text, p_person text, p_lines jsonb) returns void language plpgsql security definer set search_path = public as $$
declare last chain_head; line jsonb; now_ timestamptz; from_ text := nullif(current_setting('axion.from', true), ''); old jsonb; new jsonb;
begin
  insert into chain_head values (coalesce(p_entity, ''), 0, ''::bytea) on conflict do nothing;
  select * into last from chain_head where chain = coalesce(p_entity, '') for update;
  now_ := clock_timestamp();
  for line in select value from jsonb_array_elements(p_lines) with ordinality order by ordinality loop
    old := nullif(line->'before', 'null'); new := nullif(line->'after', 'null');
    last.place := last.place + 1;
    last.digest := trail_digest(last.digest, last.place, now_, p_person, from_, line->>'action', line->>'object', old, new);
    if p_entity is null then
      insert into practice_entry values (last.place, now_, p_person, from_, line->>'action', line->>'object', old, new, last.digest);
    else
      insert into audit_entry (entity_id, place, at, person, from_address, action, object, before, after, digest) values (p_entity, last.place, now_, p_person, from_, line->>'action', line->>'object', old, new, last.digest);
    end if;
  end loop;
  update chain_head set place = last.place, digest = last.digest where chain = last.chain;
end $$;

create function acting_person() returns person language sql stable security definer set search_path = public as $$
  select p from session s join person p using (person_id) where s.token_hash = encode(sha256(convert_to(nullif(current_setting('axion.session', true), ''), 'UTF8')), 'hex') and s.expires_at > now() $$;

-- Lines of the entity of the transaction, under the name that is behind it.
create function note_trail(p_lines jsonb) returns void language plpgsql security definer set search_path = public as $$
declare entity text := current_setting('axion.entity', true); who text;
begin
  select coalesce((acting_person()).name,
    (select started_by from run where entity_id = entity and run_id = nullif(current_setting('axion.run', true), '')::uuid),
    (select 'invited by ' || created_by from invitation where entity_id = entity and digest = encode(sha256(convert_to(nullif(current_setting('axion.link', true), ''), 'UTF8')), 'hex'))) into who;
  if who is null then raise exception 'nobody is known to act' using errcode = '42501'; end if;
  perform trail_write(entity, who, p_lines);
end $$;

create function practice_line(p_action text, p_object text, p_after jsonb) returns void language plpgsql security definer set search_path = public as $$
begin
  perform trail_write(null, coalesce((acting_person()).name, ''), jsonb_build_array(jsonb_build_object('action', p_action, 'object', p_object, 'after', p_after)));
end $$;

create function must_run_the_practice() returns void language plpgsql security definer set search_path = public as $$
begin
  if not coalesce((acting_person()).may_create_entities, false) then raise exception 'not allowed' using errcode = '42501'; end if;
end $$;

`

/** Acts of the practice, each with its line. */
const PEOPLE = `
drop function found_entity; drop function add_person; drop function change_password;
create function found_entity(p_entity_id text, p_name text, p_country text, p_currency text, p_time_zone text, p_locale text) returns void
  language plpgsql security definer set search_path = public as $$
  begin
    perform must_run_the_practice();
    insert into legal_entity (entity_id, name, country, base_currency, time_zone, locale) values (p_entity_id, p_name, p_country, p_currency, p_time_zone, p_locale);
    insert into membership values (p_entity_id, (acting_person()).person_id, 'administrator');
    perform practice_line('founded', p_entity_id, jsonb_build_object('name', p_name));
    perform trail_write(p_entity_id, (acting_person()).name, jsonb_build_array(jsonb_build_object('action', 'founded', 'object', p_name, 'after', jsonb_build_object('country', p_country, 'currency', p_currency, 'timeZone', p_time_zone, 'locale', p_locale))));
  end $$;
-- A first password is changed at the first sign-in.
create function add_person(p_email text, p_name text, p_password_hash text) returns boolean
  language plpgsql security definer set search_path = public as $$
  begin
    perform must_run_the_practice();
    insert into person (email, name, password_hash, must_change) values (p_email, p_name, p_password_hash, true) on conflict (email) do nothing;
    if not found then return false; end if;
    perform practice_line('added-person', p_email, jsonb_build_object('name', p_name));
    return true;
  end $$;
create function set_password(p_email text, p_password_hash text) returns boolean language plpgsql security definer set search_path = public as $$
  begin
    perform must_run_the_practice();
    update person set password_hash = p_password_hash, must_change = true where email = p_email;
    if not found then return false; end if;
    delete from session s using person p where p.email = p_email and s.person_id = p.person_id;
    perform practice_line('set-password', p_email, null);
    return true;
  end $$;

`

/** Passwords and sessions, and who may call what. */
const KEYS = `
-- For the keys' role alone: what a password is compared with, who is let in, and what becomes of a password that somebody changes.
create function keys_of(p_email text) returns table (person_id uuid, password_hash text) language sql stable security definer set search_path = public
  as $$ select person_id, password_hash from person where email = p_email $$;
create function let_in(p_person uuid, p_token_hash text, p_seconds int, p_agent text) returns void language plpgsql security definer set search_path = public as $$
  declare who person;
  begin
    select * into strict who from person where person_id = p_person;
    delete from session where token_hash in (select token_hash from session where expires_at < now() for update skip locked);
    insert into session (token_hash, person_id, expires_at, from_address, agent) values (p_token_hash, p_person, now() + make_interval(secs => p_seconds), nullif(current_setting('axion.from', true), ''), p_agent);
    perform trail_write(null, who.name, jsonb_build_array(jsonb_build_object('action', 'signed-in', 'object', who.email)));
  end $$;
-- A name that is known is told; of those that are not, one line a minute, without what was typed.
create function turned_away(p_email text) returns void language plpgsql security definer set search_path = public as $$
  declare who person;
  begin
    select * into who from person where email = p_email;
    if found then
      perform trail_write(null, who.name, jsonb_build_array(jsonb_build_object('action', 'failed-to-sign-in', 'object', who.email)));
    elsif not exists (select from practice_entry where action = 'unknown-name' and at > now() - interval '1 minute') then
      perform trail_write(null, '', jsonb_build_array(jsonb_build_object('action', 'unknown-name', 'object', '')));
    end if;
  end $$;
create function change_password(p_person uuid, p_password_hash text) returns void language plpgsql security definer set search_path = public as $$
  begin
    if (acting_person()).person_id is distinct from p_person then raise exception 'not allowed' using errcode = '42501'; end if;
    update person set password_hash = p_password_hash, must_change = false where person_id = p_person;
    delete from session where person_id = p_person and token_hash <> encode(sha256(convert_to(current_setting('axion.session', true), 'UTF8')), 'hex');
    perform practice_line('changed-password', (acting_person()).email, null);
  end $$;
create function end_session(p_session uuid) returns boolean language plpgsql security definer set search_path = public as $$
  declare who person := acting_person(); own boolean;
  begin
    -- Told first: the session that acts may be the one that ends.
    select token_hash = encode(sha256(convert_to(current_setting('axion.session', true), 'UTF8')), 'hex') into own from session where session_id = p_session and person_id = who.person_id;
    if not found then return false; end if;
    perform practice_line(case when own then 'signed-out' else 'ended-session' end, who.email, null);
    delete from session where session_id = p_session;
    return true;
  end $$;

-- Where each chain ends, for whoever may see none of its lines.
create function trail_heads() returns table (chain text, place bigint, digest text) language sql stable security definer set search_path = public
  as $$ select chain, place, encode(digest, 'hex') from chain_head order by chain $$;

revoke all on function trail_digest, trail_write, acting_person, note_trail, practice_line, must_run_the_practice, found_entity, add_person, set_password, keys_of, let_in, turned_away, change_password, end_session, trail_heads from public;
grant execute on function note_trail, found_entity, add_person, set_password, end_session, trail_heads to axion_app;
grant execute on function keys_of, let_in, turned_away, change_password to axion_keys;
revoke insert on audit_entry from axion_app;
revoke insert, delete, update on session from axion_app;
revoke all on person from axion_app;
grant select (person_id, email, name, may_create_entities, must_change) on person to axion_app;
grant select on practice_entry to axion_app;
`

export async function down(): Promise<void> {
  throw new Error('The audit trail is never taken back; restore a backup instead.')
}
