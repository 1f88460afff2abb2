import type { TieOutView } from '@axion/contract'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { bookAll, makeReadyWorld, MONTH, type World } from './world.ts'

/** Of what nothing explains, pairs of mistakes are tried: so many of a document, so many of a proof. */
let world: World
beforeAll(async () => {
  world = await makeReadyWorld()
  await bookAll(world)
})
afterAll(() => world.close())

const PLANTED = 90

it('what one proof has no pairs left for is said, and the next pulls go on with it until none waits', async () => {
  await world.billingSql(
    `with chosen as (select id, row_number() over (order by id) as n from object where resource = 'documents' and value->>'kind' = 'invoice' and value->>'currency' = 'USD'
       and value->'taxes'->0->'components'->0->>'tax' <> '0.00' limit ${PLANTED})
     update object o set revision = revision + 1, sequence = nextval('change_sequence'), value = jsonb_set(jsonb_set(jsonb_set(value,
       '{taxes,0,tax}', to_jsonb(((value#>>'{taxes,0,tax}')::numeric + 0.01 * (n + 30))::text)),
       '{taxes,0,components,0,tax}', to_jsonb(((value#>>'{taxes,0,components,0,tax}')::numeric + 0.01 * (n + 30))::text)),
       '{total}', to_jsonb(((value->>'total')::numeric + 0.01 * (n + 30))::text))
     from chosen where chosen.id = o.id and o.resource = 'documents'`,
  )
  const pull = async (): Promise<{ waiting: number; bounded: number }> => {
    expect((await world.run('/pulls', { systemIds: null })).state).toBe('done')
    const { causes } = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
    return causes
      .map(({ unsearched }) => unsearched)
      .reduce((all, one) => ({
        waiting: all.waiting + one.waiting,
        bounded: all.bounded + one.bounded,
      }))
  }
  const each = [await pull()]
  while ((each.at(-1)?.waiting ?? 0) > 0 && each.length < 10) each.push(await pull())
  const waiting = each.map((one) => one.waiting)
  expect(waiting[0]).toBeGreaterThan(20)
  // Each pull goes on with twenty, and what it looked through to the end waits no more.
  expect(waiting).toEqual(waiting.map((_, at) => Math.max((waiting[0] ?? 0) - 20 * at, 0)))
  expect(
    await world.ownerSql(`select count(*)::int as n from unit where search_waits or pairs_left < 0`),
  ).toEqual([{ n: 0 }])
})
