import pg from 'pg'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { makeWorld, standinDatabase, type World } from './world.ts'

let world: World
beforeAll(async () => void (world = await makeWorld()))
afterAll(() => world.close())

it('never lets a reader skip a row, however writers commit', async () => {
  const { Store } = await import('../../standins/src/shared/store.ts')
  const store = await Store.open(standinDatabase(world))
  const seen: string[] = []
  let after = '0'
  let writing = true
  const reader = (async () => {
    for (let last = false; !last;) {
      last = !writing
      const page = await store.page('notes', after, 7)
      seen.push(...page.items.map((item) => item.id))
      after = page.next
      if (page.more) last = false
    }
  })()
  const writer = async (name: string): Promise<void> => {
    for (let at = 0; at < 25; at++) {
      await store.write(async (writing_) => {
        await writing_.put('notes', `${name}-${at}-a`, { at })
        // Others want to commit while this one is still at it.
        await new Promise((turn) => setImmediate(turn))
        await writing_.put('notes', `${name}-${at}-b`, { at })
      })
    }
  }
  await Promise.all(['w', 'x', 'y', 'z'].map(writer))
  writing = false
  await reader
  await store.close()
  expect(new Set(seen).size).toBe(200)
  const client = new pg.Client({ connectionString: standinDatabase(world) })
  await client.connect()
  const { rows } = await client.query<{ id: string }>(
    `select id from object where resource = 'notes' order by sequence`,
  )
  await client.end()
  expect(seen).toEqual(rows.map((row) => row.id))
})

it('hands removals out as tombstones', async () => {
  const { Store } = await import('../../standins/src/shared/store.ts')
  const store = await Store.open(standinDatabase(world))
  const before = await store.page('notes', '0', 1000)
  await store.write((writer) => writer.remove('notes', 'w-0-a'))
  const after = await store.page('notes', before.next, 10)
  await store.close()
  expect(after.items).toMatchObject([{ id: 'w-0-a', removed: true, value: null }])
})
