import type { Knex } from 'knex'

/**
 * Rules over lines look at whose document it is, at the source's own flag of a line and at the kind of a sale, and say what a line counts as
 * that is no item. A unit says whether its source's flags decided what it is taxed as: agreed that they do, and checked by nobody.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table line_rule
  add column system text, add column stated text check (stated in ('taxable', 'not-taxable')), add column sale_kind text check (sale_kind in ('own-use', 'warranty', 'internal')),
  add column as_item text, drop constraint line_rule_check, drop constraint line_rule_check1,
  add constraint line_rule_when check (num_nonnulls(item, text, region, party, method, channel, system, stated, sale_kind) > 0),
  add constraint line_rule_then check (num_nonnulls(as_item, item_tax_code, account, dimension) > 0);
alter table unit add column by_source boolean not null default false;
create index unit_by_source on unit (entity_id, period) where by_source;`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
alter table unit drop column by_source;
delete from line_rule where num_nonnulls(item, text, region, party, method, channel) = 0 or num_nonnulls(item_tax_code, account, dimension) = 0;
alter table line_rule drop constraint line_rule_when, drop constraint line_rule_then, drop column system, drop column stated, drop column sale_kind, drop column as_item,
  add constraint line_rule_check check (num_nonnulls(item, text, region, party, method, channel) > 0), add constraint line_rule_check1 check (num_nonnulls(item_tax_code, account, dimension) > 0);`)
}
