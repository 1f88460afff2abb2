import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { loadBaseline } from '../src/baseline/load.ts'
import { changing, inEntity, type Books } from '../src/database/connection.ts'
import { loadHeld } from '../src/setUp/held.ts'
import { makeReadyWorld, type World } from './world.ts'

let world: World
beforeAll(async () => void (world = await makeReadyWorld()))
afterAll(() => world.close())

const PARTS = {
  agreed: {
    read: async (books: Books) =>
      (await loadBaseline(books)).baseline.agencies.map(({ name }) => name).sort(),
    write: (books: Books, name: string) =>
      books
        .trx('agency')
        .where({ entity_id: 'larkspur', object_id: 'HCT' })
        .whereRaw('upper_inf(recorded)')
        .update({ name }),
    byOwner: `update agency set name = 'By the owner' where entity_id = 'larkspur' and object_id = 'HCT' and upper_inf(recorded)`,
  },
  held: {
    read: async (books: Books) =>
      (await loadHeld(books)).flatMap(({ agencies }) => agencies.map(({ value }) => value.name)).sort(),
    write: (books: Books, name: string) =>
      books
        .trx('held_object')
        .where({ entity_id: 'larkspur', resource: 'agencies', object_id: 'agency_HCT' })
        .update({ value: books.trx.raw(`value || jsonb_build_object('name', ?::text)`, [name]) }),
    byOwner: `update held_object set value = value || '{"name": "By the owner"}' where entity_id = 'larkspur' and object_id = 'agency_HCT'`,
  },
} as const

const inLarkspur = <T>(work: (books: Books) => Promise<T>): Promise<T> =>
  inEntity(world.services.database, 'larkspur', work)

describe.each(['agreed', 'held'] as const)('what is %s', (part) => {
  const { read, write, byOwner } = PARTS[part]

  it('is read from its rows once, and by its stamp from then on', async () => {
    const asked = (work: (books: Books) => Promise<unknown>): Promise<number> =>
      inLarkspur(async (books) => {
        let queries = 0
        books.trx.on('query', () => queries++)
        await work(books)
        return queries
      })
    await inLarkspur(read)
    // Its stamp, and systems, which say of themselves how they are.
    expect(await asked(read)).toBeLessThanOrEqual(2)
  })

  it('is as it is after whatever was written, committed or taken back', async () => {
    const before = await inLarkspur(read)
    const writes = (name: string, commits: boolean): Promise<unknown> =>
      changing(world.services.database, 'larkspur', async (books) => {
        await write(books, name)
        expect(await read(books)).toContain(name)
        if (!commits) throw new Error('taken back')
      })
    await expect(writes('Taken back', false)).rejects.toThrow('taken back')
    expect(await inLarkspur(read)).toEqual(before)
    await expect(writes('Another', false)).rejects.toThrow('taken back')
    await writes('Kept', true)
    expect(await inLarkspur(read)).toContain('Kept')
    await world.ownerSql(byOwner)
    expect(await inLarkspur(read)).toContain('By the owner')
  })

  it('is read by nobody else: another entity has a stamp of its own', async () => {
    const stamps = await world.ownerSql<{ stamp: string }>(`select stamp from set_up_stamp`)
    expect(new Set(stamps.map(({ stamp }) => stamp)).size).toBe(stamps.length)
  })
})

it('covers every table of the baseline, and what systems hold', async () => {
  const tables = await world.ownerSql<{ name: string }>(
    `select table_name as name from information_schema.columns where table_schema = 'public' and column_name = 'version_id' union select unnest(array['held_object', 'link']) order by 1`,
  )
  // After a statement (no row, not before) that inserts, deletes or updates.
  const stamped = await world.ownerSql<{ name: string }>(
    `select tgrelid::regclass::text as name from pg_trigger where tgname = 'set_up_changed' and tgtype & 3 = 0 and tgtype & 28 = 28 and tgenabled <> 'D' order by 1`,
  )
  expect(stamped).toEqual(tables)
})
