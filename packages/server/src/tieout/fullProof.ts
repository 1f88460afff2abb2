import type { FullProofView } from '@axion/contract'
import { VOICES, type Voice } from '@axion/core'
import { inOrder, type Books, type Transaction } from '../database/connection.ts'
import { overMonths } from '../database/planner.ts'

export const MOST_NAMED = 50

/** What is written of a line of Post, in the order of `lines_of`. */
const LINE_COLUMNS =
  'entity_id, system_id, document_id, kind, number, party, document_date, period, currency, status, not_taken, tax, total, booking, there, remarked, voided, in_doubt'

/** Without what working documents out anew adds to it. */
type Summed = Omit<FullProofView, 'otherwise'>

/**
 * The slow proof beside the quick one, from stored facts: sums every tax fact anew, joins the voices in full, and sees whether each unit's
 * stored signatures say the same. What it finds is a fault of Axion's own, not of the books.
 */
export async function fullProof(
  { trx, entityId }: Books,
  period: string,
): Promise<{ readonly view: Summed; readonly disagreeing: readonly string[] }> {
  const {
    rows: [counted],
  } = (await trx.raw(
    `select count(*)::int as units, (select count(*)::int from tax_fact f join tie_unit u using (entity_id, unit_id) where u.entity_id = :e and u.period = :p) as facts from tie_unit where entity_id = :e and period = :p`,
    { e: entityId, p: period },
  )) as { rows: { units: number; facts: number }[] }
  const { rows: astray } = (await overMonths(trx, () =>
    trx.raw(FROM_DETAIL, { e: entityId, p: period }),
  )) as {
    rows: { named: string; number: string; quick: boolean; disagrees: boolean; summed: boolean }[]
  }
  const rows = astray.filter(({ disagrees }) => disagrees)
  const view = {
    documents: counted?.units ?? 0,
    facts: counted?.facts ?? 0,
    astray: Number(
      (
        (await trx('tie_unit')
          .where({ entity_id: entityId, period, differs: true })
          .whereNull('settled')
          .first(trx.raw('count(*) as n'))) as { n: string }
      ).n,
    ),
    disagreeing: rows.length,
    miscounted:
      astray.filter(({ summed, disagrees }) => !summed && !disagrees).length +
      (await overMonths(trx, () => miscounted(trx, entityId, period))),
    named: rows
      .slice(0, MOST_NAMED)
      .map(
        ({ named, number, quick }) => ({ unit: named, number, quick: quick ? 'differs' : 'agrees' }) as const,
      ),
  }
  return { view, disagreeing: rows.map((row) => row.named) }
}

const UNITS_SUMMED = `select entity_id, period, posted, taken, system_id, kind, proved, not proved and cause is not null as is_open, coalesce(settled, '') as settled, count(*),
  sum(stated)::bigint, sum(unproved)::bigint, sum(unproved_net)::bigint, sum(over)::bigint, sum(under)::bigint from unit where entity_id = :e and period = :p group by 1, 2, 3, 4, 5, 6, 7, 8, 9`

const TOUCHES_SUMMED = `select entity_id, period, touch, count(*) from (select entity_id, period, unnest(touches) as touch from unit where entity_id = :e and period = :p) t group by 1, 2, 3`

/** What is kept of a month's rows beside them, and SQL of what it comes to from nothing: what a page says is summed by whoever writes its rows. */
const BESIDE: readonly { readonly kept: string; readonly summed: string }[] = [
  {
    kept: 'select * from tie_total where entity_id = :e and period = :p and members <> 0',
    summed: 'select * from totals_of(:e, :p)',
  },
  {
    // Of what is tied out it is seen with the rest.
    kept: `select unit_id, stated from unit where entity_id = :e and period = :p and not posted`,
    summed: `select u.unit_id, coalesce(sum(f.in_base), 0)::bigint from unit u left join tax_fact f on f.entity_id = u.entity_id and f.unit_id = u.unit_id and f.voice = 'stated' and f.tax <> 0
      where u.entity_id = :e and u.period = :p and not u.posted group by 1`,
  },
  {
    kept: 'select * from unit_sum where entity_id = :e and period = :p',
    summed: UNITS_SUMMED,
  },
  {
    kept: 'select * from touch_sum where entity_id = :e and period = :p',
    summed: TOUCHES_SUMMED,
  },
  {
    kept: `select ${LINE_COLUMNS} from post_line where entity_id = :e and period = :p`,
    summed: 'select * from lines_of(:e, :p)',
  },
  {
    kept: `select state, warned, sum(documents), sum(tax), sum(tax_size) from post_sum where entity_id = :e and period = :p group by 1, 2 having sum(documents) <> 0 or sum(tax) <> 0 or sum(tax_size) <> 0`,
    summed: `select state, warned, count(*)::numeric, sum(tax), sum(abs(tax)) from post_line where entity_id = :e and period = :p group by 1, 2`,
  },
]

