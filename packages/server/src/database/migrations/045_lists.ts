import type { Knex } from 'knex'
import { guarded } from './guarded.ts'

const of = (row: string, columns: readonly string[]): string =>
  columns.map((one) => `${row}.${one}`).join(', ')

/** What a table's rows come to, group by group of a month. */
interface Summed {
  readonly key: readonly string[]
  readonly sums: readonly string[]
  /** SQL of both, of a row. */
  readonly row: string
}

const UNITS: Summed = {
  key: ['posted', 'taken', 'system_id', 'kind', 'proved', 'is_open', 'settled'],
  sums: ['documents', 'stated', 'unproved', 'unproved_net', 'over', 'under'],
  row: `posted, taken, system_id, kind, proved, not proved and cause is not null as is_open, coalesce(settled, '') as settled, 1::bigint as documents, stated, unproved, unproved_net, over, under`,
}
const LINES: Summed = {
  key: ['state', 'warned'],
  sums: ['documents', 'tax', 'tax_size'],
  row: `state, warned, 1::bigint as documents, tax, abs(tax) as tax_size`,
}

const rowsIn = (table: string, { row }: Summed): string => `select entity_id, period, ${row} from ${table}`

/** SQL: what rows of a table come to, or what they take away. */
const takenFrom = (table: string, summed: Summed): string =>
  `select entity_id, period, ${summed.key.join(', ')}, ${summed.sums.map((one) => `-${one} as ${one}`).join(', ')} from (${rowsIn(table, summed)}) g`

function sumOf(rows: string, { key, sums }: Summed): string {
  const groups = ['entity_id', 'period', ...key].join(', ')
  return `select ${groups}, ${sums.map((one) => `sum(${one})`).join(', ')} from (${rows}) x group by ${groups} having ${sums.map((one) => `sum(${one}) <> 0`).join(' or ')}`
}

/** Units are written in the turn of their entity alone: their sums are one row a group. */
function addUnits(rows: string): string {
  const { key, sums } = UNITS
  return `
    insert into unit_sum as t (entity_id, period, ${[...key, ...sums].join(', ')}) ${sumOf(rows, UNITS)}
    on conflict (entity_id, period, ${key.join(', ')}) do update set ${sums.map((one) => `${one} = t.${one} + excluded.${one}`).join(', ')};`
}

/** Bookings are sent while books are changed, and neither waits for the other: each statement leaves what it moved as rows of its own. */
const addLines = (rows: string): string => `
    insert into post_sum (entity_id, period, ${[...LINES.key, ...LINES.sums].join(', ')}) ${sumOf(rows, LINES)};`

/** A function of a trigger that knows what came and what is gone. @param does SQL of what is done with rows, after each kind of statement */
function summing(table: string, add: (rows: string) => string, summed: Summed, then = ''): string {
  const [came, gone] = [rowsIn('came', summed), takenFrom('gone', summed)]
  return `
create function ${table}_sums() returns trigger language plpgsql as $$ begin
  if tg_op = 'INSERT' then ${add(came)}
  elsif tg_op = 'DELETE' then ${add(gone)}
  else ${add(`${came} union all ${gone}`)}
  end if;
  ${then}
  return null;
end $$;
${triggers(table, 'summed', `${table}_sums`)}
${add(rowsIn(table, summed))}`
}

function triggers(table: string, name: string, does: string): string {
  return `
create trigger ${name}_new after insert on ${table} referencing new table as came for each statement execute function ${does}();
create trigger ${name}_gone after delete on ${table} referencing old table as gone for each statement execute function ${does}();
create trigger ${name}_other after update on ${table} referencing new table as came old table as gone for each statement execute function ${does}();`
}

/** SQL, of a line: what became of its document. */
const STATE = `case
    when in_doubt then 'in-doubt'
    when status = 'void' and booking = 'booked' then 'void-at-source'
    when status = 'void' and (booking is null or booking = 'withdrawn') then 'void'
    when status = 'draft' and booking is null then 'draft'
    when status <> 'void' and voided then 'voided-there'
    when status <> 'void' and not_taken is not null and not there and coalesce(booking, '') not in ('waiting', 'sending', 'sent', 'in-doubt', 'booked') then not_taken
    else coalesce(booking, 'not-composed') end`
