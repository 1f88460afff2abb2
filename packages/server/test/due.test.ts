import type { CloseView, MonthsView, PathView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { changing, inEntity, type Books } from '../src/database/connection.ts'
import { noteAllProved, noteDue, noteProved, readDue } from '../src/proof/due.ts'
import { touchedBySetUp } from '../src/proof/restsOn.ts'
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

  /** What a write would have proved anew, of documents that are not explained by the set-up as a whole; the write is taken back. */
  const touchedIf = async (write: (trx: Books['trx']) => Promise<unknown>): Promise<ReadonlySet<string>> => {
    let found: readonly string[] = []
    const taken = changing(world.services.database, 'larkspur', async (books) => {
      await touchedBySetUp(books)
      await write(books.trx)
      const touched = await touchedBySetUp(books)
      const explained = await books.trx('unit').where({ by_set_up: true }).pluck('named')
      const all = touched === 'all' ? ['all'] : [...touched.documents]
      // Where anything changed, what is explained by the set-up as a whole is looked at too.
      if (all.length > 0) expect(all).toEqual(expect.arrayContaining(explained))
      expect(explained.length).toBeGreaterThan(0)
      found = all.filter((one) => !explained.includes(one))
      throw new Error('taken back')
    })
    await expect(taken).rejects.toThrow('taken back')
    return new Set(found)
  }
  const documents = async (where: string): Promise<ReadonlySet<string>> =>
    new Set(
      (
        await world.ownerSql<{ named: string }>(
          `select u.named from unit u join document d using (entity_id, system_id, document_id) left join document o on o.entity_id = d.entity_id and o.system_id = d.system_id and o.document_id = d.credits_document where not u.by_set_up and (${where})`,
        )
      ).map(({ named }) => named),
    )

  it('is what rests on an answer that is another now: a document that names an item or a party, or credits one that does', async () => {
    const [item] = await world.ownerSql<{ id: string; code: string; name: string }>(
      `select h.object_id as id, h.value->>'code' as code from held_object h where h.system_id = 'billing' and h.resource = 'items' and exists (select from document d where d.value->>'lines' like '%' || (h.value->>'code') || '%') order by 1 limit 1`,
    )
    const naming = await documents(
      `concat(d.value->>'lines', o.value->>'lines') like '%"${item?.code}"%' and u.system_id = 'billing'`,
    )
    expect(naming.size).toBeGreaterThan(0)
    const linked = await touchedIf((trx) =>
      trx('link').insert({
        entity_id: 'larkspur',
        system_id: 'billing',
        kind: 'item',
        object_id: item?.id ?? '',
        baseline_id: 'nothing of the kind',
        linked_by: 'x',
      }),
    )
    expect(linked).toEqual(naming)
    const [party] = await world.ownerSql<{ id: string }>(
      `select value->'party'->>'id' as id from document where system_id = 'billing' group by 1 order by count(*) desc, 1 limit 1`,
    )
    const claims = await touchedIf((trx) =>
      trx('party')
        .where({ object_id: party?.id ?? '' })
        .update({ claims: 'resale' }),
    )
    expect(claims).toEqual(
      await documents(`d.value->'party'->>'id' = '${party?.id}' or o.value->'party'->>'id' = '${party?.id}'`),
    )
  })

  it('is what is taxed somewhere, where its rate is another; nothing where nothing changed, or nobody asks', async () => {
    const rate = await touchedIf((trx) =>
      trx('rate_version')
        .where({ object_id: 'WN-FEN' })
        .whereRaw('upper_inf(recorded)')
        .update({ percent: '1' }),
    )
    const all = await documents('true')
    expect(rate.size).toBeLessThan(all.size)
    for (const one of await documents(
      `exists (select from tax_fact f where f.entity_id = u.entity_id and f.unit_id = u.unit_id and f.jurisdiction = 'WN-FEN')`,
    ))
      expect(rate).toContain(one)
    expect(await touchedIf(() => Promise.resolve())).toEqual(new Set())
    expect(await touchedIf((trx) => trx('agency').where({ object_id: 'none' }).delete())).toEqual(new Set())
  })

  it('is proved at once where it is little, however many documents there are', async () => {
    const all = await world.ownerSql(`select from document`)
    world.services.settings.AXION_AT_ONCE = all.length - 1
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
