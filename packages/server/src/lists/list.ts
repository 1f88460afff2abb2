import type { ListQuery } from '@axion/contract'
import { parseAmount } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'

/**
 * A list of documents: one filter, paged by key, that also selects all of what it finds and sends it out. What is listed is SQL that
 * gives at least unit, system_id, kind, document_date, number, party and the amount that it is filtered by.
 */
export interface Listed {
  readonly sql: string
  readonly bindings: Readonly<Record<string, unknown>>
  /** Further conditions on its columns. */
  readonly where: readonly string[]
  /** The column that least and most are about, in minor units. */
  readonly amount: string
  /** What it can be ordered by: never null, with the type that a key is read back as. */
  readonly sorts: Readonly<
    Record<string, { readonly by: string; readonly type: 'text' | 'numeric' | 'date' }>
  >
  readonly usual: { readonly sort: string; readonly down: boolean }
}

export interface ListPage<R> {
  readonly rows: readonly R[]
  readonly total: number
  /** What the next page comes after; null where this is the last. */
  readonly next: string | null
}

type Narrowing = Partial<Pick<ListQuery, 'search' | 'system' | 'kind' | 'from' | 'to' | 'least' | 'most'>>

/** The listed rows that a filter finds, as SQL of its own. */
export function narrowed(
  listed: Listed,
  query: Narrowing,
  currency: string,
): { readonly sql: string; readonly bindings: Record<string, unknown> } {
  const units = (text: string): string => parseAmount(text, currency).toString()
  const conditions = [
    ...listed.where,
    ...(query.search ? ['(l.number ilike :l_search or l.party ilike :l_search)'] : []),
    ...(query.system ? ['l.system_id = :l_system'] : []),
    ...(query.kind ? ['l.kind = :l_kind'] : []),
    ...(query.from ? ['l.document_date >= :l_from::date'] : []),
    ...(query.to ? ['l.document_date <= :l_to::date'] : []),
    ...(query.least ? [`abs(${listed.amount}) >= :l_least::numeric`] : []),
    ...(query.most ? [`abs(${listed.amount}) <= :l_most::numeric`] : []),
  ]
  return {
    sql: `select l.* from (${listed.sql}) l ${conditions.length === 0 ? '' : `where ${conditions.join(' and ')}`}`,
    bindings: {
      ...listed.bindings,
      l_search: `%${(query.search ?? '').replace(/[\\%_]/g, '\\$&')}%`,
      l_system: query.system ?? '',
      l_kind: query.kind ?? '',
      l_from: query.from ?? null,
      l_to: query.to ?? null,
      l_least: query.least ? units(query.least) : null,
      l_most: query.most ? units(query.most) : null,
    },
  }
}

/** One page of a list, after the key that the page before ended with. @throws AXION_BAD_REQUEST for an order or a key that is none */
export async function pageOf<R extends { readonly unit: string }>(
  books: Books,
  listed: Listed,
  query: ListQuery,
): Promise<ListPage<R>> {
  const name = query.sort ?? listed.usual.sort
  const sort = listed.sorts[name]
  if (!sort) throw new Problem('AXION_BAD_REQUEST', { path: 'sort', problem: `cannot be by ${name}` })
  const down = query.sort === undefined ? listed.usual.down : query.down === 'yes'
  const { sql, bindings } = narrowed(listed, query, books.currency)
  const after = query.after === undefined ? null : keyIn(query.after)
  const direction = down ? 'desc' : 'asc'
  const { rows } = (await books.trx.raw(
    `with found as (${sql}) select f.*, (${sort.by})::text as sort_key, (select count(*)::int from found) as found_total from found f
     ${after ? `where ((${sort.by})::${sort.type}, f.unit) ${down ? '<' : '>'} (:l_key::${sort.type}, :l_unit)` : ''}
     order by ${sort.by} ${direction}, f.unit ${direction} limit :l_limit`,
    { ...bindings, l_key: after?.[0] ?? null, l_unit: after?.[1] ?? null, l_limit: query.limit + 1 },
  )) as { rows: (R & { sort_key: string; found_total: number })[] }
  const page = rows.slice(0, query.limit)
  const last = page.at(-1)
  return {
    rows: page,
    total: page[0]?.found_total ?? 0,
    next: rows.length > query.limit && last ? keyText(last.sort_key, last.unit) : null,
  }
}

function keyText(value: string, unit: string): string {
  return Buffer.from(JSON.stringify([value, unit])).toString('base64url')
}

function keyIn(text: string): readonly [string, string] {
  try {
    const key: unknown = JSON.parse(Buffer.from(text, 'base64url').toString())
    if (Array.isArray(key) && key.length === 2 && key.every((part) => typeof part === 'string'))
      return key as unknown as [string, string]
  } catch {
    // What is no JSON is no key either: it is named below.
  }
  throw new Problem('AXION_BAD_REQUEST', { path: 'after', problem: 'is no key of this list' })
}

/** All that a filter finds, slice by slice through its keys, so that a list of any length goes out. */
export async function allOf<R extends { readonly unit: string }>(
  books: Books,
  listed: Listed,
  query: ListQuery,
): Promise<R[]> {
  const rows: R[] = []
  for (let after = query.after; ;) {
    const page = await pageOf<R>(books, listed, { ...query, after, limit: 1000 })
    rows.push(...page.rows)
    if (page.next === null) return rows
    after = page.next
  }
}
