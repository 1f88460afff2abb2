import {
  FINDING_KINDS,
  wordsOf,
  type AlignKind,
  type FindingCode,
  type FindingKind,
  type GridRow,
  type GridView,
} from '@axion/contract'
import { formatAmount, type Facts } from '@axion/core'
import type { Books, Transaction } from '../../database/connection.ts'
import type { SystemRow } from '../../setUp/held.ts'
import { ensureAligned } from '../build.ts'

export async function findingsOf(
  trx: Transaction,
  here: object,
  rowIds: readonly string[],
  systems: readonly SystemRow[],
): Promise<ReadonlyMap<string, GridRow['findings']>> {
  const rows = (await trx('align_finding')
    .where(here)
    .whereRaw('row_id = any(?)', [[...rowIds]])
    .orderBy(['row_id', 'place'])
    .select('row_id', 'place', 'code', 'severity', 'system_id', 'facts', 'left_because')) as {
    row_id: string
    place: number
    code: FindingCode
    severity: GridRow['findings'][number]['severity']
    system_id: string | null
    facts: Facts
    left_because: GridRow['findings'][number]['left']
  }[]
  const found = new Map<string, GridRow['findings'][number][]>()
  for (const { row_id: id, place, code, severity, system_id: systemId, facts, left_because: left } of rows) {
    const of = found.get(id) ?? []
    of.push({
      key: `${id} ${place}`,
      code,
      severity,
      says: wordsOf(code).says(facts),
      mend: wordsOf(code).mend,
      system: systems.find((s) => s.system_id === systemId)?.name ?? null,
      systemId,
      left,
    })
    found.set(id, of)
  }
  return found
}

/** The findings among the amounts that are no item, by what they are kept under. */
export async function amountFindings(
  { trx, entityId }: Books,
  month: string,
): Promise<ReadonlyMap<string, GridRow['findings']>> {
  const here = { entity_id: entityId, period: month, kind: 'amounts' }
  return findingsOf(trx, here, await trx('align_row').where(here).pluck('row_id'), [])
}

export async function codesOf(
  trx: Transaction,
  here: { readonly entity_id: string; readonly period: string; readonly kind: string },
  currency: string,
): Promise<GridView['byCode']> {
  const counts = (await trx('align_finding')
    .where(here)
    .whereNull('left_because')
    .groupBy('code')
    .select('code', trx.raw('count(*)::int as n'))) as { code: FindingCode; n: number }[]
  const { rows: stakes } = (await trx.raw(
    `select code, sum(amount)::text as stake from (select f.code, s.unit_id, max(s.amount) as amount from align_finding f join stake_share s on s.entity_id = f.entity_id and s.period = f.period and s.finding_key = f.finding_key
       where f.entity_id = :entity_id and f.period = :period and f.kind = :kind and f.left_because is null group by 1, 2) x group by 1`,
    { ...here },
  )) as { rows: { code: string; stake: string }[] }
  const weight = { stops: 2, costs: 1, settle: 0 }
  return counts
    .map(({ code, n }) => ({
      code,
      title: wordsOf(code).title,
      severity: wordsOf(code).severity,
      findings: n,
      amount: BigInt(stakes.find((s) => s.code === code)?.stake ?? '0'),
    }))
    .sort((a, b) =>
      a.amount === b.amount
        ? weight[b.severity] - weight[a.severity] || b.findings - a.findings
        : a.amount < b.amount
          ? 1
          : -1,
    )
    .map(({ amount, ...rest }) => ({ ...rest, stake: formatAmount(amount, currency) }))
}

/** What is at stake by the findings that count, of one kind or of all: a document counts once, at its largest. */
export async function unionOf(
  { trx, entityId }: Books,
  month: string,
  kind: AlignKind | null,
): Promise<bigint> {
  const { rows } = (await trx.raw(
    `select coalesce(sum(amount), 0)::text as amount from (
       select s.unit_id, max(s.amount) as amount
       from (select distinct unnest(keys) as key from align_row where entity_id = :e and period = :month and (:kind::text is null or kind = :kind)) k
         cross join lateral (select s.unit_id, s.amount from stake_share s where s.entity_id = :e and s.period = :month and s.finding_key = k.key offset 0) s
       group by 1) x`,
    { e: entityId, month, kind } as never,
  )) as { rows: { amount: string }[] }
  return BigInt(rows[0]?.amount ?? '0')
}

/** All that is at stake in a month, each document once at its largest. */
export async function stakeOfMonth(books: Books, month: string): Promise<bigint> {
  await ensureAligned(books, month)
  return unionOf(books, month, null)
}

/** How many findings each kind has. */
export async function findingsOfMonth(
  books: Books,
  month: string,
): Promise<Readonly<Record<FindingKind, number>>> {
  const { trx, entityId } = books
  await ensureAligned(books, month)
  const rows = (await trx('align_row')
    .where({ entity_id: entityId, period: month })
    .groupBy('kind')
    .select('kind', trx.raw('sum(findings)::int as n'))) as { kind: FindingKind; n: number }[]
  return Object.fromEntries(
    FINDING_KINDS.map((kind) => [kind, rows.find((r) => r.kind === kind)?.n ?? 0]),
  ) as Record<FindingKind, number>
}
