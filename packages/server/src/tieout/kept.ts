import type { Columns } from '../database/row.ts'
import type { KeptSums, KeptView } from '@axion/contract'
import { formatAmount } from '@axion/core'
import { audit } from '../audit/audit.ts'
import type { Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { FIGURES, gapsOf, KEEPABLE, KEPT_OF } from '../proof/settle.ts'

/** A keeping that holds still: the figures are those that it was kept for. */
const HOLDS = `k.figures = ${FIGURES} and ${KEEPABLE}`
const KEPT_WITH_UNIT = `kept_difference k join tie_unit u on ${KEPT_OF}`

type Keepable = Columns<
  'kept_difference',
  'system_id' | 'what' | 'object_id' | 'number' | 'figures' | 'over' | 'under'
>

/** What of a cause can be kept as it is: documents of which the ledger has what was charged, and entries that somebody can name. */
async function keepable({ trx, entityId }: Books, month: string, cause: string): Promise<Keepable[]> {
  const { rows } = (await trx.raw(
    `with chosen as (select u.unit_id, u.system_id, case when u.document_id is null then 'entry' else 'document' end as what, coalesce(u.document_id, u.entry_id) as object_id, u.number, ${FIGURES} as figures from tie_unit u
       where u.entity_id = :entity and u.period = :month and u.cause = :cause and ${KEEPABLE})
     select c.*, coalesce(g.over, 0)::text as over, coalesce(g.under, 0)::text as under from chosen c left join (${gapsOf('select unit_id from chosen')}) g using (unit_id)
     where not exists (select from kept_difference k where k.entity_id = :entity and k.system_id = c.system_id and k.what = c.what and k.object_id = c.object_id and k.figures = c.figures)
     order by c.number`,
    { entity: entityId, month, cause },
  )) as { rows: Keepable[] }
  return rows
}

const total = (amounts: readonly string[]): bigint =>
  amounts.reduce((sum, amount) => sum + BigInt(amount), 0n)

/** What keeping the differences of a cause would set apart: too much has to be remitted, too little is still owed. */
export async function previewKeeping(
  books: Books,
  month: string,
  cause: string,
): Promise<{ documents: number; over: string; under: string; currency: string; revision: string }> {
  const { currency } = books
  const rows = await keepable(books, month, cause)
  return {
    documents: rows.length,
    over: formatAmount(total(rows.map((row) => row.over)), currency),
    under: formatAmount(total(rows.map((row) => row.under)), currency),
    currency,
    revision: revisionOf(rows),
  }
}

function revisionOf(rows: readonly Keepable[]): string {
  return rows
    .map((row) => row.figures)
    .join('')
    .slice(0, 2000)
}

/** Keeps them, with the reason. They count on until somebody else has reviewed them. */
export async function keepDifferences(
  books: Books,
  month: string,
  person: string,
  { cause, reason, revision }: { readonly cause: string; readonly reason: string; readonly revision: string },
): Promise<number> {
  const { trx, entityId } = books
  const rows = await keepable(books, month, cause)
  if (rows.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'keep' })
  if (revisionOf(rows) !== revision) throw new Problem('AXION_STALE', { what: 'This cause' })
  const { base_currency: currency } = (await trx('legal_entity')
    .where({ entity_id: entityId })
    .first('base_currency')) as { base_currency: string }
  for (const { system_id, what, object_id, number, figures, over, under } of rows) {
    const row = {
      period: month,
      number,
      figures,
      over,
      under,
      reason,
      kept_by: person,
      kept_at: trx.fn.now(),
      reviewed_by: null,
      reviewed_at: null,
    }
    await trx('kept_difference')
      .insert({ entity_id: entityId, system_id, what, object_id, ...row })
      .onConflict(['entity_id', 'system_id', 'what', 'object_id'])
      .merge(row)
    const written = {
      over: formatAmount(BigInt(over), currency),
      under: formatAmount(BigInt(under), currency),
    }
    await audit(trx, 'kept-difference', number, { after: { ...written, currency, reason } })
  }
  return rows.length
}

interface Held {
  readonly unit: string
  readonly number: string
  readonly party: string
  readonly over: string
  readonly under: string
  readonly reason: string | null
  readonly kept_by: string | null
  readonly kept_at: Date | null
  readonly reviewed_by: string | null
  readonly reviewed_at: Date | null
  readonly settled_with: string | null
}

