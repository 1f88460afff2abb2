import type { MembersView, PracticeView, TrailView } from '@axion/contract'
import { afterAll, beforeAll, expect, inject, it, test } from 'vitest'
import pg from 'pg'
import { Cluster, type Databases } from '../../../scripts/lib/cluster.mjs'
import { brokenIn } from '../src/audit/chains.ts'
import { connect } from '../src/database/connection.ts'
import { moveBooks, type Owners } from '../src/database/moving.ts'
import { DIRECTORY } from '../src/settings/settings.ts'
import { provenInFull } from './inFull.ts'
import { bookAll, makeReadyWorld, MONTH, type World } from './world.ts'

/** The books of an entity are moved between databases, whole, and everything goes on there as here. */
let world: World
let north: Databases
const owners = new Map<string, pg.Client>()
beforeAll(async () => {
  const cluster = await new Cluster(inject('clusterHome')).start()
  north = cluster.prepare(`north_${process.pid}`, [], inject('template'))
  world = await makeReadyWorld({
    environment: {
      AXION_DATABASES: 'north',
      AXION_DATABASE_NORTH: north.app,
      AXION_KEYS_DATABASE_NORTH: north.keys,
    },
  })
  await bookAll(world)
  for (const [name, connectionString] of [
    [DIRECTORY, world.databases.owner],
    ['north', north.owner],
  ] as const) {
    const client = new pg.Client({ connectionString })
    await client.connect()
    owners.set(name, client)
  }
})
afterAll(async () => {
  for (const client of owners.values()) await client.end()
  await world.close()
})

const client = (name: string): pg.Client => owners.get(name) as pg.Client
const move = (to: string, by: Owners = owners): Promise<void> =>
  moveBooks(by, { entityId: 'larkspur', to, say: () => undefined })

/** All rows of the entity by table; and how many the other tables of the database have of anybody, which is nobody's business. */
async function rowsIn(name: string): Promise<Map<string, string[]>> {
  const { rows: tables } = await client(name).query<{ table: string }>(
    `select c.relname as table from pg_class c where relnamespace = 'public'::regnamespace and relkind = 'r' and exists (select from pg_attribute where attrelid = c.oid and attname = 'entity_id' and not attisdropped) order by 1`,
  )
  const found = new Map<string, string[]>()
  for (const { table } of tables) {
    const { rows } = await client(name).query<{ row: string }>(
      `select to_jsonb(t)::text as row from ${table === 'post_sum' ? TOGETHER : table} t where entity_id = 'larkspur' order by 1`,
    )
    if (rows.length > 0)
      found.set(
        table,
        rows.map(({ row }) => row),
      )
  }
  return found
}
/** What statements left by themselves, whichever these were. */
const TOGETHER = `(select entity_id, period, state, warned, sum(documents) as documents, sum(tax) as tax, sum(tax_size) as tax_size from post_sum group by 1, 2, 3, 4 having sum(documents) <> 0)`
/** What a move writes of itself: the row of the entity, a line of its trail, and the locks that are there once somebody took them. */
const ITS_OWN = ['legal_entity', 'membership', 'audit_entry', 'entity_lock']
const books = async (name: string): Promise<Map<string, string[]>> => {
  const found = await rowsIn(name)
  for (const table of ITS_OWN) found.delete(table)
  return found
}

/** One whose clients break at the first statement that is asked for, as where the program that moves is killed. */
function breakingAt(statement: RegExp): Owners {
  return new Map(
    [...owners].map(([name, one]) => [
      name,
      new Proxy(one, {
        get(target, key) {
          const own: unknown = Reflect.get(target, key)
          if (key !== 'query' || typeof own !== 'function') return own
          return (text: unknown, ...rest: unknown[]) => {
            if (typeof text === 'string' && statement.test(text)) throw new Error('killed')
            return own.call(target, text, ...rest) as unknown
          }
        },
      }),
    ]),
  )
}

/** What pages show, but for when systems were last read. */
const shown = async (): Promise<unknown> => [
  { ...(await world.ok<object>('GET', `${MONTH}/close`)), pulledAt: null },
  await world.ok('GET', `${MONTH}/tie-out?limit=200`),
  await world.ok('GET', `${MONTH}/post`),
]

