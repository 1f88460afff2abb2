import type { Books } from '../database/connection.ts'

/** SQL, of a unit `u`: the ledger holds what was charged, once, and nothing but the charge is astray. Only such a difference can be kept or given back. */
export const CHARGED_OTHERWISE = `(not u.proved and u.kind in ('invoice', 'credit-note') and u.odd = array['expected'] and u.bookings = 1 and not u.edited and not u.voided
  and u.expected_complete and u.flaws = '[]' and u.facets <@ array['amount', 'agency', 'rounding'])`

/** SQL, of a unit `u`: an entry made by hand in the ledger that no document is behind. Who knows what it is can name it. */
const MADE_BY_HAND = `(not u.proved and u.kind = 'entry' and u.document_id is null and u.headline = 'orphan')`

/** SQL, of a unit `u`: what can be kept as it is, for a reason. */
export const KEEPABLE = `(${CHARGED_OTHERWISE} or ${MADE_BY_HAND})`

/** SQL, of a unit `u` and a keeping `k`: it is kept of this unit. */
export const KEPT_OF = `k.entity_id = u.entity_id and u.named = k.system_id || '/' || k.object_id and k.system_id = u.system_id and k.what = case when u.document_id is null then 'entry' else 'document' end
  and k.object_id = coalesce(u.document_id, u.entry_id)`

/** SQL, of a unit `u`: what a keeping holds for. Another amount in any voice, and it lapses. */
export const FIGURES = `md5(concat_ws('/', (select string_agg(concat_ws('/', n.stated_signature, n.expected_at_stated), '/' order by n.system_id, n.document_id) from determination n where n.entity_id = u.entity_id and n.unit_id = u.unit_id), u.expected_signature, u.booked_signature))`

/**
 * SQL of a table expression: what units have too much and too little, stated less expected, by agency where the source states a split, never
 * netted (K12). In the base currency.
 * @param units SQL of a table expression with their ids
 */
export function gapsOf(units: string): string {
  return `select unit_id, sum(greatest(gap, 0))::bigint as over, sum(greatest(-gap, 0))::bigint as under from (
    select m.unit_id, case when t.split_stated then m.agency end as agency, sum(coalesce(m.stated, case when t.document_id is null then m.booked end, 0) - coalesce(m.expected, 0)) as gap
    from tie_member m join tie_unit t on t.entity_id = m.entity_id and t.unit_id = m.unit_id where m.entity_id = :entity and m.unit_id in (${units}) group by 1, 2) g group by 1`
}

/**
 * Takes out of what is not proved what a credit gives back, and what somebody keeps and another has reviewed. Units of the month, and what they
 * credit or are credited by in whatever month, are looked at anew: what was settled and is not any more counts again.
 * @returns the months in which a unit was looked at
 */
export async function settle(books: Books, period: string): Promise<string[]> {
  const bindings = { entity: books.entityId, period }
  // Families with a member in the month that differs, or was settled before.
  const { rows } = (await books.trx.raw(
    `with member as (
       select u.unit_id, u.period, u.system_id, coalesce(d.credits_document, d.document_id) as head from tie_unit u
       join source_document d on d.entity_id = u.entity_id and d.system_id = u.system_id and d.document_id = u.document_id
       where u.entity_id = :entity and (u.differs or u.settled is not null)),
     here as (select distinct system_id, head from member where period = :period)
     select m.unit_id, m.period from member m join here using (system_id, head)
     -- What gives back may be gone altogether.
     union select u.unit_id, u.period from tie_unit u where u.entity_id = :entity and u.settled = 'cured'
     union select u.unit_id, u.period from tie_unit u where u.entity_id = :entity and u.period = :period and u.kind = 'entry' and (u.differs or u.settled is not null)`,
    bindings,
  )) as { rows: { unit_id: string; period: string }[] }
  const units = rows.map((row) => row.unit_id)
  if (units.length === 0) return [period]
  await unsettle(books, units)
  await cure(books, units)
  await keep(books, units)
  return [...new Set([period, ...rows.map((row) => row.period)])].sort()
}

