import type { Knex } from 'knex'

/** What is due to be pulled by itself, of the entities that a condition leaves. */
const due = (where: string): string => `
create or replace view pull_due as select c.entity_id, c.system_id, c.next_pull_at from system_scope c join system s using (entity_id, system_id)
  where pull_is_due(c.next_pull_at, c.scope) and s.disconnected_at is null
    and exists (select from legal_entity e where e.entity_id = c.entity_id and e.lives_in is null and e.moving_since is null ${where});`

/** Founding an entity, by whoever runs the practice. */
const founding = (parameters: string, { withYear }: { readonly withYear: boolean }): string => `
create function found_entity(${parameters}) returns void
  language plpgsql security definer set search_path = public as $$
  begin
    perform must_run_the_practice();
    insert into legal_entity (entity_id, name, country, base_currency, time_zone, locale${withYear ? ', year_begins' : ''})
      values (p_entity_id, p_name, p_country, p_currency, p_time_zone, p_locale${withYear ? ', p_year_begins' : ''});
    insert into membership values (p_entity_id, (acting_person()).person_id, 'administrator');
    perform practice_line('founded', p_entity_id, jsonb_build_object('name', p_name));
    perform trail_write(p_entity_id, (acting_person()).name, jsonb_build_array(jsonb_build_object('action', 'founded', 'object', p_name, 'after',
      jsonb_build_object('country', p_country, 'currency', p_currency, 'timeZone', p_time_zone, 'locale', p_locale${withYear ? `, 'yearBegins', p_year_begins` : ''}))));
  end $$;
revoke all on function found_entity from public;
grant execute on function found_entity to axion_app;`

/**
 * An installation of one's own: the link with which the first administrator begins, once, while nobody runs the practice; when an entity's
 * financial year begins, where somebody said so; and from which day on an entity is closed: it is read, and written no more.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table legal_entity add column year_begins smallint check (year_begins between 1 and 12), add column closed_on date;
${due('and e.closed_on is null')}
create table first_link (digest text primary key, made_at timestamptz not null default now());

drop function found_entity;
${founding('p_entity_id text, p_name text, p_country text, p_currency text, p_time_zone text, p_locale text, p_year_begins int', { withYear: true })}

-- For the keys' role alone: whether a first link still waits, and who begins by it.
create function first_link_waits(p_digest text) returns boolean language sql stable security definer set search_path = public
  as $$ select exists (select from first_link where digest = p_digest) and not exists (select from person where may_create_entities) $$;
create function begin_practice(p_digest text, p_email text, p_name text, p_password_hash text) returns uuid language plpgsql security definer set search_path = public as $$
  declare who uuid;
  begin
    -- Of two who follow the link at once, the later one waits here and finds it used.
    delete from first_link where digest = p_digest;
    if not found or exists (select from person where may_create_entities) then return null; end if;
    insert into person (email, name, password_hash, may_create_entities) values (p_email, p_name, p_password_hash, true) returning person_id into who;
    perform trail_write(null, p_name, jsonb_build_array(jsonb_build_object('action', 'began-practice', 'object', p_email, 'after', jsonb_build_object('name', p_name))));
    return who;
  end $$;
revoke all on function first_link_waits, begin_practice from public;
grant execute on function first_link_waits, begin_practice to axion_keys;
`)
}

/** Entities that were closed are open again, and the practice's trail keeps who began. */
export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
${due('')}
drop function begin_practice, first_link_waits, found_entity;
${founding('p_entity_id text, p_name text, p_country text, p_currency text, p_time_zone text, p_locale text', { withYear: false })}
drop table first_link;
alter table legal_entity drop column year_begins, drop column closed_on;
`)
}
