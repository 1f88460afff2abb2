import type { Knex } from 'knex'

/** Where the chains of the trail end is a view, as all is that is read across entities: no function reads two. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
drop function trail_heads();
create view trail_end as select chain, place, encode(digest, 'hex') as digest from chain_head;
grant select on trail_end to axion_app;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop view trail_end;
create function trail_heads() returns table (chain text, place bigint, digest text) language sql stable security definer set search_path = public
  as $$ select chain, place, encode(digest, 'hex') from chain_head order by chain $$;
revoke all on function trail_heads from public;
grant execute on function trail_heads to axion_app;
`)
}