async function unsettle({ trx, entityId }: Books, units: readonly string[]): Promise<void> {
  const of = { entity: entityId, units }
  await trx.raw(
    `update tie_unit set settled = null, settled_with = null, over = 0, under = 0, unproved = astray, unproved_net = astray_net, astray = 0, astray_net = 0
     where entity_id = :entity and unit_id = any(:units) and settled is not null`,
    of as never,
  )
  await trx.raw(
    'update unproved_share set settled = false where entity_id = :entity and unit_id = any(:units) and settled',
    of as never,
  )
}

/** An invoice and its credits that are all charged otherwise, and whose differences give each other back to the last cent, agency by agency. */
async function cure(books: Books, units: readonly string[]): Promise<void> {
  const { rows } = (await books.trx.raw(
    `with member as (
       select u.unit_id, u.number, u.system_id, d.document_id, coalesce(d.credits_document, d.document_id) as head, ${CHARGED_OTHERWISE} as eligible, u.split_stated
       from tie_unit u join source_document d on d.entity_id = u.entity_id and d.system_id = u.system_id and d.document_id = u.document_id
       where u.entity_id = :entity and u.unit_id = any(:units)),
     family as (
       select system_id, head, bool_and(split_stated) as split from member group by 1, 2
       having bool_and(eligible) and count(*) > 1 and bool_or(document_id = head)),
     gap as (
       select f.system_id, f.head, case when f.split then t.agency end as agency, t.currency, sum(case t.voice when 'stated' then t.tax else -t.tax end) as tax
       from family f join member m using (system_id, head) join tax_fact t on t.entity_id = :entity and t.unit_id = m.unit_id and t.voice in ('stated', 'expected') group by 1, 2, 3, 4),
     net as (
       select f.system_id, f.head, t.currency, sum(case t.voice when 'stated' then t.net else -t.net end) as net
       from family f join member m using (system_id, head) join net_fact t on t.entity_id = :entity and t.unit_id = m.unit_id and t.voice in ('stated', 'expected') group by 1, 2, 3)
     select m.unit_id, (select string_agg(o.number, ', ' order by o.number) from member o where o.system_id = m.system_id and o.head = m.head and o.unit_id <> m.unit_id) as others
     from member m join family f using (system_id, head)
     where not exists (select from gap g where g.system_id = f.system_id and g.head = f.head and g.tax <> 0)
       and not exists (select from net n where n.system_id = f.system_id and n.head = f.head and n.net <> 0)`,
    { entity: books.entityId, units } as never,
  )) as { rows: { unit_id: string; others: string }[] }
  await settleAs(
    books,
    'cured',
    rows.map((row) => ({ unit: row.unit_id, with: row.others })),
  )
}

async function keep(books: Books, units: readonly string[]): Promise<void> {
  const { rows } = (await books.trx.raw(
    `select u.unit_id from tie_unit u join kept_difference k on ${KEPT_OF}
     where u.entity_id = :entity and u.unit_id = any(:units) and u.settled is null and k.reviewed_by is not null and k.figures = ${FIGURES} and ${KEEPABLE}`,
    { entity: books.entityId, units } as never,
  )) as { rows: { unit_id: string }[] }
  await settleAs(
    books,
    'kept',
    rows.map((row) => ({ unit: row.unit_id, with: null })),
  )
}

async function settleAs(
  { trx, entityId }: Books,
  how: 'kept' | 'cured',
  settled: readonly { readonly unit: string; readonly with: string | null }[],
): Promise<void> {
  if (settled.length === 0) return
  const of = {
    entity: entityId,
    how,
    units: settled.map((one) => one.unit),
    others: settled.map((one) => one.with),
  }
  await trx.raw(
    `update tie_unit u set settled = :how, settled_with = s.with, astray = u.unproved, astray_net = u.unproved_net, unproved = 0, unproved_net = 0, over = coalesce(g.over, 0), under = coalesce(g.under, 0)
     from unnest(:units::bigint[], :others::text[]) as s (unit_id, "with") left join (${gapsOf('select unnest(:units::bigint[])')}) g on g.unit_id = s.unit_id
     where u.entity_id = :entity and u.unit_id = s.unit_id`,
    of as never,
  )
  await trx.raw(
    'update unproved_share set settled = true where entity_id = :entity and unit_id = any(:units)',
    of as never,
  )
}