/** How many sums, and lines of Post, are kept otherwise than what they are of comes to. */
async function miscounted(trx: Transaction, entityId: string, period: string): Promise<number> {
  const counts = await inOrder(BESIDE, async ({ kept, summed }) => {
    const { rows } = (await trx.raw(
      `with kept as (${kept}), summed as (${summed})
       select greatest((select count(*) from (select * from kept except select * from summed) a), (select count(*) from (select * from summed except select * from kept) b))::int as n`,
      { e: entityId, p: period },
    )) as { rows: [{ n: number }] }
    return rows[0].n
  })
  return counts.reduce((sum, n) => sum + n, 0)
}

const UNITS_ANEW = `
update unit u set stated = s.stated, expected = s.expected, booked = s.booked, stated_net = s.net from (
  select u.unit_id, ${VOICES.map((voice) => `coalesce(t.${voice}, 0) as ${voice}`).join(', ')}, coalesce(n.net, 0) as net from unit u
  left join (select f.unit_id, ${VOICES.map((voice) => `${all(voice)} as ${voice}`).join(', ')} from tax_fact f where f.entity_id = :e group by 1) t using (unit_id)
  left join (select unit_id, sum(in_base) as net from net_fact where entity_id = :e and voice = 'stated' group by 1) n using (unit_id)
  where u.entity_id = :e and u.period = :p) s
where u.entity_id = :e and u.unit_id = s.unit_id and (u.stated, u.expected, u.booked, u.stated_net) <> (s.stated, s.expected, s.booked, s.net)`

/** Works out anew, and keeps, what a month's rows come to. */
export async function countAnew({ trx, entityId }: Books, period: string): Promise<void> {
  const of = { e: entityId, p: period }
  await overMonths(trx, async () => {
    await trx.raw(UNITS_ANEW, of)
    for (const table of ['tie_total', 'unit_sum', 'touch_sum', 'post_line'])
      await trx(table as 'tie_total')
        .where({ entity_id: entityId, period })
        .delete()
    await trx.raw('insert into tie_total select * from totals_of(:e, :p)', of)
    await trx.raw(`insert into unit_sum ${UNITS_SUMMED}`, of)
    await trx.raw(`insert into touch_sum ${TOUCHES_SUMMED}`, of)
    await trx.raw(`insert into post_line (${LINE_COLUMNS}) select * from lines_of(:e, :p)`, of)
    await trx.raw(
      `with gone as (delete from post_sum where entity_id = :e and period = :p)
       insert into post_sum (entity_id, period, state, warned, documents, tax, tax_size)
       select entity_id, period, state, warned, count(*), sum(tax), sum(abs(tax)) from post_line where entity_id = :e and period = :p group by 1, 2, 3, 4`,
      of,
    )
  })
}

/**
 * Members per unit and pair of voices, at the grain that both have: a source states no account, and where it states no split its
 * total is compared; where the ledger names no agency, its accounts are. Facts are read once, and summed from the finest grain upwards:
 * the three voices of a member stand in one row. Sums of a unit fit into integers, which are summed on faster than what a sum gives.
 */
