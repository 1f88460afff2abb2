import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/**
 * The opening day: from it on documents are for the books; what is dated before is read for reference. What each account stood at is taken over
 * with the list that makes it up, and a word on those that need none.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table opening (
  entity_id text primary key references legal_entity, day date not null check (extract(day from day) = 1), set_by text not null, set_at timestamptz not null default now());
create table opening_list (
  entity_id text not null references opening, account text not null, balance bigint, aside text, kept_by text not null, kept_at timestamptz not null default now(),
  primary key (entity_id, account));
create table opening_item (
  entity_id text not null, account text not null, item_no int not null, reference text not null, party text not null, day date, amount bigint not null,
  primary key (entity_id, account, item_no), foreign key (entity_id, account) references opening_list on delete cascade);
${guarded('opening')}
${guarded('opening_list')}
${guarded('opening_item')}

-- A scope that takes nothing from before a day; as it is where there is none. And from before the entity's opening day.
create function from_day(scope jsonb, day date) returns jsonb language sql immutable as $$
  select case when day is null then scope
    else jsonb_set(coalesce(scope, '{"comesIn": true, "off": {}}'), '{from}', to_jsonb(greatest((scope->>'from')::date, day)::text)) end $$;
create function from_opening(scope jsonb, of_entity text) returns jsonb language sql stable as $$
  select from_day(scope, (select day from opening where entity_id = of_entity)) $$;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(
    'drop function from_opening; drop function from_day; drop table opening_item; drop table opening_list; drop table opening',
  )
}
