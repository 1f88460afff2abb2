import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

const touches = (table: string, sign: 1 | -1): string =>
  `select entity_id, period, unnest(touches) as touch, ${sign} as n from ${table}`

/** Adds up what units touch, and forgets what nothing touches any more. */
const added = (rows: string): string => `
    insert into touch_sum as t (entity_id, period, touch, documents)
      select entity_id, period, touch, sum(n) from (${rows}) x group by 1, 2, 3 having sum(n) <> 0 order by 1, 2, 3
    on conflict (entity_id, period, touch) do update set documents = t.documents + excluded.documents;`

/**
 * Which rows of the grids each document touches is kept with its unit, and how many touch each of them is summed by whoever writes units:
 * read from a month's documents, it took as long as the month is large after every change. Units that are there are due to be proved, by a run that waits for a worker.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table unit add column touches text[] not null default '{}';
create table touch_sum (entity_id text not null references legal_entity, period text not null, touch text not null, documents bigint not null,
  primary key (entity_id, period, touch));
${guarded('touch_sum')}
create function unit_touches() returns trigger language plpgsql as $$ begin
  if tg_op = 'INSERT' then ${added(touches('came', 1))}
  elsif tg_op = 'DELETE' then ${added(touches('gone', -1))}
  else ${added(`${touches('came', 1)} union all ${touches('gone', -1)}`)}
  end if;
  if tg_op <> 'INSERT' then
    delete from touch_sum t using (select distinct entity_id, period, unnest(touches) as touch from gone) g
      where t.entity_id = g.entity_id and t.period = g.period and t.touch = g.touch and t.documents = 0;
  end if;
  return null;
end $$;
create trigger touched_new after insert on unit referencing new table as came for each statement execute function unit_touches();
create trigger touched_gone after delete on unit referencing old table as gone for each statement execute function unit_touches();
create trigger touched_other after update on unit referencing new table as came old table as gone for each statement execute function unit_touches();
update unit set fingerprint = null;
insert into proof_due (entity_id, named, since) select distinct entity_id, '', now() from unit on conflict do nothing;
insert into run (entity_id, kind, payload, started_by) select entity_id, 'prove', jsonb_build_object('month', max(period)), 'Axion' from unit group by 1`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop trigger touched_new on unit;
drop trigger touched_gone on unit;
drop trigger touched_other on unit;
drop function unit_touches;
drop table touch_sum;
alter table unit drop column touches`)
}
