import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/**
 * What units rest on: the questions that were asked of the set-up while they were worked out, each with what it came to, and in sets, since
 * many units ask the same. Where an answer changes, the units that rest on it are due, and no others.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table question (entity_id text not null references legal_entity, question_no int not null, digest text not null, asked text not null, answer text not null,
  primary key (entity_id, question_no), unique (entity_id, digest));
${guarded('question')}
create table question_set (entity_id text not null references legal_entity, set_no int not null, digest text not null, questions int[] not null,
  primary key (entity_id, set_no), unique (entity_id, digest));
${guarded('question_set')}
-- As what set-up the answers are.
create table answered_by (entity_id text primary key references legal_entity, agreed uuid, held uuid, settings text not null, systems text not null);
${guarded('answered_by')}
-- Null of what was determined before it was noted: it may rest on anything. What is explained by the set-up as a whole rests on all of it too.
alter table unit add column rests_on int[], add column by_set_up boolean not null default false;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
alter table unit drop column rests_on, drop column by_set_up;
drop table answered_by;
drop table question_set;
drop table question;
`)
}