/** What is sent or booked has nothing left to be remarked on: Tie out says what came of it. */
const WARNED = `remarked and (${STATE}) in ('not-composed', 'blocked', 'rehearsed', 'waiting', 'failed', 'changed')`

/** What of a line follows its document, its unit, and its bookings with what the ledger shows of them: each has one writer, and none undoes another's. */
const OF_DOCUMENT = ['kind', 'number', 'party', 'document_date', 'period', 'currency', 'status', 'not_taken']
const OF_BOOKINGS = ['booking', 'there', 'remarked', 'voided', 'in_doubt']
const KEY = ['entity_id', 'system_id', 'document_id']
const LINE = [...KEY, ...OF_DOCUMENT, 'tax', 'total', ...OF_BOOKINGS].join(', ')

/** SQL: what follows the bookings of a document `d`, of which `b` is its own. */
const BOOKINGS = `b.state as booking, b.ledger_booking_id is not null as there, coalesce(b.findings <> '[]', false) as remarked,
    coalesce(b.state = 'changed' and b.ledger_booking_id is null and exists (select from ledger_entry v where v.entity_id = b.entity_id and v.external_id = b.external_id and v.voided), false) as voided,
    exists (select from booking q where q.entity_id = d.entity_id and q.system_id = d.system_id and q.document_id = d.document_id and q.state = 'in-doubt') as in_doubt`
const WITH_BOOKING =
  'left join booking b on b.entity_id = d.entity_id and b.system_id = d.system_id and b.document_id = d.document_id and b.kind = d.kind'

/** SQL: lines of posted documents, from a table of them. */
const linesOf = (documents: string): string => `
  select ${of('d', [...KEY, ...OF_DOCUMENT])}, coalesce(u.stated, 0) as tax, coalesce(u.stated + u.stated_net, 0) as total, ${BOOKINGS}
  from ${documents} d ${WITH_BOOKING} left join unit u on u.entity_id = d.entity_id and u.named = d.system_id || '/' || d.document_id where d.posted`

/** After what a table tells of, what follows the bookings of the documents that it is about is worked out anew. @param about SQL of them, from a table of rows */
function follows(table: string, about: (rows: string) => string): string {
  const up = (rows: string): string =>
    `perform line_up(x.entity_id, array_agg(x.system_id), array_agg(x.document_id)) from (select distinct entity_id, system_id, document_id from (${rows}) y) x group by x.entity_id;`
  return `
create function ${table}_lines() returns trigger language plpgsql as $$ begin
  if tg_op = 'INSERT' then ${up(about('came'))}
  elsif tg_op = 'DELETE' then ${up(about('gone'))}
  else ${up(`${about('came')} union all ${about('gone')}`)}
  end if;
  return null;
end $$;
${triggers(table, 'lined', `${table}_lines`)}`
}

const ORDERS = ['document_date, number', 'number', 'party_folded', 'state, document_date, number']
const ordered = (table: string, orders: readonly string[]): string =>
  orders
    .map(
      (order) =>
        `create index ${table}_by_${order.split(',')[0]} on ${table} (entity_id, period, ${order}, named);`,
    )
    .join('\n')

/** SQL, of a unit: no document is kept of it, in which its words would stand. */
const WITHOUT_DOCUMENT = `(document_id is null or kind = 'unread')`

/** SQL: what bears words, of a table and those of its rows that no other is looked through for. */
const found = (table: string, which: string, named = 'named'): string =>
  `(select ${named} from ${table} where ${which} entity_id = entity and entity = current_setting('axion.entity', true) and period = month and (number ilike pattern or party ilike pattern) limit most + 1)`

