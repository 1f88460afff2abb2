import type { Knex } from 'knex'

/** Files are kept beside whatever they prove: an exemption by its certificate, a percent or rule by what somebody read of an agency or of a place. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
alter table certificate_file rename to attached_file;
alter table attached_file rename constraint certificate_file_pkey to attached_file_pkey;
alter table attached_file rename constraint certificate_file_entity_id_fkey to attached_file_entity_id_fkey;
alter table attached_file rename column certificate to object;
alter table attached_file add column about text not null default 'certificate' check (about in ('certificate', 'check'));
alter table attached_file alter column about drop default;
drop index certificate_file_of;
create index attached_file_of on attached_file (entity_id, about, object);`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop index attached_file_of;
delete from attached_file where about <> 'certificate';
alter table attached_file drop column about;
alter table attached_file rename column object to certificate;
alter table attached_file rename constraint attached_file_pkey to certificate_file_pkey;
alter table attached_file rename constraint attached_file_entity_id_fkey to certificate_file_entity_id_fkey;
alter table attached_file rename to certificate_file;
create index certificate_file_of on certificate_file (entity_id, certificate);`)
}
