import type { Columns } from '../../database/row.ts'
import {
  NEW_ROW,
  type AlignKind,
  type GridCell,
  type GridNames,
  type GridQuery,
  type GridRow,
  type GridView,
} from '@axion/contract'
import { formatAmount } from '@axion/core'
import { limitsOf } from '../../connect/fresh.ts'
import type { Books } from '../../database/connection.ts'
import { connectedSystems, type SystemRow } from '../../setUp/held.ts'
import { ensureAligned } from '../build.ts'
import { KINDS } from '../kinds/index.ts'
import { codesOf, findingsOf } from './findings.ts'
import { keptStakes, stakeIn } from './stakes.ts'

import { contains, narrowed, ORDER } from './narrowed.ts'

interface StoredRow extends Columns<
  'align_row',
  | 'row_id'
  | 'extra'
  | 'name'
  | 'grp'
  | 'detail'
  | 'total'
  | 'cells'
  | 'keys'
  | 'stake'
  | 'documents'
  | 'shared'
> {
  readonly extra: GridRow['extra']
  readonly cells: readonly GridCell[]
}

/** The agreement grid: one row a baseline object, one column a system, the cell saying what that system holds; so many rows of it as were asked for. */
export async function agreementGrid(
  books: Books,
  month: string,
  kind: AlignKind,
  query: GridQuery,
): Promise<GridView> {
  const { trx, entityId, currency } = books
  await ensureAligned(books, month)
  const here = { entity_id: entityId, period: month, kind }
  const filtered = trx('align_row')
    .where(here)
    .modify((q) => void narrowed(q, query, here))
  const rows = (await filtered
    .clone()
    .orderByRaw(ORDER[query.sort])
    .offset(query.offset)
    .limit(query.limit)
    .select(
      'row_id',
      'extra',
      'name',
      'grp',
      'detail',
      'total',
      'cells',
      'keys',
      'stake',
      'documents',
      'shared',
    )) as StoredRow[]
  const total = (await filtered.clone().first(trx.raw('count(*)::int as n'))) as { n: number }
  const systems = (await connectedSystems(books)).filter((system) =>
    system.about.resources.includes(KINDS[kind].resource),
  )
  const found = await findingsOf(
    trx,
    here,
    rows.map((row) => row.row_id),
    systems,
  )
  const stakes = await keptStakes(books, month)
  const moved = kind === 'accounts' ? await movements(books, month) : new Map<string, string>()
  return {
    kind,
    currency,
    offset: query.offset,
    total: total.n,
    ...(await countsOf(books, month, kind)),
    rows: rows.map((row) => ({
      id: row.row_id,
      extra: row.extra,
      name: row.name,
      shared: row.shared,
      group: row.grp,
      detail: row.detail,
      total: row.total,
      cells: row.cells,
      findings: found.get(row.row_id) ?? [],
      keys: row.keys.join(','),
      documents: row.documents,
      stake: formatAmount(BigInt(row.stake), currency),
      moved: moved.get(row.total) ?? null,
    })),
    systems: await columnsOf(books, systems, kind),
    limits: await limitsOf(books, systems, KINDS[kind].resource),
    stake: formatAmount(stakeIn(stakes, kind), currency),
    byCode: await codesOf(trx, here, { stakes, currency }),
  }
}

/** A kind's rows, findings and clear links, whatever is looked for, and the clear links of all kinds together. */
async function countsOf(
  { trx, entityId }: Books,
  month: string,
  kind: AlignKind,
): Promise<Pick<GridView, 'inBaseline' | 'findings' | 'clearLinks' | 'clearInAll'>> {
  const rows = trx('align_row').where({ entity_id: entityId, period: month })
  const own = (await rows
    .clone()
    .where({ kind })
    .first(
      trx.raw(
        'count(*) filter (where extra is null and row_id <> ?)::int as ours, coalesce(sum(findings), 0)::int as findings, coalesce(sum(clear), 0)::int as clear',
        [NEW_ROW],
      ),
    )) as { ours: number; findings: number; clear: number }
  const all = (await rows.first(trx.raw('coalesce(sum(clear), 0)::int as clear'))) as { clear: number }
  return {
    inBaseline: own.ours,
    findings: own.findings,
    clearLinks: own.clear,
    clearInAll: all.clear,
  }
}

/** What each account of the ledger moved in a month, credits counting up. */
async function movements(
  { trx, entityId, currency }: Books,
  month: string,
): Promise<ReadonlyMap<string, string>> {
  // What the ledger has and says no balance of moved nothing.
  const { rows } = (await trx.raw(
    `select distinct h.value->>'number' as account, coalesce(b.closing - b.opening, 0)::text as moved from held_object h join system s using (entity_id, system_id)
     left join ledger_balance b on b.entity_id = h.entity_id and b.system_id = h.system_id and b.account = h.value->>'number' and b.period = :month
     where h.entity_id = :entityId and h.resource = 'accounts' and not h.removed and s.role = 'ledger' and s.disconnected_at is null`,
    { entityId, month },
  )) as { rows: { account: string; moved: string }[] }
  return new Map(rows.map((row) => [row.account, formatAmount(BigInt(row.moved), currency)]))
}

/** The names of a kind's rows in the baseline, for a choice of what an object is: those that a search finds. */
export async function gridNames(
  books: Books,
  month: string,
  kind: AlignKind,
  search: string,
): Promise<GridNames> {
  await ensureAligned(books, month)
  const rows = await books
    .trx('align_row')
    .where({ entity_id: books.entityId, period: month, kind })
    .whereNull('extra')
    .whereNot('row_id', NEW_ROW)
    .modify((q) => void contains(q, search))
    .orderBy('place')
    .limit(100)
    .select('row_id as id', 'name')
  return { names: rows as GridNames['names'] }
}

async function columnsOf(
  { trx, entityId }: Books,
  systems: readonly SystemRow[],
  kind: AlignKind,
): Promise<GridView['systems']> {
  const pulls = await trx('pull')
    .where({ entity_id: entityId, ended: true })
    .whereNull('problem')
    .distinctOn('system_id')
    .orderBy([{ column: 'system_id' }, { column: 'pull_id', order: 'desc' }])
  const changes = (await trx('held_change')
    .where({ entity_id: entityId })
    .whereIn(
      'pull_id',
      pulls.map((p) => p.pull_id),
    )
    .where({ resource: KINDS[kind].resource, kind: 'changed' })
    .groupBy('system_id')
    .select('system_id', trx.raw('count(*)::int as n'))) as { system_id: string; n: number }[]
  return systems.map(({ system_id: id, name, role, about }) => ({
    id,
    name,
    role,
    webAddress: about.webAddress,
    pulledAt: pulls.find((p) => p.system_id === id)?.finished_at.toISOString() ?? null,
    changes: changes.find((c) => c.system_id === id)?.n ?? 0,
  }))
}
