import type { Knex } from 'knex'
import { bitemporal } from './guarded.ts'

/** Who collects in a country or region where the entity sells: said by somebody, from a day on. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
${bitemporal('collecting', `jurisdiction text not null, answer text not null check (answer in ('we', 'another', 'nobody')), why text`)}
alter table collecting alter column version_id drop identity, alter column version_id set default 0;
create trigger numbered before insert on collecting for each row when (new.version_id = 0) execute function number_version_id();
create trigger set_up_changed after insert or update or delete on collecting for each statement execute function set_up_changed('agreed');`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table collecting')
}
