import type { Knex } from 'knex'
import { bitemporal, guarded } from './guarded.ts'

/** Rules over lines (C4), and the lines that are no item of the catalogue (C3) or that a rule decided, as the last proof found them. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
${bitemporal(
  'line_rule',
  `name text not null, place int not null, item text, text text, region text, party text, method text, channel text, item_tax_code text, account text, dimension text,
    check (num_nonnulls(item, text, region, party, method, channel) > 0), check (num_nonnulls(item_tax_code, account, dimension) > 0)`,
)}
create table special_line (
  entity_id text not null, tie_unit text, record_unit text, unit_id text not null generated always as (coalesce(tie_unit, record_unit)) stored, place int not null, period text not null, system_id text not null,
  what text not null, wording text not null, region text not null, amount bigint not null, taxed text not null, item_tax_code text, account text, open boolean not null, rules text[] not null,
  primary key (entity_id, unit_id, place), check (num_nonnulls(tie_unit, record_unit) = 1),
  foreign key (entity_id, tie_unit) references tie_unit (entity_id, unit_id) on delete cascade, foreign key (entity_id, record_unit) references record_unit (entity_id, unit_id) on delete cascade);
create index special_line_tie on special_line (entity_id, tie_unit);
create index special_line_record on special_line (entity_id, record_unit);
create index special_line_period on special_line (entity_id, period, system_id);
${guarded('special_line')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table special_line, line_rule')
}
