import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** Whole objects as JSON: nobody compares them by what the planner could know, and to sample them took longer than to write them. */
const VALUES = [
  ['document', 'value'],
  ['ledger_entry', 'value'],
  ['held_object', 'value'],
  ['held_record', 'value'],
  ['staged_object', 'value'],
  ['held_change', 'before'],
  ['held_change', 'after'],
  ['booking', 'journal'],
  ['booking', 'request'],
] as const

/**
 * What pages brought is staged object by object, read already, of each its last state: it is compared with what was held, and taken over, by the
 * database alone. What was staged before as it came is read again.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
delete from pull_page;
alter table pull_page drop column items;
create table staged_object (
  entity_id text not null, system_id text not null, resource text not null, object_id text not null, sequence bigint not null, revision text not null, removed boolean not null,
  value jsonb, problem text, readable jsonb, day date,
  primary key (entity_id, system_id, resource, object_id), foreign key (entity_id, system_id) references system);
alter table staged_object alter column value set storage external;
${guarded('staged_object')}
${VALUES.map(([table, column]) => `alter table ${table} alter column ${column} set statistics 0;`).join('\n')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop table staged_object;
${VALUES.filter(([table]) => table !== 'staged_object')
  .map(([table, column]) => `alter table ${table} alter column ${column} set statistics -1;`)
  .join('\n')}
delete from pull_page;
alter table pull_page add column items text not null;
`)
}
