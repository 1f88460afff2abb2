import type { TaxDocument } from '@axion/core'
import { otherSystems, SEED } from '@axion/demo'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { inEntity } from '../src/database/connection.ts'
import { behindIn, documentsOf, unitsOf } from '../src/proof/gather.ts'
import { groundsOf } from '../src/proof/grounds.ts'
import { touchedKinds } from './touched.ts'
import { makeWorld, MONTH, plainBilling, type World } from './world.ts'

let world: World
beforeAll(async () => {
  world = await makeWorld({ billing: plainBilling(4711), others: otherSystems(SEED) })
  await world.run('/pulls', { systemIds: null })
  await world.ok('POST', `${MONTH}/links/clear`, { kinds: ['parties', 'locations', 'methods'] })
})
afterAll(() => world.close())

it('says of each row of the grids how many documents touch it', async () => {
  expect(await touchedKinds(world)).toEqual(['rates', 'items', 'codes', 'locations', 'methods'])
})

/** What September's documents are worked out from. */
const documents = (): Promise<readonly TaxDocument[]> =>
  inEntity(world.services.database, 'larkspur', async (books) => {
    const grounds = await groundsOf(books)
    const keys = await documentsOf(books, '2026-09', 'all')
    const all: TaxDocument[] = []
    for await (const behind of behindIn(grounds, '2026-09', keys, 1000))
      for (const { source } of unitsOf(grounds, '2026-09', behind)) if (source) all.push(source.document)
    return all
  })

/** Where sales at an outlet are taxed, by what the baseline agrees of it. */
const outlets = async (): Promise<readonly (string | null | undefined)[]> => [
  ...new Set((await documents()).flatMap(({ outlet }) => (outlet ? [outlet.city] : []))),
]

it('takes the agreed address of an outlet that bears the code of the baseline’s, as of one that is linked', async () => {
  await world.ownerSql(`delete from link where kind = 'location' and object_id = 'loc_quay'`)
  await world.ownerSql(
    `update held_object set value = value || '{"code": "QUAY"}' where object_id = 'loc_quay'`,
  )
  expect(await outlets()).not.toContain('Elsewhere')
  await world.ownerSql(
    `update location set address = address || '{"city": "Elsewhere"}' where entity_id = 'larkspur'`,
  )
  expect(await outlets()).toEqual(['Elsewhere'])
})

it('takes a payment method that bears a code for the baseline’s of that code, as one that is linked', async () => {
  const paid = async (code: string): Promise<number> =>
    (await documents()).filter(({ methods = [] }) => methods.includes(code)).length
  await world.ownerSql(`delete from link where kind = 'payment-method' and object_id = 'pm_card'`)
  expect(await paid('BY-CODE')).toBe(0)
  await world.ownerSql(
    `update held_object set value = value || '{"code": "BY-CODE"}' where object_id = 'pm_card'`,
  )
  expect(await paid('BY-CODE')).toBeGreaterThan(0)
})
