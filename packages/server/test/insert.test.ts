import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { changing, type Books } from '../src/database/connection.ts'
import { asJson, asList, asText, plain } from '../src/database/copied.ts'
import { insertLines, insertRows } from '../src/database/insert.ts'
import { makeWorld, type World } from './world.ts'

/** Few rows go as JSON, many by a copy: whatever stands in them, the database then holds the same. */
let world: World
beforeAll(async () => {
  world = await makeWorld()
})
afterAll(() => world.close())

class Undone extends Error {}
/** Done in the application's role, under row-level security, and taken back. */
async function tried<T>(work: (books: Books) => Promise<T>): Promise<T> {
  let result: T | undefined
  await changing(world.services.database, 'larkspur', async (books) => {
    result = await work(books)
    throw new Undone()
  }).catch((error: unknown) => {
    if (!(error instanceof Undone)) throw error
  })
  return result as T
}

const text = fc
  .oneof(
    fc.string({ unit: 'binary' }),
    fc.string({ unit: fc.constantFrom('\\', '\t', '\n', '\r', '"', '{', '}', ',', 'N', 'n', ' ', '.', '’') }),
    fc.constantFrom('', '\\N', '\\.', 'null', 'NULL', '{}', '"'),
  )
  .filter((one) => !one.includes('\0') && one.isWellFormed())
const line = fc.record({
  wording: text,
  region: text,
  amount: fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }).map(String),
  open: fc.boolean(),
  rules: fc.array(text, { maxLength: 3 }),
})
const found = fc.record({
  code: text,
  sequence: fc.option(fc.bigInt({ min: 0n, max: 10n ** 18n }).map(String)),
  facts: fc.dictionary(text, fc.oneof(text, fc.integer(), fc.constant(null), fc.array(text))),
})
const written = (value: unknown): string =>
  Array.isArray(value)
    ? asList(value)
    : typeof value === 'object' && value !== null
      ? asJson(value)
      : asText(value === null ? null : plain(value))

describe('rows', () => {
  it.each<[string, string, fc.Arbitrary<object>, object]>([
    [
      'special_line',
      'place',
      line,
      {
        entity_id: 'larkspur',
        unit_id: 1,
        period: '2026-09',
        system_id: 's',
        what: 'w',
        taxed: 'no',
        account: null,
      },
    ],
    ['finding', 'object_id', found, { entity_id: 'larkspur', system_id: 'ledger', resource: 'agencies' }],
  ])('are the same however many go at once, as rows or as lines: %s', (table, numbered, arbitrary, own) =>
    fc.assert(
      fc.asyncProperty(fc.array(arbitrary, { minLength: 1, maxLength: 40 }), (some) =>
        tried(async ({ trx }) => {
          const rows = Array.from({ length: 600 }, (_, place) => ({
            ...own,
            ...some[place % some.length],
            [numbered]: place,
          }))
          const columns = Object.keys(rows[0] ?? {})
          const lines = rows.map((row) => Object.values(row).map(written).join('\t'))
          const ways = [
            (from: number, to: number) => insertRows(trx, table, rows.slice(from, to)),
            (from: number, to: number) => insertLines(trx, table, columns, lines.slice(from, to)),
          ]
          const held: unknown[][] = []
          for (const way of ways)
            for (const step of [600, 200]) {
              await trx(table).where({ entity_id: 'larkspur' }).delete()
              for (let from = 0; from < rows.length; from += step) await way(from, from + step)
              const { rows: kept } = (await trx.raw(
                `select to_jsonb(t) - 'found_at' as row from ?? t where entity_id = 'larkspur' order by ??`,
                [table, numbered],
              )) as { rows: unknown[] }
              held.push(kept)
            }
          expect(held[0]).toHaveLength(600)
          for (const other of held) expect(other).toEqual(held[0])
        }),
      ),
      { numRuns: 15 },
    ),
  )

  it('of a key that is there already are changed', async () => {
    const of = (wording: string) =>
      Array.from({ length: 700 }, (_, place) => ({
        entity_id: 'larkspur',
        period: '2026-09',
        system_id: 's',
        what: 'w',
        taxed: 'no',
        region: '',
        wording,
        amount: '1',
        rules: [],
        open: false,
        unit_id: 1,
        place,
      }))
    const held = await tried(async ({ trx }) => {
      await insertRows(trx, 'special_line', of('before'))
      await insertRows(trx, 'special_line', of('after').slice(1), ['entity_id', 'unit_id', 'place'])
      return trx('special_line').where({ unit_id: '1' }).orderBy('place').pluck('wording')
    })
    expect([held.length, held[0], new Set(held.slice(1))]).toEqual([700, 'before', new Set(['after'])])
  })

  it('of another entity are refused, few or many', async () => {
    for (const n of [1, 600]) {
      const rows = Array.from({ length: n }, (_, place) => ({
        entity_id: 'fern',
        unit_id: 1,
        place,
        voice: 'stated',
        currency: 'USD',
        period: '2026-09',
        net: '0',
        in_base: '0',
      }))
      await expect(tried(({ trx }) => insertRows(trx, 'net_fact', rows))).rejects.toThrow(
        /row-level security/,
      )
    }
  })

  it('that the table refuses say so, and nothing of them is there', async () => {
    const rows = Array.from({ length: 600 }, (_, place) => ({
      entity_id: 'larkspur',
      unit_id: 1,
      place,
      voice: 'stated',
      currency: 'USD',
      period: '2026-09',
      net: place === 599 ? 'much' : '0',
      in_base: '0',
    }))
    await expect(tried(({ trx }) => insertRows(trx, 'net_fact', rows))).rejects.toMatchObject({
      code: '22P02',
    })
    expect(await world.ownerSql(`select from net_fact`)).toEqual([])
  })
})

describe('a transaction that writes much', () => {
  it('holds as many locks after many copies as after two: a million documents are one', async () => {
    const locks = await tried(async ({ trx }) => {
      const held = async (): Promise<number> =>
        (
          (await trx.raw(`select count(*)::int as n from pg_locks where pid = pg_backend_pid()`)) as {
            rows: [{ n: number }]
          }
        ).rows[0].n
      const seen: number[] = []
      for (let round = 0; round < 12; round++) {
        await insertRows(
          trx,
          'finding',
          Array.from({ length: 600 }, (_, at) => ({
            ...{ entity_id: 'larkspur', system_id: 'ledger', resource: 'agencies' },
            ...{ object_id: `${round}-${at}`, code: 'x', facts: {} },
          })),
        )
        seen.push(await held())
      }
      return seen
    })
    expect(new Set(locks.slice(1))).toEqual(new Set([locks[1]]))
  })
})
