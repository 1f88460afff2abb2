import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** Differences of what was charged that somebody keeps, entries made by hand that somebody names, or a credit gives back: out of what is not proved, and in sight. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table kept_difference (
  entity_id text not null, system_id text not null, what text not null check (what in ('document', 'entry')), object_id text not null, period text not null, number text not null, figures text not null,
  over bigint not null, under bigint not null, reason text not null check (reason <> ''), kept_by text not null, kept_at timestamptz not null default now(), reviewed_by text, reviewed_at timestamptz,
  primary key (entity_id, system_id, what, object_id), foreign key (entity_id, system_id) references system);
${guarded('kept_difference')}
create index kept_difference_period on kept_difference (entity_id, period);
-- What a settled unit has too much and too little, and what of it would not be proved: it comes back the moment that it is not settled any more.
alter table tie_unit add column settled text check (settled in ('kept', 'cured')), add column settled_with text, add column over bigint not null default 0, add column under bigint not null default 0,
  add column astray bigint not null default 0, add column astray_net bigint not null default 0;
alter table unproved_share add column settled boolean not null default false;
create view open_share with (security_invoker = true) as select entity_id, unit_id, place, agency, account, currency, period, tax from unproved_share where not settled;
grant select on open_share to axion_app;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop view open_share;
delete from unproved_share where settled;
alter table unproved_share drop column settled;
alter table tie_unit drop column settled, drop column settled_with, drop column over, drop column under, drop column astray, drop column astray_net;
drop table kept_difference;
update pull set proved_at = null;
`)
}
