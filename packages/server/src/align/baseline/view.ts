import {
  AGREED_KINDS,
  BASELINE_SHEETS,
  fieldsOfKind,
  isDated,
  type AgreedKind,
  type AgreedObject,
  type AgreedQuery,
  type AgreedView,
  type GridNames,
  type NamedKind,
} from '@axion/contract'
import { lastDayOf, overlappingPlaces, sameRates } from '@axion/core'
import { loadBaseline } from '../../baseline/load.ts'
import { TABLE_OF } from '../../baseline/tables/byKind.ts'
import type { Dated } from '../../baseline/tables/table.ts'
import type { Books } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { loadHeld } from '../../setUp/held.ts'
import { agreedOf, versionOfRow, versionOn, type AgreedOne } from './versions.ts'

/** So many objects are listed at a time, and so many codes offered for what is typed. */
const [PAGE, OFFERED] = [200, 50]

/** What is agreed of a kind, as it stands on the last day of a month. */
export async function agreedView(
  books: Books,
  month: string,
  kind: AgreedKind,
  { search, state, after }: AgreedQuery,
): Promise<AgreedView> {
  const day = lastDayOf(month)
  const all = (await agreedOf(books, kind)).map((one) => ({ one, ...versionOn(one, day) }))
  const among = (wanted: AgreedView['rows'][number]['state']): number =>
    all.filter((each) => each.state === wanted).length
  const words = folded(search ?? '')
  const found = all.filter(
    (each) =>
      (state === undefined || each.state === state) &&
      (words === '' || each.one.versions.some(({ cells }) => bears(cells, words))),
  )
  const begin = after === undefined ? 0 : found.findIndex(({ one }) => one.id === after) + 1
  const page = found.slice(begin, begin + PAGE)
  return {
    kind,
    title: BASELINE_SHEETS[kind].title,
    dated: isDated(kind),
    fields: fieldsOfKind(kind),
    counts: await countsOf(books),
    standing: { holds: among('holds'), coming: among('coming'), ended: among('ended') },
    overlaps: await overlapsOf(books, kind),
    found: found.length,
    rows: page.map(({ one, version: { cells, from, to }, ...each }) => ({
      id: one.id,
      ...{ cells, from, to },
      state: each.state,
      versions: one.versions.length,
    })),
    next: begin + page.length < found.length ? (page.at(-1)?.one.id ?? null) : null,
  }
}

const folded = (text: string): string => text.normalize('NFKC').trim().toLowerCase()

function bears(cells: Readonly<Record<string, string>>, words: string): boolean {
  return Object.values(cells).some((cell) => folded(cell).includes(words))
}

async function countsOf({ trx, entityId }: Books): Promise<AgreedView['counts']> {
  const { rows } = (await trx.raw(
    AGREED_KINDS.map(
      (kind) =>
        `select '${kind}' as kind, count(distinct object_id)::int as n from ${TABLE_OF[kind].table} where entity_id = :e and upper_inf(recorded)`,
    ).join(' union all '),
    { e: entityId },
  )) as { rows: { kind: AgreedKind; n: number }[] }
  return Object.fromEntries(rows.map(({ kind, n }) => [kind, n])) as AgreedView['counts']
}

/** What of a kind is the same twice, so that nobody could say which is meant. */
async function overlapsOf(books: Books, kind: AgreedKind): Promise<AgreedView['overlaps']> {
  if (kind !== 'jurisdictions' && kind !== 'combinedRates') return []
  const { baseline } = await loadBaseline(books)
  return kind === 'jurisdictions'
    ? overlappingPlaces(baseline.jurisdictions)
    : sameRates(baseline.combinedRates)
}

/** An object with all that was ever recorded of it: what stands in the order of its days, then what was believed before, the newest first. */
export async function agreedObject(books: Books, kind: AgreedKind, id: string): Promise<AgreedObject> {
  const { trx, entityId } = books
  const rows = (await trx(TABLE_OF[kind].table)
    .where({ entity_id: entityId, object_id: id })
    .orderByRaw(
      'not upper_inf(recorded), case when upper_inf(recorded) then lower(valid) end nulls first, upper(recorded) desc, lower(valid) nulls first',
    )
    .select(
      '*',
      trx.raw('lower(valid)::text as "from"'),
      trx.raw('(upper(valid) - 1)::text as "to"'),
      trx.raw(`to_json(lower(recorded))#>>'{}' as recorded_from`),
      trx.raw(`to_json(upper(recorded))#>>'{}' as recorded_until`),
    )) as (Dated & { recorded_from: string; recorded_until: string | null })[]
  if (rows.length === 0) throw new Problem('AXION_NOT_FOUND', { what: `${nameOfKind(kind)} ${id}` })
  return {
    kind,
    id,
    versions: rows.map((row) => {
      const { cells, from, to } = versionOfRow(kind, row)
      return {
        ...{ cells, from, to },
        recorded: row.recorded_from,
        until: row.recorded_until === 'infinity' ? null : row.recorded_until,
      }
    }),
  }
}

/** One of a kind, in words. */
export function nameOfKind(kind: AgreedKind): string {
  return TABLE_OF[kind].table.replaceAll('_', ' ')
}

/** Codes that a field may name, found by their code or name: objects of the baseline, or accounts of the ledger. */
export async function agreedNames(books: Books, of: NamedKind, search: string): Promise<GridNames> {
  const words = folded(search)
  const named = of === 'accounts' ? await accountsOf(books) : namedIn(await agreedOf(books, asKind(of)))
  return {
    names: named
      .filter(({ id, name }) => folded(id).includes(words) || folded(name).includes(words))
      .slice(0, OFFERED),
  }
}

function asKind(of: Exclude<NamedKind, 'accounts'>): AgreedKind {
  if (of === 'rules') throw new Problem('AXION_NOT_FOUND', { what: 'such kind that a field may name' })
  return of
}

function namedIn(all: readonly AgreedOne[]): GridNames['names'] {
  return all.map(({ id, versions }) => ({ id, name: versions.at(-1)?.cells['name'] ?? id }))
}

async function accountsOf(books: Books): Promise<GridNames['names']> {
  const ledger = (await loadHeld(books, ['accounts'])).find(({ row }) => row.role === 'ledger')
  return (ledger?.accounts ?? [])
    .map(({ value: { number, name } }) => ({ id: number, name }))
    .sort((a, b) => (a.id < b.id ? -1 : 1))
}
