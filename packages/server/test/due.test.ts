import type { CloseView, PathView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { changing, inEntity } from '../src/database/connection.ts'
import { noteDue, readDue } from '../src/proof/due.ts'
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
    }))

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
