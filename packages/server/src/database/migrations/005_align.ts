import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** The agreement grids of each month, kept as rows, and what their findings are. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table align_clock (entity_id text primary key references legal_entity, set_up bigint not null default 0, facts bigint not null default 0);
create table align_built (entity_id text not null references legal_entity, period text not null, set_up bigint not null, facts bigint not null, primary key (entity_id, period));
create table align_row (
  entity_id text not null references legal_entity, period text not null, kind text not null, row_id text not null, place integer not null, extra jsonb, name text not null, grp text not null, detail text not null, total text not null,
  cells jsonb not null, search text not null, findings integer not null, worst integer not null, keys text[] not null, clear integer not null, stake bigint not null, documents integer not null,
  primary key (entity_id, period, kind, row_id));
create index align_row_place on align_row (entity_id, period, kind, place);
create table align_finding (
  entity_id text not null references legal_entity, period text not null, kind text not null, row_id text not null, place integer not null, code text not null, severity text not null, system_id text, finding_key text, facts jsonb not null, left_because jsonb,
  primary key (entity_id, period, kind, row_id, place));
create table align_left (
  entity_id text not null references legal_entity, kind text not null, row_id text not null, code text not null, system_id text not null, reason text not null, person text not null, at timestamptz not null default now(),
  primary key (entity_id, kind, row_id, code, system_id));
create index align_finding_code on align_finding (entity_id, period, kind, code);
create function learn_align() returns void language plpgsql security definer set search_path = public as $$ begin analyze align_row, align_finding; end $$;
revoke all on function learn_align from public;
grant execute on function learn_align to axion_app;
${['align_clock', 'align_built', 'align_row', 'align_finding', 'align_left'].map(guarded).join('\n')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(
    'drop function learn_align; drop table align_left, align_finding, align_row, align_built, align_clock',
  )
}