/** What is settled in a month, and what waits for its review, the largest first. */
export async function keptView({ trx, entityId, currency }: Books, month: string): Promise<KeptView> {
  const { rows } = (await trx.raw(
    `select * from (
       select u.named as unit, u.number, u.party, k.over::text as over, k.under::text as under, k.reason, k.kept_by, k.kept_at, k.reviewed_by, k.reviewed_at, null as settled_with, u.document_date
       from ${KEPT_WITH_UNIT} where k.entity_id = :entity and u.period = :month and coalesce(u.settled, '') <> 'cured' and ${HOLDS}
       union all
       select u.named, u.number, u.party, u.over::text, u.under::text, null, null, null, null, null, u.settled_with, u.document_date
       from tie_unit u where u.entity_id = :entity and u.period = :month and u.settled = 'cured') x
     order by (reviewed_by is null and kept_by is not null) desc, greatest(over::bigint, under::bigint) desc, document_date, number`,
    { entity: entityId, month },
  )) as { rows: Held[] }
  const text = (amount: string): string => formatAmount(BigInt(amount), currency)
  return {
    currency,
    documents: rows.map((row) => ({
      unit: row.unit,
      number: row.number,
      party: row.party,
      over: text(row.over),
      under: text(row.under),
      kept:
        row.reason === null || row.kept_by === null || row.kept_at === null
          ? null
          : {
              reason: row.reason,
              by: row.kept_by,
              at: row.kept_at.toISOString(),
              reviewedBy: row.reviewed_by,
              reviewedAt: row.reviewed_at?.toISOString() ?? null,
            },
      givenBackWith: row.settled_with,
    })),
  }
}

/** What stands apart in a month: it is no part of what is not proved, nor proved. */
export async function keptSums({ trx, entityId, currency }: Books, month: string): Promise<KeptSums> {
  const { rows } = (await trx.raw(
    `select coalesce(sum(documents) filter (where settled = 'kept'), 0)::int as kept, coalesce(sum(documents) filter (where settled = 'cured'), 0)::int as cured,
       coalesce(sum(over), 0)::bigint::text as over, coalesce(sum(under), 0)::bigint::text as under,
       (select count(*)::int from ${KEPT_WITH_UNIT} where k.entity_id = :entity and u.period = :month and k.reviewed_by is null and ${HOLDS}) as waiting
     from unit_sum where entity_id = :entity and period = :month and posted and settled <> ''`,
    { entity: entityId, month },
  )) as { rows: { kept: number; cured: number; over: string; under: string; waiting: number }[] }
  const row = rows[0]
  const text = (amount: string | undefined): string => formatAmount(BigInt(amount ?? '0'), currency)
  return {
    kept: row?.kept ?? 0,
    cured: row?.cured ?? 0,
    over: text(row?.over),
    under: text(row?.under),
    waiting: row?.waiting ?? 0,
  }
}

/**
 * Agrees to what somebody else keeps, or takes it back.
 * @returns the documents that it concerned
 */
export async function reviewKept(
  { trx, entityId }: Books,
  month: string,
  person: string,
  { units, agree }: { readonly units: readonly string[]; readonly agree: boolean },
): Promise<number> {
  const { rows } = (await trx.raw(
    `select k.system_id, k.what, k.object_id, k.number, k.kept_by, k.reviewed_by from ${KEPT_WITH_UNIT}
     where k.entity_id = :entity and u.period = :month and u.named = any(:units) ${agree ? `and k.reviewed_by is null and ${HOLDS}` : ''} order by k.number`,
    { entity: entityId, month, units } as never,
  )) as { rows: Columns<'kept_difference', 'system_id' | 'what' | 'object_id' | 'number' | 'kept_by'>[] }
  if (rows.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: agree ? 'agree to' : 'take back' })
  const own = rows.find((row) => row.kept_by === person)
  if (agree && own) throw new Problem('AXION_OWN_REVIEW', { document: own.number })
  for (const { system_id, what, object_id, number } of rows) {
    const row = trx('kept_difference').where({ entity_id: entityId, system_id, what, object_id })
    if (agree) await row.update({ reviewed_by: person, reviewed_at: trx.fn.now() })
    else await row.delete()
    await audit(trx, agree ? 'agreed-to-kept' : 'took-back-kept', number)
  }
  return rows.length
}