/** What units are ordered by and looked for, and what they come to. */
const UNIT_LISTS = `alter table unit add column stated bigint not null default 0, add column expected bigint not null default 0, add column booked bigint not null default 0, add column stated_net bigint not null default 0,
  add column open bigint not null generated always as (unproved + unproved_net) stored, add column state text not null generated always as (coalesce(headline, '')) stored,
  add column party_folded text not null generated always as (lower(party)) stored;
update unit u set stated = coalesce(f.stated, 0), expected = coalesce(f.expected, 0), booked = coalesce(f.booked, 0), stated_net = coalesce(f.net, 0) from (
  select * from (select entity_id, unit_id, ${['stated', 'expected', 'booked'].map((voice) => `sum(in_base) filter (where voice = '${voice}' and tax <> 0) as ${voice}`).join(', ')} from tax_fact group by 1, 2) t
  full join (select entity_id, unit_id, sum(in_base) as net from net_fact where voice = 'stated' group by 1, 2) n using (entity_id, unit_id)) f
where f.entity_id = u.entity_id and f.unit_id = u.unit_id;
drop index tie_unit_period;
${ordered('unit', [...ORDERS, 'open'])}
create index unit_cause on unit (entity_id, period, cause) where not proved and cause is not null;
create index unit_settled on unit (entity_id, period) where settled is not null;
create index unit_words on unit using gin (entity_id, period, number gin_trgm_ops, party gin_trgm_ops) where ${WITHOUT_DOCUMENT};

create table unit_sum (entity_id text not null references legal_entity, period text not null, posted boolean not null, taken boolean not null, system_id text not null, kind text not null, proved boolean not null, is_open boolean not null, settled text not null,
  ${UNITS.sums.map((one) => `${one} bigint not null`).join(', ')}, primary key (entity_id, period, ${UNITS.key.join(', ')}));
${guarded('unit_sum')}
${summing('unit', addUnits, UNITS, `if tg_op <> 'INSERT' then delete from unit_sum t using (select distinct entity_id, period from gone) g where t.entity_id = g.entity_id and t.period = g.period and t.documents = 0; end if;`)}

`

const POST_LINES = `create table post_line (entity_id text not null references legal_entity, system_id text not null, document_id text not null, kind text not null, number text not null, party text not null, document_date date not null, period text not null, currency text not null,
  status text not null, not_taken text, booking text, there boolean not null, remarked boolean not null, voided boolean not null, in_doubt boolean not null, tax bigint not null, total bigint not null,
  state text not null generated always as (${STATE}) stored, warned boolean not null generated always as (${WARNED}) stored,
  named text not null generated always as (system_id || '/' || document_id) stored, party_folded text not null generated always as (lower(party)) stored,
  primary key (entity_id, system_id, document_id));
${guarded('post_line')}
insert into post_line (${LINE}) ${linesOf('document')};
${ordered('post_line', [...ORDERS, 'tax', 'total'])}
create index document_words on document using gin (entity_id, period, number gin_trgm_ops, party gin_trgm_ops);

create table post_sum (entity_id text not null references legal_entity, period text not null, part uuid not null default gen_random_uuid(), state text not null, warned boolean not null,
  ${LINES.sums.map((one) => `${one} bigint not null`).join(', ')}, primary key (entity_id, period, part));
${guarded('post_sum')}
${summing('post_line', addLines, LINES)}
-- What statements left is put together; what others leave meanwhile stays as it is.
create function sum_posts(entity text) returns void language plpgsql as $$ begin
  with gone as (delete from post_sum where entity_id = entity returning *)
  ${addLines(`select * from gone`)}
end $$;

`