it('are there as they were here, to the row, and are shown and go on in the same way', async () => {
  const [before, pages] = [await books(DIRECTORY), await shown()]
  expect(before.size).toBeGreaterThan(35)
  await move('north')
  expect(await books('north')).toEqual(before)
  // The directory keeps who belongs to it, and where it is.
  expect([...(await rowsIn(DIRECTORY)).keys()]).toEqual(['legal_entity', 'membership'])
  expect(await shown()).toEqual(pages)
  expect((await world.run('/pulls', { systemIds: null })).state).toBe('done')
  expect(await provenInFull(world)).toMatchObject({ disagreeing: 0, miscounted: 0, otherwise: 0 })
  expect(await shown()).toEqual(pages)
})

it('two administrators who take each other’s role away at once leave one, wherever the books are', async () => {
  const member = (role: string, email: string, of: string): ReturnType<World['as']> =>
    world.as(role, 'PUT', '/api/entities/larkspur/members', { email: `${email}@example.org`, role: of })
  expect((await member('administrator', 'reviewer', 'administrator')).statusCode).toBe(200)
  const both = await Promise.all([
    member('administrator', 'reviewer', 'viewer'),
    member('reviewer', 'administrator', 'viewer'),
  ])
  expect(both.filter(({ statusCode }) => statusCode === 200)).toHaveLength(1)
  const { members } = await world.ok<MembersView>('GET', '/api/entities/larkspur/members')
  const left = members.filter(({ role }) => role === 'administrator')
  expect(left).toHaveLength(1)
  for (const email of ['administrator', 'reviewer']) await member(left[0]?.name ?? '', email, email)
})

it('take their acts with the names of who did them, and members are the directory’s', async () => {
  await world.as('administrator', 'PUT', '/api/entities/larkspur/members', {
    email: 'viewer@example.org',
    role: 'reviewer',
  })
  const { members } = await world.ok<MembersView>('GET', '/api/entities/larkspur/members')
  expect(members.find((m) => m.email === 'viewer@example.org')?.role).toBe('reviewer')
  const { entries } = await world.ok<TrailView>('GET', '/api/entities/larkspur/trail')
  expect(entries.slice(0, 12).map(({ person, action }) => [person, action])).toEqual(
    expect.arrayContaining([
      ['administrator', 'member'],
      ['Set-up', 'moved-books'],
    ]),
  )
  for (const { owner } of [world.databases, north]) {
    const database = connect(owner, 1)
    expect(await brokenIn(database, [])).toEqual([])
    await database.destroy()
  }
  const stranger = await world.as('stranger', 'GET', `${MONTH}/close`)
  expect(stranger.statusCode).toBe(404)
})

test.each([
  ['before anything is carried', /^begin/],
  ['while it is carried', /^create temp table arriving as select .* from tax_fact/],
  ['before what arrived counts', /^commit/],
])('a move that breaks %s leaves them where they were, open', async (_, at) => {
  const before = await books('north')
  await expect(move(DIRECTORY, breakingAt(at))).rejects.toThrow('killed')
  await client(DIRECTORY).query('rollback')
  await client(DIRECTORY).query('drop table if exists arriving')
  expect((await world.as('preparer', 'GET', `${MONTH}/close`)).statusCode).toBe(200)
  expect(await books('north')).toEqual(before)
})

it('a move that dies once they are there is ended by asking for it again; until then they are closed, and say so', async () => {
  const before = await books('north')
  await expect(move(DIRECTORY, breakingAt(/^update legal_entity set moving_since = null/))).rejects.toThrow(
    'killed',
  )
  const closed = await world.as('preparer', 'GET', `${MONTH}/close`)
  expect([closed.statusCode, closed.json()]).toMatchObject([503, { code: 'AXION_BOOKS_MOVING' }])
  const board = await world.ok<PracticeView>('GET', '/api/practice?month=2026-09')
  expect([board.entities, board.away.map(({ id, problem }) => [id, problem.code])]).toEqual([
    [],
    [['larkspur', 'AXION_BOOKS_MOVING']],
  ])
  await move(DIRECTORY)
  expect(await books(DIRECTORY)).toEqual(before)
  expect([...(await rowsIn('north')).keys()]).toEqual([])
  expect((await world.as('preparer', 'GET', `${MONTH}/close`)).statusCode).toBe(200)
})

