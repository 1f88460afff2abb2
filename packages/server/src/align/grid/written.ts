import {
  ALIGN_KINDS,
  SEVERITIES,
  type AlignKind,
  type GridObject,
  type LinkKind,
  type Severity,
} from '@axion/contract'
import { foldName, groupBy } from '@axion/core'
import { inOrder, noteGrown, type Books } from '../../database/connection.ts'
import { insertRows } from '../../database/insert.ts'
import type { Columns } from '../../database/row.ts'
import { claimedBy } from '../../setUp/crosswalk.ts'
import { KINDS, type GridBasis } from '../kinds/index.ts'
import type { Moved } from '../moved.ts'
import { extraId, type BuiltRow } from './column.ts'
import { buildRows, type Concerned } from './rows.ts'

/** The grids that a link of a kind has a say in as a whole; of items and parties there are many, and each of their links has its own rows alone. */
const WHOLE: Readonly<Record<LinkKind, readonly AlignKind[]>> = {
  agency: ['agencies', 'rates'],
  'combined-rate': ['rates'],
  'item-tax-code': ['codes', 'items'],
  item: [],
  party: [],
  'payment-method': ['methods'],
  location: ['locations'],
  dimension: ['dimensions'],
}
const BY_ROWS = [
  ['items', 'item'],
  ['parties', 'party'],
] as const satisfies readonly (readonly [AlignKind, LinkKind])[]

/**
 * Works a month's grids out, and keeps their rows.
 * @param moved the links that alone moved since they were last worked out: only what these concern is; null for all of them
 */
export async function writeGrids(
  books: Books,
  month: string,
  { basis, moved }: { readonly basis: GridBasis; readonly moved: readonly Moved[] | null },
): Promise<void> {
  const kinds =
    moved === null
      ? ALIGN_KINDS
      : ALIGN_KINDS.filter((one) => moved.some(({ kind }) => WHOLE[kind].includes(one)))
  await inOrder(kinds, async (kind) => {
    await forget(books, month, kind)
    await write(books, month, kind, buildRows(basis, KINDS[kind]))
  })
  for (const [kind, link] of BY_ROWS) {
    const own = (moved ?? []).flatMap((one) => movedOf(basis, link, one))
    if (own.length === 0 || kinds.includes(kind)) continue
    const concerned = concernedBy(basis, link, own)
    await forget(books, month, kind, [...concerned.rows, ...concerned.extras])
    await write(books, month, kind, buildRows(basis, KINDS[kind], concerned))
  }
  if (moved === null) noteGrown(books.trx, 'grids')
}

/** What of a kind a link moved: the object that was linked; of parties also those that fall back on a rate that was. */
function movedOf({ systems }: GridBasis, kind: LinkKind, moved: Moved): readonly Moved[] {
  if (moved.kind === kind) return [moved]
  if (kind !== 'party' || moved.kind !== 'combined-rate') return []
  const held = systems.find((one) => one.held.row.system_id === moved.systemId)?.held
  return (held?.parties ?? [])
    .filter(({ value }) => value.defaultTaxRateId === moved.objectId)
    .map(({ id: objectId }) => ({ kind, systemId: moved.systemId, objectId, stoodFor: [] }))
}

/** The rows that an object stands for, stood for or may stand for, and what else in its system may stand for these. */
function concernedBy({ systems }: GridBasis, kind: LinkKind, moved: readonly Moved[]): Concerned {
  const of = groupBy(moved, ({ systemId }) => systemId)
  const concerned = systems.filter(({ held }) => of.has(held.row.system_id))
  const rows = new Set(moved.flatMap(({ stoodFor }) => stoodFor))
  for (const { held, crosswalk } of concerned)
    for (const { objectId } of of.get(held.row.system_id) ?? [])
      for (const id of crosswalk.claimsOf(kind, objectId)) rows.add(id)
  const extras = new Set(moved.map(({ systemId, objectId }) => extraId(systemId, objectId)))
  for (const { held, crosswalk } of concerned)
    for (const match of crosswalk.of(kind))
      if (claimedBy(match).some((id) => rows.has(id))) extras.add(extraId(held.row.system_id, match.objectId))
  return { rows, extras }
}

async function forget(
  { trx, entityId }: Books,
  month: string,
  kind: AlignKind,
  ids?: readonly string[],
): Promise<void> {
  for (const table of ['align_row', 'align_finding'] as const)
    await trx(table)
      .where({ entity_id: entityId, period: month, kind })
      .modify((q) => void (ids === undefined || q.whereRaw('row_id = any(?)', [[...ids]])))
      .delete()
}

async function write(
  { trx, entityId }: Books,
  month: string,
  kind: AlignKind,
  rows: readonly BuiltRow[],
): Promise<void> {
  const here = { entity_id: entityId, period: month, kind }
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
    rows.map((row) => ({
      ...here,
      row_id: row.id,
      place: row.place,
      shared: row.shared,
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

/** One object stands for the row, and clearly so. */
function isOneClear(objects: readonly GridObject[]): boolean {
  return objects.length === 1 && objects[0]?.clear === true
}
