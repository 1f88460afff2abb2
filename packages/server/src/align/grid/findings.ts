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
import { keptStakes, stakeIn, type Stakes } from './stakes.ts'

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
  here: { readonly entity_id: string; readonly period: string; readonly kind: AlignKind },
  { stakes, currency }: { readonly stakes: Stakes; readonly currency: string },
): Promise<GridView['byCode']> {
  const counts = (await trx('align_finding')
    .where(here)
    .whereNull('left_because')
    .groupBy('code')
    .select('code', trx.raw('count(*)::int as n'))) as { code: FindingCode; n: number }[]
  const weight = { stops: 2, costs: 1, settle: 0 }
  return counts
    .map(({ code, n }) => ({
      code,
      title: wordsOf(code).title,
      severity: wordsOf(code).severity,
      findings: n,
      amount: stakeIn(stakes, here.kind, code),
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

/** All that is at stake in a month, each document once at its largest. */
export async function stakeOfMonth(books: Books, month: string): Promise<bigint> {
  await ensureAligned(books, month)
  return stakeIn(await keptStakes(books, month), null)
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
