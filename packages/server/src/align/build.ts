import type { Columns } from '../database/row.ts'
import {
  ALIGN_KINDS,
  SEVERITIES,
  type AlignKind,
  type FindingCode,
  type FindingKind,
  type GridObject,
  type Severity,
} from '@axion/contract'
import { foldName, groupBy, lastDayOf } from '@axion/core'
import { loadBaseline } from '../baseline/load.ts'
import { inOrder, noteGrown, waitFor, type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { insertRows } from '../database/insert.ts'
import type { Clock } from '../setUp/clock.ts'
import { crosswalk } from '../setUp/crosswalk.ts'
import { ALL_SET_UP, loadHeld } from '../setUp/held.ts'
import { buildRows } from './grid/rows.ts'
import { summedStakes } from './grid/stakes.ts'
import type { BuiltRow } from './grid/column.ts'
import { KINDS, type GridBasis } from './kinds/index.ts'
import { purposesOf } from './purposes.ts'
import { noteAmounts } from './rules/amounts.ts'

/**
 * Sees to it that a month's grids stand as they should: worked out from the set-up and the baseline, with what is at stake by the
 * month's documents. Does nothing where neither moved since. Grids are kept as rows, so that opening one and filtering it is a query.
 */
export async function ensureAligned(books: Books, month: string): Promise<void> {
  const { trx, entityId } = books
  const state = async (): Promise<{ clock: Clock; built: Clock | undefined }> => ({
    clock: (await trx('align_clock').where({ entity_id: entityId }).first('set_up', 'facts')) ?? {
      set_up: '0',
      facts: '0',
    },
    built: await trx('align_built').where({ entity_id: entityId, period: month }).first('set_up', 'facts'),
  })
  const before = await state()
  if (isFresh(before)) return
  await waitFor(books, `grids ${month}`)
  const now = await state()
  if (isFresh(now)) return
  if (now.built?.set_up !== now.clock.set_up) await rebuild(books, month)
  await refreshStakes(books, month)
  await trx('align_built')
    .insert({
      entity_id: entityId,
      period: month,
      ...now.clock,
      stakes: json(await summedStakes(books, month)),
    })
    .onConflict(['entity_id', 'period'])
    .merge()
}

function isFresh({ clock, built }: { readonly clock: Clock; readonly built: Clock | undefined }): boolean {
  return built?.set_up === clock.set_up && built.facts === clock.facts
}

/** The baseline and what every system holds, side by side, as they stand now. */
export async function basisOf(books: Books, month: string): Promise<GridBasis> {
  const index = await loadBaseline(books)
  const date = lastDayOf(month)
  return {
    index,
    date,
    purposes: await purposesOf(books),
    systems: (await loadHeld(books, ALL_SET_UP)).map((held) => ({
      held,
      crosswalk: crosswalk(held, index, date),
    })),
  }
}

async function rebuild(books: Books, month: string): Promise<void> {
  const { trx, entityId } = books
  const basis = await basisOf(books, month)
  for (const table of ['align_row', 'align_finding'])
    await trx(table).where({ entity_id: entityId, period: month }).delete()
  await inOrder(ALIGN_KINDS, (kind) => write(books, month, kind, buildRows(basis, KINDS[kind])))
  noteGrown(trx, 'grids')
}

async function write(
  { trx, entityId }: Books,
  month: string,
  kind: AlignKind,
  rows: readonly BuiltRow[],
): Promise<void> {
  const here = { entity_id: entityId, period: month, kind }
  const borne = groupBy(
    rows.filter((row) => !row.extra),
    (row) => row.name,
  )
  const left = new Map(
    ((await trx('align_left').where({ entity_id: entityId, kind })) as LeftRow[]).map((l) => [
      `${l.row_id}|${l.code}|${l.system_id}`,
      { reason: l.reason, person: l.person, at: l.at.toISOString() },
    ]),
  )
  const findings = rows.flatMap((row) =>
    row.findings.map((f, place) => ({
      ...here,
      row_id: row.id,
      place,
      code: f.code,
      severity: f.severity,
      system_id: f.systemId,
      finding_key: f.key,
      facts: f.facts,
      left_because: left.get(`${row.id}|${f.code}|${f.systemId ?? ''}`) ?? null,
    })),
  )
  const open = groupBy(
    findings.filter((finding) => finding.left_because === null),
    (finding) => finding.row_id,
  )
  await insertRows(
    trx,
    'align_row',
    rows.map((row, place) => ({
      ...here,
      row_id: row.id,
      place,
      shared: !row.extra && (borne.get(row.name) ?? []).length > 1,
      extra: row.extra,
      name: row.name,
      grp: row.group,
      detail: row.detail,
      total: row.total,
      cells: row.cells,
      search: searchText(row),
      ...countOf(open.get(row.id) ?? []),
      stake: '0',
      documents: 0,
      clear: row.extra
        ? 0
        : row.cells.filter(({ objects }) => isOneClear(objects.filter(({ gone }) => !gone))).length,
    })),
  )
  await insertRows(trx, 'align_finding', findings)
}

/** What a row's own findings come to, as `countFindings` counts those of one that was written before. */
function countOf(open: readonly { readonly severity: Severity; readonly finding_key: string | null }[]): {
  readonly findings: number
  readonly worst: number
  readonly keys: readonly string[]
} {
  const last = SEVERITIES.length - 1
  return {
    findings: open.length,
    worst: Math.max(-1, ...open.map(({ severity }) => last - SEVERITIES.indexOf(severity))),
    keys: [...new Set(open.flatMap(({ finding_key: key }) => key ?? []))],
  }
}

type LeftRow = Columns<'align_left', 'row_id' | 'code' | 'system_id' | 'reason' | 'person' | 'at'>

/** A row's findings, how bad they are, and by what keys they put tax at stake: those that nobody left with a reason. */
export async function countFindings(
  { trx, entityId }: Books,
  month: string,
  { kind, rowId }: { readonly kind: FindingKind; readonly rowId: string },
): Promise<void> {
  await trx.raw(
    `update align_row r set findings = f.n, worst = f.worst, keys = f.keys
     from (select count(*) as n, coalesce(max(array_position(:severities::text[], severity) - 1), -1) as worst, coalesce(array_agg(distinct finding_key) filter (where finding_key is not null), '{}') as keys
       from align_finding where entity_id = :entity and period = :month and kind = :kind and row_id = :row and left_because is null) f
     where r.entity_id = :entity and r.period = :month and r.kind = :kind and r.row_id = :row`,
    { entity: entityId, month, kind, row: rowId, severities: [...SEVERITIES].reverse() },
  )
  await trx('align_built').where({ entity_id: entityId, period: month }).update({ stakes: null })
}

/** What a search looks into: names, codes and what systems call a thing, folded. */
function searchText({ id, name, group, detail, total, cells }: BuiltRow): string {
  return foldName(
    [
      id,
      name,
      group,
      detail,
      total,
      ...cells.flatMap((cell) => [cell.words, ...cell.objects.flatMap((o) => [o.id, o.name])]),
    ].join(' '),
  )
}

/** What is at stake by each row's findings, a document counted once at its largest; and how many documents each row touches. */
async function refreshStakes(books: Books, month: string): Promise<void> {
  await noteSales(books, month)
  await noteAmounts(books, month)
  await put(books, month, 'stake', STAKED)
  await put(books, month, 'documents', TOUCHED)
}

const STAKED = `
  with own as (select kind, row_id, unnest(keys) as finding_key from align_row where entity_id = :e and period = :p),
    largest as (select o.kind, o.row_id, s.unit_id, max(s.amount) as amount from own o join stake_share s on s.entity_id = :e and s.period = :p and s.finding_key = o.finding_key group by 1, 2, 3)
  select kind, row_id, sum(amount) as n from largest group by 1, 2`

const TOUCHED = `
  with counted as (select split_part(touch, '|', 1) as kind, substr(touch, strpos(touch, '|') + 1) as row_id, documents from touch_sum where entity_id = :e and period = :p)
  select kind, row_id, sum(documents) as n from (
    select kind, row_id, documents from counted
    union all select 'accounts', 'tax ' || row_id, documents from counted where kind = 'agencies'
    union all select 'methods', coalesce(l.baseline_id, h.value->>'code'), count(*) from held_record r
      join held_object h on h.entity_id = r.entity_id and h.system_id = r.system_id and h.resource = 'payment-methods' and h.object_id = r.value->>'paymentMethodId'
      left join link l on l.entity_id = r.entity_id and l.system_id = r.system_id and l.kind = 'payment-method' and l.object_id = h.object_id
      where r.entity_id = :e and r.period = :p and r.resource = 'settlements' and not r.removed group by 2) x
  where row_id is not null group by 1, 2`

/** Findings that documents give rise to, and not the set-up: sales to a party without a certificate, or taxed in spite of one. */
async function noteSales(books: Books, month: string): Promise<void> {
  const { trx, entityId } = books
  const here = { e: entityId, p: month, codes: SALES_CODES }
  const { rows: before } = (await trx.raw(
    'delete from align_finding where entity_id = :e and period = :p and code = any(:codes) returning row_id',
    here,
  )) as { rows: { row_id: string }[] }
  const { rows: after } = (await trx.raw(
    `insert into align_finding (entity_id, period, kind, row_id, place, code, severity, system_id, finding_key, facts, left_because)
     select r.entity_id, r.period, r.kind, r.row_id, 900 + (s.code = :second)::int, s.code, 'costs', null, s.finding_key, jsonb_build_object('name', r.name),
       (select jsonb_build_object('reason', l.reason, 'person', l.person, 'at', l.at) from align_left l where l.entity_id = r.entity_id and l.kind = r.kind and l.row_id = r.row_id and l.code = s.code and l.system_id = '')
     from (select distinct finding_key, split_part(finding_key, '|', 3) as party, case split_part(finding_key, '|', 4) when 'without' then :first else :second end as code from stake_share where entity_id = :e and period = :p and starts_with(finding_key, 'sales|party|')) s
       join align_row r on r.entity_id = :e and r.period = :p and r.kind = 'parties' and r.row_id = s.party returning row_id`,
    { ...here, first: SALES_CODES[0], second: SALES_CODES[1] },
  )) as { rows: { row_id: string }[] }
  for (const rowId of new Set([...before, ...after].map((row) => row.row_id)))
    await countFindings(books, month, { kind: 'parties', rowId })
}

const SALES_CODES: readonly [FindingCode, FindingCode] = [
  'AXION_SALES_WITHOUT_CERTIFICATE',
  'AXION_SALES_TAXED_IN_SPITE',
]

/** @param sums SQL of what rows come to, by kind and row; of others it is nothing */
async function put(
  { trx, entityId }: Books,
  month: string,
  column: 'stake' | 'documents',
  sums: string,
): Promise<void> {
  const here = { e: entityId, p: month }
  await trx.raw(
    `update align_row r set ${column} = s.n from (${sums}) s
     where r.entity_id = :e and r.period = :p and r.kind = s.kind and r.row_id = s.row_id and r.${column} <> s.n`,
    here,
  )
  await trx.raw(
    `update align_row r set ${column} = 0 where r.entity_id = :e and r.period = :p and r.${column} <> 0 and (r.kind, r.row_id) not in (select kind, row_id from (${sums}) s)`,
    here,
  )
}

/** One object stands for the row, and clearly so. */
function isOneClear(objects: readonly GridObject[]): boolean {
  return objects.length === 1 && objects[0]?.clear === true
}
