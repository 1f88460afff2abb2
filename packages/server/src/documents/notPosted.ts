import { kindsWith, type NotPosted, type NotPostedSum } from '@axion/contract'
import { formatAmount } from '@axion/core'
import type { Books } from '../database/connection.ts'

/** SQL, of a unit `u`: its kind is not posted so far, and it is within its system's scope. `:bought` are kinds of purchases. */
export const NOT_POSTED = {
  all: 'not u.posted and u.taken',
  sold: 'not u.posted and u.taken and u.kind <> all(:bought)',
  bought: 'not u.posted and u.taken and u.kind = any(:bought)',
} as const
export const BOUGHT: readonly string[] = kindsWith((kind) => kind.purchase)

/** What of a month is of kinds that are not posted so far, and what tax its sources stated, in the base currency. */
export async function notPostedOf({ trx, entityId, currency }: Books, month: string): Promise<NotPosted> {
  const { rows } = (await trx.raw(
    `select u.kind = any(:bought) as bought, count(*)::int as documents, coalesce(sum(t.tax), 0)::bigint::text as tax from unit u
     left join lateral (select sum(f.in_base) as tax from tax_fact f where f.entity_id = u.entity_id and f.unit_id = u.unit_id and f.voice = 'stated') t on true
     where u.entity_id = :e and u.period = :p and ${NOT_POSTED.all} group by 1`,
    { e: entityId, p: month, bought: [...BOUGHT] },
  )) as { rows: { bought: boolean; documents: number; tax: string }[] }
  const of = (bought: boolean): NotPostedSum => {
    const row = rows.find((one) => one.bought === bought)
    return { documents: row?.documents ?? 0, tax: formatAmount(BigInt(row?.tax ?? '0'), currency) }
  }
  return { sold: of(false), bought: of(true) }
}

/** How many documents of a month are of kinds that are not posted so far. */
export async function countNotPosted({ trx, entityId }: Books, month: string): Promise<number> {
  const row = (await trx('unit as u')
    .where({ 'u.entity_id': entityId, 'u.period': month })
    .whereRaw(NOT_POSTED.all)
    .first(trx.raw('count(*)::int as n'))) as unknown as { n: number }
  return row.n
}