export const FROM_DETAIL = `
with unit as materialized (
  select u.unit_id, u.named, u.number, u.differs, u.split_stated, u.expected_complete, u.bookings, u.edited, u.voided, u.document_id is not null as sold,
    m.stated_signature is not null as states, u.booked_signature is not null as books, u.expected_signature is not null as expects, u.stated, u.expected, u.booked, u.stated_net
  from unit u left join determination m on m.entity_id = u.entity_id and m.unit_id = u.unit_id where u.entity_id = :e and u.period = :p and u.posted),
tax as materialized (
  select f.unit_id, f.agency, f.account, f.currency, f.period, ${said('tax', 'stated')} as tax_stated, ${said('tax', 'expected')} as tax_expected, ${said('tax', 'booked')} as tax_booked,
    ${said('in_base', 'expected')} as in_base_expected, ${said('in_base', 'booked')} as in_base_booked, ${VOICES.map((voice) => `${all(voice)} as all_${voice}`).join(', ')},
    bool_or(f.voice = 'booked' and f.tax <> 0) as any_booked, bool_or(f.base is not null and f.voice <> 'expected') as based
  from tax_fact f join unit u using (unit_id) where f.entity_id = :e group by 1, 2, 3, 4, 5),
tax_by_agency as (
  select unit_id, (sum(tax_stated) - sum(tax_expected))::bigint as apart, bool_or(tax_expected <> tax_booked or in_base_expected <> in_base_booked) as ledger_apart,
    bool_or(agency is null and any_booked) as unnamed, bool_or(based) as based,
    sum(all_stated)::bigint as all_stated, sum(all_expected)::bigint as all_expected, sum(all_booked)::bigint as all_booked
  from tax group by unit_id, agency, currency, period),
tax_by_unit as (
  select unit_id, bool_or(apart <> 0) as agencies_apart, sum(apart) <> 0 as total_apart, bool_or(ledger_apart) as ledger_apart, bool_or(unnamed) as unnamed, bool_or(based) as based,
    sum(all_stated) as all_stated, sum(all_expected) as all_expected, sum(all_booked) as all_booked
  from tax_by_agency group by 1),
unnamed as (
  select t.unit_id from tax t join tax_by_unit u using (unit_id) where u.unnamed group by t.unit_id, t.account, t.currency, t.period
  having sum(tax_expected) <> sum(tax_booked) or sum(in_base_expected) <> sum(in_base_booked)),
net as (
  select f.unit_id, f.account, f.currency, f.period, ${said('net', 'stated')} as net_stated, ${said('net', 'expected')} as net_expected, ${said('net', 'booked')} as net_booked, bool_or(f.account is null and f.net <> 0 and f.voice <> 'stated') as unaccounted,
    ${said('in_base', 'stated')} as all_net
  from net_fact f join unit u using (unit_id) where f.entity_id = :e group by 1, 2, 3, 4),
net_by_period as (
  select unit_id, (sum(net_stated) - sum(net_expected))::bigint as source_apart, (sum(net_expected) - sum(net_booked))::bigint as ledger_apart, bool_or(net_expected <> net_booked) as accounts_apart, bool_or(unaccounted) as unaccounted, sum(all_net)::bigint as all_net
  from net group by unit_id, currency, period),
net_by_unit as (
  select unit_id, bool_or(source_apart <> 0) as source_apart, bool_or(ledger_apart <> 0) as ledger_apart, bool_or(accounts_apart) as accounts_apart, bool_or(unaccounted) as unaccounted, sum(all_net) as all_net
  from net_by_period group by 1),
compared as (
  select u.*, coalesce(t.based, false) as based, coalesce(
       u.states and (n.source_apart or case when u.split_stated then t.agencies_apart else t.total_apart end)
    or (u.books or u.expects) and case when t.unnamed then o.unit_id is not null else t.ledger_apart end
    or u.books and (n.ledger_apart or n.accounts_apart and not n.unaccounted), false) as apart,
    (u.stated, u.expected, u.booked, u.stated_net) = (coalesce(t.all_stated, 0), coalesce(t.all_expected, 0), coalesce(t.all_booked, 0), coalesce(n.all_net, 0)) as summed
  from unit u left join tax_by_unit t using (unit_id) left join net_by_unit n using (unit_id) left join (select distinct unit_id from unnamed) o using (unit_id))
select named, number, differs as quick, disagrees, summed from (
  select *, differs <> apart and (apart or sold and expected_complete and bookings = 1 and not edited and not voided and not based) as disagrees from compared) c
where not summed or disagrees order by number`

/** SQL, of facts `f` of a member: what a voice comes to. */
function said(column: 'tax' | 'in_base' | 'net', voice: Voice): string {
  return `coalesce(sum(f.${column}) filter (where f.voice = '${voice}'), 0)::bigint`
}

/** SQL, of tax facts `f`: all that a voice comes to, as its unit keeps it. */
function all(voice: Voice): string {
  return `coalesce(sum(f.in_base) filter (where f.voice = '${voice}' and f.tax <> 0), 0)::bigint`
}
