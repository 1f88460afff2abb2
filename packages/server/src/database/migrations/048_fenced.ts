import type { Knex } from 'knex'

const entering = (held: string): string => `
create or replace function enter(p_entity text, p_from text, p_session text, p_link text, p_run text, p_lease text) returns text language plpgsql as $$
declare books legal_entity;
begin
  perform set_config('axion.entity', p_entity, true), set_config('axion.from', p_from, true), set_config('axion.session', p_session, true),
    set_config('axion.link', p_link, true), set_config('axion.run', p_run, true);
  if p_entity = '' then return null; end if;
  select * into books from legal_entity where entity_id = p_entity;
  if books.moving_since is not null then
    raise exception 'the books of % are being moved', p_entity using errcode = 'AXL02';
  end if;
  if books.entity_id is null or books.lives_in is not null then return null; end if;
  if p_lease <> '' then
    perform from run where entity_id = p_entity and run_id = p_run::uuid and lease = p_lease::bigint ${held};
    if not found then raise exception 'another worker is at the run' using errcode = 'AXL01'; end if;
  end if;
  return books.base_currency;
end $$;`

/** Whoever writes for a run holds its lease to the end of the transaction: nobody takes the run over between the look at the lease and the commit. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(entering('for key share'))
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(entering(''))
}
