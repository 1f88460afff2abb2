import type { Knex } from 'knex'

/** What an installation does as a whole, in counts alone, for whoever watches over it: runs of a day by kind and state, and documents by what became of them in Post. */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create view run_metric as select kind, state, count(*)::int as runs, sum(extract(epoch from updated_at - created_at))::float8 as seconds
  from run where created_at > now() - interval '1 day' group by 1, 2;
create view post_metric as select state, sum(documents)::bigint as documents from post_sum group by 1;
grant select on run_metric, post_metric to axion_app;
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop view run_metric, post_metric')
}
