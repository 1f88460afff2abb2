import type { Knex } from 'knex'
import { BASELINE_TABLES, guarded } from './guarded.ts'

/** What is read whole and seldom changes: every table of the baseline; what systems hold, and how it is linked. */
const PARTS: Readonly<Record<'agreed' | 'held', readonly string[]>> = {
  agreed: BASELINE_TABLES,
  held: ['held_object', 'link'],
}

const TABLES = Object.entries(PARTS).flatMap(([part, tables]) => tables.map((table) => ({ part, table })))

/**
 * A stamp of what an entity's set-up is: another one after every statement that writes any of it, and one that was never given before, so that
 * what was read under a stamp stays true of it, though a transaction was taken back. It says by when all of it was recorded: as at any later
 * instant, it is as it is now.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table set_up_stamp (entity_id text not null references legal_entity, part text not null check (part in ('agreed', 'held')), stamp uuid not null default gen_random_uuid(), since timestamptz not null,
  primary key (entity_id, part));
${guarded('set_up_stamp')}

create function set_up_changed() returns trigger language plpgsql as $$
begin
  if coalesce(current_setting('axion.entity', true), '') = '' then
    -- Whoever writes past the entities may have written any.
    update set_up_stamp set stamp = gen_random_uuid(), since = 'infinity' where part = tg_argv[0];
  else
    insert into set_up_stamp (entity_id, part, since)
      select entity_id, tg_argv[0], recorded_last from legal_entity where entity_id = current_setting('axion.entity', true)
      on conflict (entity_id, part) do update set stamp = excluded.stamp, since = excluded.since;
  end if;
  return null;
end $$;
${TABLES.map(({ part, table }) => `create trigger set_up_changed after insert or update or delete on ${table} for each statement execute function set_up_changed('${part}');`).join('\n')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
${TABLES.map(({ table }) => `drop trigger set_up_changed on ${table};`).join('\n')}
drop function set_up_changed();
drop table set_up_stamp;
`)
}
