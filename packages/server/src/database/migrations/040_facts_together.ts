import type { Knex } from 'knex'

/** What a unit's facts say, as one text that is the same wherever the facts are: one line a fact, in an order of its own, under the version of this form. */
function factsText(version: number, tax: string): string {
  return `
create view facts_text with (security_invoker = true) as
  select u.entity_id, u.period, u.unit_id, u.system_id, u.document_id, u.named, 'facts ${version}' || coalesce(E'\\n' || f.lines, '') as text
  from unit u left join lateral (
    select string_agg(line, E'\\n' order by line collate "C") as lines from (
      select jsonb_build_array('tax', voice, ${tax})::text as line from tax_fact t where t.entity_id = u.entity_id and t.unit_id = u.unit_id
      union all select jsonb_build_array('net', voice, account, rounding, currency, period, net::text, in_base::text)::text from net_fact n where n.entity_id = u.entity_id and n.unit_id = u.unit_id) l) f on true;
grant select on facts_text to axion_app;`
}

const WHERE = 'voice, jurisdiction, agency, account, currency, period'

/**
 * A unit's tax facts stand by jurisdiction, agency and account, lines that say the same of them together: which line a tax is of is worked out
 * when its evidence is opened, as all that is said line by line. What is found by account is
 * what is booked, where it was posted in another month than its document's. Bases of lines add up; jurisdictions of one agency stand on the same base.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
drop view facts_text;
create temp table together on commit drop as
  select entity_id, unit_id, ${WHERE}, case when bool_or(unknown) then null else sum(base) end as base, sum(tax) as tax, sum(in_base) as in_base, min(place) as first
  from (
    select entity_id, unit_id, ${WHERE}, line_id, case when jurisdiction is null then (array_agg(base order by abs(base) desc nulls last))[1] else sum(base) end as base,
      bool_or(base is null and tax <> 0) as unknown, sum(tax) as tax, sum(in_base) as in_base, min(place) as place
    from tax_fact group by entity_id, unit_id, ${WHERE}, line_id) line
  group by entity_id, unit_id, ${WHERE};
truncate tax_fact;
alter table tax_fact drop column line_id, drop column origin;
insert into tax_fact (entity_id, unit_id, ${WHERE}, place, base, tax, in_base)
  select entity_id, unit_id, ${WHERE}, row_number() over (partition by entity_id, unit_id, voice order by first) - 1, base, tax, in_base from together;
drop index tax_fact_account;
create index tax_fact_booked on tax_fact (entity_id, period, account) where voice = 'booked';
update unit set fingerprint = null;
${factsText(2, 'jurisdiction, agency, account, currency, period, base::text, tax::text, in_base::text')}
`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop view facts_text;
alter table tax_fact add column line_id text, add column origin jsonb;
drop index tax_fact_booked;
create index tax_fact_account on tax_fact (entity_id, period, voice, agency, account);
update unit set fingerprint = null;
${factsText(1, 'line_id, jurisdiction, agency, account, currency, period, base::text, tax::text, in_base::text, origin')}
`)
}
