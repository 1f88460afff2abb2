import type { Knex } from 'knex'

/** What is due, of the entities that a condition leaves. */
const due = (where: string): string => `
create or replace view run_unfinished as select entity_id, run_id, due_at, leased_by,
    (due_at <= now() or due_at > now() + interval '5 minutes') and (leased_until is null or leased_until <= now() or leased_until > now() + interval '5 minutes') as waits
  from run where state in ('queued', 'running') ${where && `and ${where.replaceAll('of.', 'run.')}`};
create or replace view pull_due as select c.entity_id, c.system_id, c.next_pull_at from system_scope c join system s using (entity_id, system_id)
  where pull_is_due(c.next_pull_at, c.scope) and s.disconnected_at is null ${where && `and ${where.replaceAll('of.', 'c.')}`};`

/** Tells a transaction who acts in it, and where. @param held how the lease of a run is held: looked at alone, where nothing is said */
export const entering = (held: string): string => `
create or replace function enter(p_entity text, p_from text, p_session text, p_link text, p_run text, p_lease text) returns text language plpgsql as $$
declare books legal_entity;
begin
  perform set_config('axion.entity', p_entity, true), set_config('axion.from', p_from, true), set_config('axion.session', p_session, true),
    set_config('axion.link', p_link, true), set_config('axion.run', p_run, true);
  if p_entity = '' then return null; end if;
  select * into books from legal_entity where entity_id = p_entity;
  if books.moving_since is not null then
    raise exception 'the books of % are being moved', p_entity using errcode = 'AXL02';
  end if;
  if books.entity_id is null or books.lives_in is not null then return null; end if;
  if p_lease <> '' then
    perform from run where entity_id = p_entity and run_id = p_run::uuid and lease = p_lease::bigint ${held};
    if not found then raise exception 'another worker is at the run' using errcode = 'AXL01'; end if;
  end if;
  return books.base_currency;
end $$;`

/**
 * An entity lives whole in one database. The first, the directory, knows people, their sessions and memberships, and where each entity lives;
 * of one that lives elsewhere it keeps the row alone that says so. While an entity's books are moved, nobody enters them.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table legal_entity add column lives_in text, add column moving_since timestamptz;
create view entity_home as select entity_id, lives_in from legal_entity;
grant select on entity_home to axion_app;
${due('exists (select from legal_entity e where e.entity_id = of.entity_id and e.lives_in is null and e.moving_since is null)')}

${entering('')}

create function introduce(p_token_hash text, p_person uuid, p_email text, p_name text, p_seconds int) returns void language plpgsql security definer set search_path = public as $$
begin
  delete from session where token_hash in (select token_hash from session where expires_at < now() for update skip locked);
  insert into person (person_id, email, name, password_hash) values (p_person, p_email, p_name, '')
    on conflict (person_id) do update set email = excluded.email, name = excluded.name;
  insert into session (token_hash, person_id, expires_at) values (p_token_hash, p_person, now() + make_interval(secs => p_seconds))
    on conflict (token_hash) do update set expires_at = excluded.expires_at;
end $$;
revoke all on function introduce from public;
grant execute on function introduce to axion_keys;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop function introduce, enter;
drop view entity_home;
${due('')}
alter table legal_entity drop column lives_in, drop column moving_since;
`)
}