/** How lines follow what they are of. */
const FOLLOWING = `-- Lines are held before their bookings are looked at: of two who change bookings of one document, the later one sees what the earlier did.
create function line_up(entity text, systems text[], documents text[]) returns void language plpgsql as $$ begin
  perform from post_line l where l.entity_id = entity and (l.system_id, l.document_id) in (select * from unnest(systems, documents)) order by l.system_id, l.document_id for no key update;
  update post_line l set ${OF_BOOKINGS.map((one) => `${one} = n.${one}`).join(', ')} from (
    select ${of('d', KEY)}, ${BOOKINGS} from unnest(systems, documents) as c(system_id, document_id)
    join document d on d.entity_id = entity and d.system_id = c.system_id and d.document_id = c.document_id ${WITH_BOOKING}) n
  where l.entity_id = n.entity_id and l.system_id = n.system_id and l.document_id = n.document_id and (${of('l', OF_BOOKINGS)}) is distinct from (${of('n', OF_BOOKINGS)});
end $$;
create function document_lines() returns trigger language plpgsql as $$ begin
  if tg_op <> 'DELETE' then
    insert into post_line as l (${LINE}) ${linesOf('came')}
    on conflict (${KEY.join(', ')}) do update set ${OF_DOCUMENT.map((one) => `${one} = excluded.${one}`).join(', ')}
    where (${of('l', OF_DOCUMENT)}) is distinct from (${of('excluded', OF_DOCUMENT)});
  end if;
  if tg_op = 'UPDATE' then
    perform line_up(c.entity_id, array_agg(c.system_id), array_agg(c.document_id)) from came c join gone g using (${KEY.join(', ')}) where c.kind <> g.kind group by c.entity_id;
    delete from post_line l using came c where l.entity_id = c.entity_id and l.system_id = c.system_id and l.document_id = c.document_id and not c.posted;
  elsif tg_op = 'DELETE' then
    delete from post_line l using gone g where l.entity_id = g.entity_id and l.system_id = g.system_id and l.document_id = g.document_id;
  end if;
  return null;
end $$;
${triggers('document', 'lined', 'document_lines')}
-- As they are worked out from nothing.
create function lines_of(entity text, month text) returns table (${[...KEY, ...OF_DOCUMENT].map((one) => `${one} ${one === 'document_date' ? 'date' : 'text'}`).join(', ')}, tax bigint, total bigint, booking text, ${OF_BOOKINGS.slice(
  1,
)
  .map((one) => `${one} boolean`)
  .join(', ')}) language sql stable as
  $$ ${linesOf('(select * from document where entity_id = entity and period = month)')} $$;
${follows('booking', (rows) => `select entity_id, system_id, document_id from ${rows}`)}
${follows('ledger_entry', (rows) => `select b.entity_id, b.system_id, b.document_id from ${rows} e join booking b on b.entity_id = e.entity_id and b.external_id = e.external_id where b.state = 'changed'`)}
create function unit_lines() returns trigger language plpgsql as $$ begin
  if tg_op = 'DELETE' then
    update post_line l set tax = 0, total = 0 from gone g
    where l.entity_id = g.entity_id and l.system_id = g.system_id and l.document_id = g.document_id and (l.tax, l.total) <> (0, 0);
  else
    update post_line l set tax = c.stated, total = c.stated + c.stated_net from came c
    where l.entity_id = c.entity_id and l.system_id = c.system_id and l.document_id = c.document_id and (l.tax, l.total) <> (c.stated, c.stated + c.stated_net);
  end if;
  return null;
end $$;
${triggers('unit', 'lined', 'unit_lines')}

`

const WORDS = `-- Words are looked for by an index, which no row-level security lets anybody else use: of the entity that is open, and no further.
create function found_like(entity text, month text, pattern text, most int) returns text[] language sql stable security definer set search_path = public as $$
  select case when count(*) <= most then coalesce(array_agg(named), '{}') end from (${found('document', '', `system_id || '/' || document_id as named`)} union all ${found('unit', `${WITHOUT_DOCUMENT} and`)}) f
$$;
revoke all on function found_like from public;
grant execute on function found_like, line_up, lines_of, sum_posts to axion_app;
`

/**
 * Lists of a month answer by indexes, however long it is: a unit has what its voices come to, and what it is ordered by; what became of a document
 * in Post is a narrow line of its own, which follows whoever writes document, booking, entry or unit; and what pages say of a month as a whole is
 * summed by whatever writes its rows.
 */
export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
create extension if not exists pg_trgm;
create extension if not exists btree_gin;
${UNIT_LISTS}
${POST_LINES}
${FOLLOWING}
${WORDS}`)
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw(`
drop function found_like, sum_posts;
drop function ${['unit_sums', 'post_line_sums', ...['document', 'booking', 'ledger_entry', 'unit'].map((table) => `${table}_lines`)].join(', ')} cascade;
drop function line_up, lines_of;
drop table post_sum, post_line, unit_sum;
drop index ${[...ORDERS, 'open'].map((order) => `unit_by_${order.split(',')[0]}`).join(', ')}, unit_cause, unit_settled, unit_words, document_words;
create index tie_unit_period on unit (entity_id, period, document_date, number);
alter table unit drop column party_folded, drop column state, drop column open, drop column stated, drop column expected, drop column booked, drop column stated_net;
`)
}