it('are recorded to the microsecond there, and are nobody’s due while they are moved', async () => {
  const last = '2031-05-06 07:08:09.123456+00'
  await client(DIRECTORY).query(`update legal_entity set recorded_last = $1 where entity_id = 'larkspur'`, [
    last,
  ])
  const run = await world.begin('/pulls', { systemIds: null })
  const due = async (name: string): Promise<number> =>
    (await client(name).query(`select from run_unfinished where entity_id = 'larkspur'`)).rowCount ?? 0
  expect(await due(DIRECTORY)).toBe(1)
  await expect(move('north', breakingAt(/^update legal_entity set lives_in/))).rejects.toThrow('killed')
  // It arrived, and does not count: nobody works at it there, nor here.
  expect([await due(DIRECTORY), await due('north')]).toEqual([0, 0])
  await move('north')
  expect([await due(DIRECTORY), await due('north')]).toEqual([0, 1])
  const { rows } = await client('north').query<{ at: string }>(
    'select recorded_last::text as at from legal_entity',
  )
  // What arrives is recorded past what was; a date of JavaScript's would have begun again within the millisecond.
  expect(rows[0]?.at.localeCompare(last)).toBe(1)
  expect((await world.finish(run)).state).toBe('done')
  await move(DIRECTORY)
})

it('are moved by one at a time', async () => {
  const other = new Map<string, pg.Client>()
  for (const [name, connectionString] of [
    [DIRECTORY, world.databases.owner],
    ['north', north.owner],
  ] as const) {
    const one = new pg.Client({ connectionString })
    await one.connect()
    other.set(name, one)
  }
  const both = await Promise.allSettled([move('north'), move('north', other)])
  expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected'])
  expect(both.find((one) => one.status === 'rejected')?.reason).toMatchObject({
    message: 'larkspur is being moved already',
  })
  await move(DIRECTORY, other)
  for (const one of other.values()) await one.end()
})

it('one that died while they were still here is given up by asking for where they are', async () => {
  await client(DIRECTORY).query(`update legal_entity set moving_since = now() where entity_id = 'larkspur'`)
  expect((await world.as('preparer', 'GET', `${MONTH}/close`)).statusCode).toBe(503)
  await move(DIRECTORY)
  expect((await world.as('preparer', 'GET', `${MONTH}/close`)).statusCode).toBe(200)
})

test.each([
  ['larkspur', 'south', 'there is no database "south"; there are directory, north'],
  ['nobody', 'north', 'there is no legal entity "nobody"'],
])('a move of %s to %s is refused, and nothing is closed', async (entityId, to, says) => {
  await expect(moveBooks(owners, { entityId, to, say: () => undefined })).rejects.toThrow(says)
  expect((await world.as('preparer', 'GET', `${MONTH}/close`)).statusCode).toBe(200)
})

it('who had entered before is waited for, and what they wrote goes along', async () => {
  const slow = new pg.Client({ connectionString: world.databases.app })
  await slow.connect()
  await slow.query('begin')
  await slow.query(`select enter('larkspur', '', '', '', '', ''), wait_for('larkspur', 'changes')`)
  const moved = move('north')
  // It is closed to others as soon as the move has begun.
  for (let closed = false; !closed;)
    closed = (await world.as('preparer', 'GET', `${MONTH}/close`)).statusCode === 503
  await slow.query(
    `insert into work_tick (entity_id, named, cause, person) values ('larkspur', 'billing/late', 'amount', 'T')`,
  )
  await slow.query('commit')
  await moved
  await slow.end()
  const { rows } = await client('north').query(`select person from work_tick where named = 'billing/late'`)
  expect(rows).toEqual([{ person: 'T' }])
  await move(DIRECTORY)
})

it('know no more of what was sent for being moved: a backup that was brought back before is looked after there, and back here', async () => {
  const restored = async (name: string): Promise<boolean> =>
    (
      await client(name).query<{ is: boolean }>(
        `select restored_at is not null as is from legal_entity where entity_id = 'larkspur'`,
      )
    ).rows[0]?.is === true
  await client(DIRECTORY).query(`update legal_entity set restored_at = now() where entity_id = 'larkspur'`)
  await move('north')
  expect(await restored('north')).toBe(true)
  await client('north').query(`update legal_entity set restored_at = null where entity_id = 'larkspur'`)
  await move(DIRECTORY)
  expect(await restored(DIRECTORY)).toBe(false)
  await client(DIRECTORY).query(`update legal_entity set restored_at = null`)
  await move('north')
  await client('north').query(`update legal_entity set restored_at = now() where entity_id = 'larkspur'`)
  await move(DIRECTORY)
  expect(await restored(DIRECTORY)).toBe(true)
  await client(DIRECTORY).query(`update legal_entity set restored_at = null`)
})
