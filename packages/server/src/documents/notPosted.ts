import { kindsWith, type NotPosted, type NotPostedSum } from '@axion/contract'
import { formatAmount } from '@axion/core'
import type { Books } from '../database/connection.ts'

/** SQL, of a unit, or of what units are summed as: its kind is not posted so far, and it is within its system's scope. `:bought` are kinds of purchases. */
export const NOT_POSTED = {
  all: (u: string) => `not ${u}.posted and ${u}.taken`,
  sold: (u: string) => `not ${u}.posted and ${u}.taken and ${u}.kind <> all(:bought)`,
  bought: (u: string) => `not ${u}.posted and ${u}.taken and ${u}.kind = any(:bought)`,
} as const
export const BOUGHT: readonly string[] = kindsWith((kind) => kind.purchase)

/** What of a month is of kinds that are not posted so far, and what tax its sources stated, in the base currency. */
export async function notPostedOf({ trx, entityId, currency }: Books, month: string): Promise<NotPosted> {
  const { rows } = (await trx.raw(
    `select u.kind = any(:bought) as bought, sum(u.documents)::int as documents, sum(u.stated)::bigint::text as tax from unit_sum u
     where u.entity_id = :e and u.period = :p and ${NOT_POSTED.all('u')} group by 1`,
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
  const row = (await trx('unit_sum as u')
    .where({ 'u.entity_id': entityId, 'u.period': month })
    .whereRaw(NOT_POSTED.all('u'))
    .first(trx.raw('coalesce(sum(u.documents), 0)::int as n'))) as unknown as { n: number }
  return row.n
}
