import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

/** Invitations for somebody else to complete a connection: kept by the digest of what is in their link, used once, and for a week. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create table invitation (
  entity_id text not null references legal_entity, invitation_id uuid not null default gen_random_uuid(), digest text not null, system_id text not null, role text not null, name text not null, created_by text not null,
  created_at timestamptz not null default now(), expires_at timestamptz not null, used_at timestamptz,
  primary key (entity_id, invitation_id), unique (entity_id, digest));
${guarded('invitation')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop table invitation')
}
