import {
  FINDING_KINDS,
  wordsOf,
  NEW_ROW,
  type AlignKind,
  type FindingCode,
  type FindingKind,
  type GridCell,
  type GridNames,
  type GridQuery,
  type GridRow,
  type GridView,
} from '@axion/contract'
import { foldName, formatAmount, type Facts } from '@axion/core'
import { limitsOf } from '../connect/fresh.ts'
import type { Books, Transaction } from '../database/connection.ts'
import { connectedSystems, type SystemRow } from '../setUp/held.ts'
import { ensureAligned } from './build.ts'
import { KINDS } from './kinds/index.ts'

interface StoredRow {
  readonly row_id: string
  readonly extra: GridRow['extra']
  readonly name: string
  readonly grp: string
  readonly detail: string
  readonly total: string
  readonly cells: readonly GridCell[]
  readonly keys: readonly string[]
  readonly stake: string
  readonly documents: number
  readonly shared: boolean
}

const ORDER: Readonly<Record<GridQuery['sort'], string>> = {
  name: 'place',
  stake: 'stake desc, worst desc, place',
  findings: 'findings desc, worst desc, place',
  documents: 'documents desc, place',
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
  const all = (await trx('align_row')
    .where(here)
    .first(
      trx.raw(
        'count(*) filter (where extra is null and row_id <> ?)::int as ours, coalesce(sum(findings), 0)::int as findings, coalesce(sum(clear), 0)::int as clear',
        [NEW_ROW],
      ),
    )) as { ours: number; findings: number; clear: number }
  const inAll = (await trx('align_row')
    .where({ entity_id: entityId, period: month })
    .first(trx.raw('coalesce(sum(clear), 0)::int as clear'))) as unknown as { clear: number }
  const systems = (await connectedSystems(books)).filter((system) =>
    system.about.resources.includes(KINDS[kind].resource),
  )
  const found = await findingsOf(
    trx,
    here,
    rows.map((row) => row.row_id),
    systems,
  )
  const moved = kind === 'accounts' ? await movements(books, month) : new Map<string, string>()
  return {
    kind,
    currency,
    offset: query.offset,
    total: total.n,
    inBaseline: all.ours,
    findings: all.findings,
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
    clearLinks: all.clear,
    clearInAll: inAll.clear,
    stake: formatAmount(await unionOf(books, month, kind), currency),
    byCode: await codesOf(trx, here, currency),
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

/** Only the rows that a filter leaves. */
export function narrowed(
  q: ReturnType<Transaction>,
  { search, only, system, code }: GridQuery,
  here: object,
): void {
  contains(q, search)
  if (only === 'differs') q.where('findings', '>', 0)
  if (only === 'extra') q.whereNotNull('extra')
  const severity = only === 'stops' || only === 'costs' || only === 'settle' ? only : undefined
  if (severity === undefined && system === undefined && code === undefined && only !== 'left') return
  q.whereExists(
    (f) =>
      void f
        .from('align_finding as f')
        .where(
          Object.fromEntries(Object.entries(here).map(([column, value]) => [`f.${column}`, value as string])),
        )
        .whereRaw('f.row_id = align_row.row_id')
        .modify((g) => {
          if (only === 'left') g.whereNotNull('f.left_because')
          else g.whereNull('f.left_because')
          if (severity) g.where('f.severity', severity)
          if (system !== undefined) g.where('f.system_id', system)
          if (code !== undefined) g.where('f.code', code)
        }),
  )
}

/** Every word of the search, anywhere in what is known of a row. */
function contains(q: ReturnType<Transaction>, search: string): void {
  for (const word of foldName(search).split(' ').filter(Boolean))
    q.whereRaw(`search like ?`, [`%${word.replace(/[\\%_]/g, '\\$&')}%`])
}

async function findingsOf(
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
  return findingsOf(trx, here, (await trx('align_row').where(here).pluck('row_id')) as string[], [])
}

async function codesOf(
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
async function unionOf({ trx, entityId }: Books, month: string, kind: AlignKind | null): Promise<bigint> {
  const keys = trx('align_row')
    .where({ entity_id: entityId, period: month })
    .modify((q) => void (kind && q.where({ kind })))
    .select(trx.raw('unnest(keys)'))
  const largest = trx('stake_share')
    .where({ entity_id: entityId, period: month })
    .whereIn('finding_key', keys)
    .groupBy('unit_id')
    .select(trx.raw('max(amount) as amount'))
    .as('x')
  return BigInt(
    (
      (await trx.from(largest).first(trx.raw('coalesce(sum(amount), 0)::text as amount'))) as {
        amount: string
      }
    ).amount,
  )
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

async function columnsOf(
  { trx, entityId }: Books,
  systems: readonly SystemRow[],
  kind: AlignKind,
): Promise<GridView['systems']> {
  const pulls = (await trx('pull')
    .where({ entity_id: entityId, ended: true })
    .whereNull('problem')
    .distinctOn('system_id')
    .orderBy([{ column: 'system_id' }, { column: 'pull_id', order: 'desc' }])) as {
    system_id: string
    finished_at: Date
    pull_id: string
  }[]
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
