import type { ListQuery } from '@axion/contract'
import { parseAmount } from '@axion/core'
import { z } from 'zod'
import type { Books } from '../database/connection.ts'
import { likePattern } from '../database/like.ts'
import { Problem } from '../faults/problem.ts'

/** What a list is ordered by: a column that is never null, with the type that a key is read back as. */
interface Ordering {
  readonly column: string
  readonly type: 'text' | 'bigint' | 'date'
}

/**
 * A list of documents: one filter, paged by key, that also selects all of what it finds and sends it out. What is listed are the rows of a table
 * `l` that has at least named, system_id, kind, document_date, number, party and the amount that it is filtered by; what it is ordered by is an
 * index of that table, to its name.
 */
export interface Listed {
  readonly table: 'unit' | 'post_line'
  readonly month: string
  readonly bindings: Readonly<Record<string, unknown>>
  /** Further conditions on its columns. */
  readonly where: readonly string[]
  /** The column that least and most are about, in minor units. */
  readonly amount: string
  readonly sorts: Readonly<Record<string, readonly Ordering[]>>
  readonly usual: { readonly sort: string; readonly down: boolean }
}

export interface ListPage {
  /** What each is named by, in the list's order. */
  readonly units: readonly string[]
  /** What the next page comes after; null where this is the last. */
  readonly next: string | null
}

type Narrowing = Partial<Pick<ListQuery, 'search' | 'system' | 'kind' | 'from' | 'to' | 'least' | 'most'>>

/** SQL of a table and its conditions: what stands after `select … from`. */
export interface Narrowed {
  readonly sql: string
  readonly bindings: Record<string, unknown>
}

export const ORDERS = {
  date: [
    { column: 'document_date', type: 'date' },
    { column: 'number', type: 'text' },
  ],
  number: [{ column: 'number', type: 'text' }],
  party: [{ column: 'party_folded', type: 'text' }],
  state: [
    { column: 'state', type: 'text' },
    { column: 'document_date', type: 'date' },
    { column: 'number', type: 'text' },
  ],
} as const satisfies Listed['sorts']

/** An index of words finds so many at the most; of more, whoever reads in order soon has a page. And of fewer letters it knows nothing. */
const [MOST_FOUND, FEWEST_LETTERS] = [2000, 3]

/** The listed rows that a filter finds. */
export async function narrowed(books: Books, listed: Listed, query: Narrowing): Promise<Narrowed> {
  const { entityId, currency } = books
  const units = (text: string | undefined): string | null =>
    text === undefined ? null : withinBigint(parseAmount(text, currency)).toString()
  const found = await foundLike(books, listed.month, query.search ?? '')
  const size = `l.${listed.amount}`
  const conditions = [
    'l.entity_id = :entity',
    'l.period = :month',
    ...listed.where,
    ...(!query.search
      ? []
      : found === null
        ? ['(l.number ilike :l_search or l.party ilike :l_search)']
        : ['l.named = any(:l_found::text[])']),
    ...(query.system ? ['l.system_id = :l_system'] : []),
    ...(query.kind ? ['l.kind = :l_kind'] : []),
    ...(query.from ? ['l.document_date >= :l_from::date'] : []),
    ...(query.to ? ['l.document_date <= :l_to::date'] : []),
    // By its size, either way.
    ...(query.least ? [`(${size} >= :l_least::bigint or ${size} <= -:l_least::bigint)`] : []),
    ...(query.most ? [`${size} between -:l_most::bigint and :l_most::bigint`] : []),
  ]
  return {
    sql: `${listed.table} l where ${conditions.join(' and ')}`,
    bindings: {
      ...listed.bindings,
      entity: entityId,
      month: listed.month,
      l_search: likePattern(query.search ?? ''),
      l_found: found,
      l_system: query.system ?? '',
      l_kind: query.kind ?? '',
      l_from: query.from ?? null,
      l_to: query.to ?? null,
      l_least: units(query.least),
      l_most: units(query.most),
    },
  }
}

/** No amount that is kept is larger: what is asked for beyond it finds the same. */
const MOST = 2n ** 63n - 1n
function withinBigint(amount: bigint): bigint {
  return amount > MOST ? MOST : amount < -MOST ? -MOST : amount
}

