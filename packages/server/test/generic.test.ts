import type { BatchView, GenericView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { readBaseline } from '../src/baseline/read.ts'
import { inEntity } from '../src/database/connection.ts'
import { demoPair, makeReadyWorld, MONTH, type World } from './world.ts'

/** A business that agreed upon those customers alone who claim to be exempt: whoever else buys may be held as one of many. */
let world: World
beforeAll(async () => {
  world = await makeReadyWorld(demoPair())
})
afterAll(() => world.close())

const view = (): Promise<GenericView> => world.ok('GET', `${MONTH}/align/generic`)
const billing = async (): Promise<GenericView['systems'][number]> => {
  const { systems } = await view()
  expect(systems.map(({ systemId }) => systemId)).toEqual(['billing'])
  return systems[0] as GenericView['systems'][number]
}
const put = (party: string | null, { systemId = 'billing', role = 'preparer' } = {}) =>
  world.as(role, 'PUT', `${MONTH}/align/generic`, { systemId, party })
/** Documents of the month that stand under a customer, as the proof has it. */
const under = async (party: string): Promise<number> =>
  (
    await world.ownerSql<{ n: number }>(
      `select count(*)::int as n from unit where period = '2026-09' and touches @> array['parties|' || $1]`,
      [party],
    )
  )[0]?.n ?? 0
const everybodyElse = async (): Promise<number> =>
  (
    await world.ownerSql<{ n: number }>(
      `select count(*)::int as n from unit u join document d using (entity_id, system_id, document_id)
       where u.period = '2026-09' and not exists (select from party p where p.entity_id = u.entity_id and upper_inf(p.recorded) and p.object_id = coalesce((select baseline_id from link l where l.kind = 'party' and l.object_id = d.value->'party'->>'id'), d.value->'party'->>'id'))`,
    )
  )[0]?.n ?? 0
const bookedUnder = async (): Promise<string[]> =>
  (
    await world.ownerSql<{ name: string }>(
      `select distinct request->'party'->>'name' as name from booking where period = '2026-09' and request is not null`,
    )
  ).map(({ name }) => name)

describe('one customer for all of a source', () => {
  test.each<[string, string, { systemId?: string; role?: string }, number, string]>([
    ['somebody who stands for themselves', 'cus_tollgate', {}, 422, 'AXION_NO_CATCH_ALL'],
    ['nobody', 'cus_nobody', {}, 404, 'AXION_NOT_FOUND'],
    ['of a ledger', 'cus_counter', { systemId: 'ledger' }, 404, 'AXION_NOT_FOUND'],
    ['by a viewer', 'cus_counter', { role: 'viewer' }, 403, 'AXION_FORBIDDEN'],
  ])('is not %s', async (_, party, options, status, code) => {
    const answer = await put(party, options)
    expect([answer.statusCode, answer.json<{ code: string }>().code]).toEqual([status, code])
    expect((await billing()).party).toBeNull()
  })

  it('stands for whoever the baseline does not know, in what is expected and in what is booked; those whom it knows stay themselves', async () => {
    const [counter, tollgate, others] = [
      await under('cus_counter'),
      await under('cus_tollgate'),
      await everybodyElse(),
    ]
    expect([others > 20, (await billing()).customers > 5]).toEqual([true, true])
    expect((await put('cus_counter')).statusCode).toBe(200)
    expect((await billing()).party).toBe('cus_counter')
    expect([await under('cus_counter'), await under('cus_tollgate')]).toEqual([counter + others, tollgate])
    await world.run('/post/rehearsal')
    const names = await bookedUnder()
    expect(names).toContain('Counter sale')
    expect(names.length).toBeLessThan(counter + others)
    expect((await put('cus_counter')).json<{ code: string }>().code).toBe('AXION_NOTHING_TO_DO')
  })

  it('frees nobody: who is exempt at the source alone is named, and taxed', async () => {
    const baseline = await inEntity(world.services.database, 'larkspur', readBaseline)
    const [certified] = await world.ownerSql<{ party: string; number: string }>(
      `select r.object_id as party, u.number from unit u join document d using (entity_id, system_id, document_id) join party r on r.entity_id = u.entity_id and r.object_id = d.value->'party'->>'id' and upper_inf(r.recorded)
       join certificate c on c.entity_id = u.entity_id and c.party = r.object_id and upper_inf(c.recorded)
       where u.period = '2026-09' and u.kind = 'invoice' and u.expected = 0 and d.value->'shipTo'->>'region' = 'XA-WN' order by 2 limit 1`,
    )
    const { party = '', number = '' } = certified ?? {}
    const before = (await billing()).exempt
    await world.ok('PUT', `${MONTH}/baseline`, {
      ...baseline,
      parties: baseline.parties.filter(({ code }) => code !== party),
      certificates: baseline.certificates.filter((one) => one.party !== party),
    })
    const { exempt, exemptNames } = await billing()
    expect([exempt, exemptNames.length]).toEqual([before + 1, before + 1])
    const [now] = await world.ownerSql<{ taxed: boolean }>(
      `select expected > 0 as taxed from unit where number = $1`,
      [number],
    )
    expect(now?.taxed).toBe(true)
  })

  it.each<[string, (party: { code: string; catchAll: boolean }) => readonly object[]]>([
    ['has it no more', () => []],
    ['has it as one who stands for itself', (party) => [{ ...party, catchAll: false }]],
  ])('is each customer itself where the baseline %s', async (_, instead) => {
    const baseline = await inEntity(world.services.database, 'larkspur', readBaseline)
    const before = await under('cus_counter')
    expect(before).toBeGreaterThan(20)
    await world.ok('PUT', `${MONTH}/baseline`, {
      ...baseline,
      parties: baseline.parties.flatMap((party) => (party.code === 'cus_counter' ? instead(party) : [party])),
    })
    expect((await billing()).party).toBeNull()
    expect(await under('cus_counter')).toBeLessThan(before)
    await world.ok('PUT', `${MONTH}/baseline`, baseline)
    expect([(await billing()).party, await under('cus_counter')]).toEqual(['cus_counter', before])
  })

  it('is taken back as what it was: each customer is itself again', async () => {
    const { batches } = await world.ok<{ batches: BatchView[] }>('GET', `${MONTH}/align/batches`)
    const made = batches.find(({ action }) => action === 'generic')
    expect(made).toMatchObject({ canUndo: true, says: 'Counter sale, Billing' })
    await world.run('/align/undo', { batchId: made?.id })
    expect((await billing()).party).toBeNull()
    expect((await put('cus_counter')).statusCode).toBe(200)
    expect((await put(null)).statusCode).toBe(200)
    expect((await put(null)).json<{ code: string }>().code).toBe('AXION_NOTHING_TO_DO')
    expect((await billing()).party).toBeNull()
  })
})
