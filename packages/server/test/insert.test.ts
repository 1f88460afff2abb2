import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { changing, type Books } from '../src/database/connection.ts'
import { insertRows } from '../src/database/insert.ts'
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
const fact = fc.record({
  tax: fc.bigInt({ min: -(10n ** 15n), max: 10n ** 15n }).map(String),
  base: fc.option(fc.bigInt({ min: 0n, max: 10n ** 15n }).map(String)),
  line_id: fc.option(text),
  origin: fc.option(fc.dictionary(text, fc.oneof(text, fc.integer(), fc.constant(null), fc.array(text)))),
})

describe('rows', () => {
  it.each<[string, fc.Arbitrary<object>, object]>([
    [
      'special_line',
      line,
      { entity_id: 'larkspur', period: '2026-09', system_id: 's', what: 'w', taxed: 'no', account: null },
    ],
    [
      'tax_fact',
      fact,
      { entity_id: 'larkspur', voice: 'stated', currency: 'USD', period: '2026-09', in_base: '0' },
    ],
  ])('are the same however many go at once: %s', (table, arbitrary, own) =>
    fc.assert(
      fc.asyncProperty(fc.array(arbitrary, { minLength: 1, maxLength: 40 }), (some) =>
        tried(async (books) => {
          const rows = Array.from({ length: 600 }, (_, place) => ({
            ...own,
            ...some[place % some.length],
            place,
          }))
          const of = (unitId: number) => rows.map((row) => ({ ...row, unit_id: unitId }))
          for (let from = 0; from < rows.length; from += 200)
            await insertRows(books.trx, table, of(1).slice(from, from + 200))
          await insertRows(books.trx, table, of(2))
          const held = async (unitId: number): Promise<unknown[]> =>
            (
              (await books.trx.raw(
                `select to_jsonb(t) - 'unit_id' as row from ?? t where unit_id = ? order by place`,
                [table, unitId],
              )) as { rows: unknown[] }
            ).rows
          const copied = await held(2)
          expect(copied).toEqual(await held(1))
          expect(copied).toHaveLength(600)
        }),
      ),
      { numRuns: 25 },
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