/** All that a filter finds, in no order. */
export async function foundIn(books: Books, listed: Listed, query: Narrowing = {}): Promise<string[]> {
  const { sql, bindings } = await narrowed(books, listed, query)
  const { rows } = (await books.trx.raw(`select l.named from ${sql}`, bindings as never)) as {
    rows: { named: string }[]
  }
  return rows.map(({ named }) => named)
}

/** What bears words in its number or its party; null where these are too few letters for the index, or found too often. */
async function foundLike({ trx, entityId }: Books, month: string, words: string): Promise<string[] | null> {
  if (words.length < FEWEST_LETTERS) return null
  const { rows } = (await trx.raw('select found_like(?, ?, ?, ?) as found', [
    entityId,
    month,
    likePattern(words),
    MOST_FOUND,
  ])) as { rows: [{ found: string[] | null }] }
  return rows[0].found
}

/** One page of a list, after the key that the page before ended with. @throws AXION_BAD_REQUEST for an order or a key that is none */
export async function pageOf(books: Books, listed: Listed, query: ListQuery): Promise<ListPage> {
  const name = query.sort ?? listed.usual.sort
  const sort = listed.sorts[name]
  if (!sort) throw new Problem('AXION_BAD_REQUEST', { path: 'sort', problem: `cannot be by ${name}` })
  const down = query.sort === undefined ? listed.usual.down : query.down === 'yes'
  const { sql, bindings } = await narrowed(books, listed, query)
  const orderings = [...sort, { column: 'named', type: 'text' } as const]
  const after = query.after === undefined ? null : keyIn(query.after, orderings)
  const columns = orderings.map(({ column }) => `l.${column}`)
  const keys = orderings.map(({ type }, at) => `:l_key_${at}::${type}`)
  const { rows } = (await books.trx.raw(
    `select ${orderings.map(({ column }, at) => `l.${column}::text as key_${at}`).join(', ')} from ${sql}
     ${after ? `and (${columns.join(', ')}) ${down ? '<' : '>'} (${keys.join(', ')})` : ''}
     order by ${columns.map((column) => `${column} ${down ? 'desc' : 'asc'}`).join(', ')} limit :l_limit`,
    {
      ...bindings,
      ...Object.fromEntries((after ?? []).map((value, at) => [`l_key_${at}`, value])),
      l_limit: query.limit + 1,
    } as never,
  )) as { rows: Record<string, string>[] }
  const page = rows.slice(0, query.limit).map((row) => orderings.map((_, at) => row[`key_${at}`] ?? ''))
  const last = page.at(-1)
  return {
    units: page.map((key) => key.at(-1) ?? ''),
    next: rows.length > query.limit && last ? keyText(last) : null,
  }
}

function keyText(key: readonly string[]): string {
  return Buffer.from(JSON.stringify(key)).toString('base64url')
}

const KEY_PARTS = {
  text: z.string().refine((part) => !part.includes('\u0000')),
  bigint: z.string().regex(/^-?\d{1,18}$/),
  date: z.iso.date(),
} as const

function keyIn(text: string, orderings: readonly Ordering[]): readonly string[] {
  try {
    const key: unknown = JSON.parse(Buffer.from(text, 'base64url').toString())
    if (
      Array.isArray(key) &&
      key.length === orderings.length &&
      orderings.every(({ type }, at) => KEY_PARTS[type].safeParse(key[at]).success)
    )
      return key as string[]
  } catch {
    // What is no JSON is no key either: it is named below.
  }
  throw new Problem('AXION_BAD_REQUEST', { path: 'after', problem: 'is no key of this list' })
}

/** All that a filter finds, slice by slice through its keys, so that a list of any length goes out. */
export async function allOf(books: Books, listed: Listed, query: ListQuery): Promise<string[]> {
  const units: string[] = []
  for (let after = query.after; ;) {
    const page = await pageOf(books, listed, { ...query, after, limit: 1000 })
    units.push(...page.units)
    if (page.next === null) return units
    after = page.next
  }
}
