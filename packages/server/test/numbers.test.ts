import { afterAll, beforeAll, expect, it } from 'vitest'
import { changing } from '../src/database/connection.ts'
import { makeWorld, type World } from './world.ts'

let world: World
beforeAll(async () => void (world = await makeWorld()))
afterAll(() => world.close())

it('numbers each entity’s rows by themselves, one after another, however many a statement writes', async () => {
  const { database } = world.services
  for (const id of ['first', 'second'])
    await world.as('administrator', 'POST', '/api/entities', {
      id,
      name: id,
      country: 'ZZ',
      currency: 'USD',
      timeZone: 'UTC',
      locale: 'en-US',
    })
  await world.ownerSql(`alter table held_change drop constraint held_change_entity_id_pull_id_fkey`)
  const write = (entityId: string, many: number): Promise<unknown> =>
    changing(database, entityId, ({ trx }) =>
      trx.raw(
        `insert into held_change (entity_id, pull_id, system_id, resource, object_id, kind, label)
         select ?, 1, 's', 'items', n::text, 'new', '' from generate_series(1, ?) n`,
        [entityId, many],
      ),
    )
  for (const many of [1, 3, 5000, 2]) for (const entity of ['first', 'second']) await write(entity, many)
  expect(
    await world.ownerSql(
      `select entity_id, count(*)::int as n, count(distinct change_id)::int as numbers, min(change_id)::int as first from held_change where entity_id in ('first', 'second') group by 1 order by 1`,
    ),
  ).toEqual(['first', 'second'].map((entity_id) => ({ entity_id, n: 5006, numbers: 5006, first: 1 })))
  const inOrder = await world.ownerSql(
    `select from (select object_id::int < lag(object_id::int) over (order by change_id) as less from held_change where entity_id = 'first') o where less`,
  )
  // It falls where the third and the fourth statement begin.
  expect(inOrder).toHaveLength(2)
})
