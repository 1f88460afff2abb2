import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** What determination reads beside the baseline, with what of it counts: where that changes, the row as it was is kept in `past`. */
const RECORDED: Readonly<Record<string, readonly string[]>> = {
  document: ['value', 'status', 'not_taken', 'posted'],
  held_object: ['value', 'removed'],
  link: ['baseline_id'],
  system_scope: ['scope'],
}

/**
 * Links, what systems hold, scopes and documents have a recorded time, as the baseline has: `since` for what stands, `past` for what stood.
 * The instant is the entity's own, past all that it recorded before, a new one for each statement. Triggers write it, so that nobody can forget.
 * A unit keeps when it was determined, and by which version of core.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table past (
  entity_id text not null references legal_entity, past_id bigint generated always as identity, kept_of text not null, recorded tstzrange not null, was jsonb not null,
  primary key (entity_id, past_id));
create index past_until on past (entity_id, kept_of, upper(recorded));
${guarded('past')}
revoke insert, update, delete on past from axion_app;

create function recorded_at() returns timestamptz language sql volatile as
  $$ select coalesce(nullif(current_setting('axion.recorded', true), '')::timestamptz, clock_timestamp()) $$;

create function record_instant() returns trigger language plpgsql as $$
declare instant timestamptz;
begin
  update legal_entity set recorded_last = greatest(clock_timestamp(), recorded_last + interval '1 microsecond')
    where entity_id = current_setting('axion.entity', true) returning recorded_last into instant;
  perform set_config('axion.recorded', coalesce(instant::text, ''), true);
  return null;
end $$;

create function keep_past() returns trigger language plpgsql security definer set search_path = public as $$
begin
  if recorded_at() > old.since then
    insert into past (entity_id, kept_of, recorded, was) values (old.entity_id, tg_table_name, tstzrange(old.since, recorded_at()), to_jsonb(old));
  end if;
  if tg_op = 'DELETE' then return old; end if;
  new.since := recorded_at();
  return new;
end $$;
${Object.entries(RECORDED)
  .map(
    ([table, columns]) => `
alter table ${table} add column since timestamptz not null default '-infinity';
alter table ${table} alter column since set default recorded_at();
create trigger record_instant before insert or delete or update of ${columns.join(', ')} on ${table} for each statement execute function record_instant();
create trigger keep_changed before update on ${table} for each row when ((${columns.map((c) => `old.${c}`).join(', ')}) is distinct from (${columns.map((c) => `new.${c}`).join(', ')})) execute function keep_past();
create trigger keep_gone before delete on ${table} for each row execute function keep_past();`,
  )
  .join('')}

alter table unit add column determined_at timestamptz not null default clock_timestamp(), add column core_version int not null default 1;
alter table unit alter column determined_at drop default, alter column core_version drop default;
create index unit_core on unit (entity_id, core_version);

-- What a unit's facts say, as one text that is the same wherever the facts are: one line a fact, in an order of its own, under the version of this form.
create view facts_text with (security_invoker = true) as
  select u.entity_id, u.period, u.unit_id, u.system_id, u.document_id, 'facts 1' || coalesce(E'\\n' || f.lines, '') as text
  from unit u left join lateral (
    select string_agg(line, E'\\n' order by line collate "C") as lines from (
      select jsonb_build_array('tax', voice, line_id, jurisdiction, agency, account, currency, period, base::text, tax::text, in_base::text, origin)::text as line from tax_fact t where t.entity_id = u.entity_id and t.unit_id = u.unit_id
      union all select jsonb_build_array('net', voice, account, rounding, currency, period, net::text, in_base::text)::text from net_fact n where n.entity_id = u.entity_id and n.unit_id = u.unit_id) l) f on true;
grant select on facts_text to axion_app;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop view facts_text;
alter table unit drop column determined_at, drop column core_version;
${Object.keys(RECORDED)
  .map(
    (table) => `
drop trigger keep_gone on ${table};
drop trigger keep_changed on ${table};
drop trigger record_instant on ${table};
alter table ${table} drop column since;`,
  )
  .join('')}
drop function keep_past, record_instant, recorded_at;
drop table past;
`)
}
