import type { AlignKind, FindingCode } from '@axion/contract'
import type { Books } from '../../database/connection.ts'

/** What is at stake by the findings that count, in minor units of the base currency: a document counts once in each, at its largest. */
export type Stakes = Readonly<Record<string, string>>

const ALL = ''
const ofCode = (kind: AlignKind, code: FindingCode): string => `${kind} ${code}`

/** Of a month as a whole, of one kind of its findings, or of one code among them. */
export function stakeIn(stakes: Stakes, kind: AlignKind | null, code?: FindingCode): bigint {
  return BigInt(stakes[kind === null ? ALL : code === undefined ? kind : ofCode(kind, code)] ?? '0')
}

/** As they stand with a month's grids, which see to it. */
export async function keptStakes(books: Books, month: string): Promise<Stakes> {
  const row = await books
    .trx('align_built')
    .where({ entity_id: books.entityId, period: month })
    .first('stakes')
  return (row?.stakes as Stakes | null | undefined) ?? summedStakes(books, month)
}

/** From the findings of a month's grids and the shares of its documents. */
export async function summedStakes({ trx, entityId }: Books, month: string): Promise<Stakes> {
  const shares = `cross join lateral (select s.unit_id, s.amount from stake_share s where s.entity_id = :e and s.period = :p and s.finding_key = k.key offset 0) s`
  const { rows } = (await trx.raw(
    `with k as (select distinct kind, unnest(keys) as key from align_row where entity_id = :e and period = :p),
       coded as (select distinct kind, code, finding_key as key from align_finding where entity_id = :e and period = :p and finding_key is not null and left_because is null)
     select '' as of, coalesce(sum(amount), 0)::text as amount from (select s.unit_id, max(s.amount) as amount from (select distinct key from k) k ${shares} group by 1) x
     union all select kind, sum(amount)::text from (select k.kind, s.unit_id, max(s.amount) as amount from k ${shares} group by 1, 2) x group by 1
     union all select kind || ' ' || code, sum(amount)::text from (select k.kind, k.code, s.unit_id, max(s.amount) as amount from coded k ${shares} group by 1, 2, 3) x group by 1`,
    { e: entityId, p: month },
  )) as { rows: { of: string; amount: string }[] }
  return Object.fromEntries(rows.map(({ of, amount }) => [of, amount]))
}
