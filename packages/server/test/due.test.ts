import type { CloseView, MonthsView, PathView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { changing, inEntity } from '../src/database/connection.ts'
import { touchedByLink } from '../src/proof/naming.ts'
import { noteAllProved, noteDue, noteProved, readDue } from '../src/proof/due.ts'
import { bookAll, makeReadyWorld, MONTH, type World } from './world.ts'

/** Where there is much to prove, nobody waits for it: what was changed is due, a run proves it, and until then pages say so. */
let world: World
beforeAll(async () => {
  world = await makeReadyWorld()
  await bookAll(world)
  world.services.settings.AXION_AT_ONCE = 0
})
afterAll(() => world.close())

const LINK = { systemId: 'ledger', kind: 'agency', objectId: 'agency_HCT' }
const relink = async (baselineId: string): Promise<string> =>
  (await world.ok<{ run: string }>('PUT', `${MONTH}/links`, { ...LINK, baselineId })).run
const older = async (): Promise<string | null> =>
  (await world.ok<PathView>('GET', `${MONTH}/path`)).connect.limits.older
const unproved = async (): Promise<string> => (await world.ok<CloseView>('GET', `${MONTH}/close`)).unproved

describe('what an act may have changed', () => {
  it('is proved by a run of its own; until it has, figures are as they were, and said to be older', async () => {
    const before = await unproved()
    expect(await older()).toBeNull()
    const run = await relink('CPL')
    const { connect, run: shown } = await world.ok<PathView>('GET', `${MONTH}/path`)
    expect([connect.limits.older !== null, shown?.id, shown?.kind, await unproved()]).toEqual([
      true,
      run,
      'prove',
      before,
    ])
    expect((await world.finish(run)).state).toBe('done')
    const after = await unproved()
    expect([await older(), after === before]).toEqual([null, false])
    await world.finish(await relink('HCT'))
    expect(await unproved()).toBe(before)
  })

  it('leaves no month called proved, in the list of months', async () => {
    const state = async (): Promise<string | undefined> =>
      (await world.ok<MonthsView>('GET', '/api/entities/larkspur/months')).months.find(
        ({ month }) => month === '2026-09',
      )?.state
    // As if nothing were astray; a proof from nothing then says what is.
    await world.ownerSql(`update unit set unproved = 0, unproved_net = 0, proved = true, core_version = 0`)
    expect(await state()).toBe('proved')
    const run = await relink('CPL')
    expect(await state()).toBe('nothing')
    await world.finish(run)
    await world.finish(await relink('HCT'))
    expect(await state()).toBe('open')
  })

  it('has one run that waits, whoever changes more before it begins; what changes while it is at work is due again', async () => {
    const first = await relink('CPL')
    expect(await relink('HCT')).toBe(first)
    await world.ownerSql(`update run set state = 'running' where run_id = $1`, [first])
    const second = await relink('CPL')
    expect(second).not.toBe(first)
    const month = await unproved()
    await world.finish(first)
    await world.finish(second)
    expect([await older(), (await unproved()) === month]).toEqual([null, false])
    await world.finish(await relink('HCT'))
  })

  it('is proved by a pull too, though its run was lost', async () => {
    const before = await unproved()
    await world.ownerSql(`update run set state = 'failed' where run_id = $1`, [await relink('CPL')])
    expect(await older()).not.toBeNull()
    await world.run('/pulls', { systemIds: ['ledger'] })
    expect([await older(), (await unproved()) === before]).toEqual([null, false])
    await world.finish(await relink('HCT'))
  })

  it('stays due where it became so after a proof had begun', () =>
    changing(world.services.database, 'larkspur', async (books) => {
      await noteDue(books, { documents: new Set(['billing/a']), entries: new Set() })
      const by = (await readDue(books))?.by
      await noteDue(books, { documents: new Set(['billing/a', 'billing/b']), entries: new Set() })
      expect([(await readDue(books))?.touched, (await readDue(books))?.by === by]).toEqual([
        { documents: new Set(['billing/a', 'billing/b']), entries: new Set(['billing/a', 'billing/b']) },
        false,
      ])
      await noteDue(books, 'all')
      expect((await readDue(books))?.touched).toBe('all')
      await noteProved(books, by ?? '')
      expect((await readDue(books))?.touched).toBe('all')
      await noteAllProved(books)
      expect(await readDue(books)).toBeNull()
    }))

  it('of an item, a party or an outlet is what names it, and what hangs on that by credits', async () => {
    const [named] = await world.ownerSql<{ party: string; n: number }>(
      `select value->'party'->>'id' as party, count(*)::int as n from document where system_id = 'billing' group by 1 order by 2 desc, 1 limit 1`,
    )
    const party = { systemId: 'billing', kind: 'party' as const, objectId: named?.party ?? '' }
    const touched = await inEntity(world.services.database, 'larkspur', (books) =>
      touchedByLink(books, party),
    )
    expect(touched === 'all' ? 'all' : touched.documents.size).toBeGreaterThanOrEqual(named?.n ?? 0)
    const [item] = await world.ownerSql<{ id: string; code: string; n: number }>(
      `select h.object_id as id, h.value->>'code' as code, (select count(*)::int from document d where d.system_id = 'billing' and exists (select from jsonb_array_elements(d.value->'lines') l where l->>'itemCode' = h.value->>'code')) as n
       from held_object h where h.system_id = 'billing' and h.resource = 'items' order by 3 desc, 1 limit 1`,
    )
    const of = { systemId: 'billing', kind: 'item' as const, objectId: item?.id ?? '' }
    const naming = await inEntity(world.services.database, 'larkspur', (books) => touchedByLink(books, of))
    const all = (await world.ownerSql(`select from document where system_id = 'billing'`)).length
    expect(naming === 'all' ? all : naming.documents.size).toBeGreaterThanOrEqual(item?.n ?? 0)
    expect(naming === 'all' ? all : naming.documents.size).toBeLessThan(all)
    for (const one of [LINK, { ...of, objectId: 'none' }])
      expect(
        await inEntity(world.services.database, 'larkspur', (books) =>
          touchedByLink(books, one as typeof of),
        ),
      ).toBe('all')
  })

  it('is proved at once where it is little, however many documents there are', async () => {
    world.services.settings.AXION_AT_ONCE = 60
    const [item] = await world.ownerSql<{ id: string; code: string }>(
      `select h.object_id as id, h.value->>'code' as code from held_object h where h.system_id = 'billing' and h.resource = 'items' and (select count(*) from document d where d.system_id = 'billing' and exists (select from jsonb_array_elements(d.value->'lines') l where l->>'itemCode' = h.value->>'code')) between 1 and 40 order by 1 limit 1`,
    )
    const linked = await world.ok<{ run: string | null }>('PUT', `${MONTH}/links`, {
      systemId: 'billing',
      kind: 'item',
      objectId: item?.id,
      baselineId: item?.code,
    })
    expect([linked.run, await older()]).toEqual([null, null])
    world.services.settings.AXION_AT_ONCE = 0
  })

  it('is another legal entity’s own', async () => {
    const founded = {
      id: 'fern',
      name: 'Fern',
      country: 'XA',
      currency: 'USD',
      timeZone: 'UTC',
      locale: 'en-US',
    }
    expect((await world.as('administrator', 'POST', '/api/entities', founded)).statusCode).toBe(200)
    expect(await inEntity(world.services.database, 'fern', readDue)).toBeNull()
  })
})
