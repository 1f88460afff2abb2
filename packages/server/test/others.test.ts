import type { AlignKind, ConnectView, GridView, TieOutView } from '@axion/contract'
import { otherSystems, SEED } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { inEntity, json } from '../src/database/connection.ts'
import { unitsOf } from '../src/tieout/gather.ts'
import { groundsOf } from '../src/tieout/prove.ts'
import { makeWorld, MONTH, plainBilling, type World } from './world.ts'

let world: World
beforeAll(async () => {
  world = await makeWorld({ billing: plainBilling(4711), others: otherSystems(SEED) })
  await world.run('/pulls', { systemIds: null })
})
afterAll(() => world.close())

const grid = (kind: AlignKind): Promise<GridView> => world.ok('GET', `${MONTH}/align/${kind}`)

describe('systems beside ledger and billing', () => {
  it('are pulled with all that they offer, and their records are kept beside what is posted one to one', async () => {
    const rows = await world.ownerSql<{ system_id: string; kind: string; n: number }>(`select system_id, kind, count(*)::int as n from held_record where entity_id = 'larkspur' group by 1, 2 order by 1, 2`)
    expect(rows.map((r) => [r.system_id, r.kind, r.n])).toEqual([
      ['bank', 'bank-line', 9], ['commerce', 'order', 40], ['payments', 'charge', 48], ['payments', 'payout', 4], ['payments-web', 'charge', 48], ['payments-web', 'payout', 4], ['pos', 'receipt', 90], ['purchasing', 'bill', 12],
    ])
    expect(await world.ownerSql(`select 1 from finding where entity_id = 'larkspur'`)).toEqual([])
    // What the quay sells before three in the night belongs to the day before; on the first that is another month.
    const nights = await world.ownerSql<{ days: string; place: string; night: boolean }>(`select distinct (day - trading_day)::text as days, value->>'locationId' as place, (value->>'soldAt' like '%T01:%') as night from held_record where system_id = 'pos' order by 1, 2`)
    expect(nights).toEqual([{ days: '0', place: 'loc_merrow', night: false }, { days: '0', place: 'loc_quay', night: false }, { days: '0', place: 'loc_quillby', night: false }, { days: '1', place: 'loc_quay', night: true }])
    expect((await world.ok<TieOutView>('GET', `${MONTH}/tie-out?show=all`)).total).toBeGreaterThan(140)
    expect(await world.ownerSql(`select 1 from tie_unit where entity_id = 'larkspur' and system_id not in ('billing', 'ledger')`)).toEqual([])
  })

  it('are each bound to a company by name, and ready or not by what they say', async () => {
    const { systems } = await world.ok<ConnectView>('GET', `${MONTH}/connect`)
    expect(systems.map((s) => [s.id, s.product, s.company])).toContainEqual(['pos', 'Gatepost Till', 'Larkspur Apiary Supply'])
    expect(systems.find((s) => s.id === 'bank')?.checks.map((c) => [c.code, c.state])).toEqual([['base-currency', 'passes']])
    expect(systems.flatMap((s) => s.checks).filter((c) => c.state !== 'passes').map((c) => c.code)).toEqual(['keeps-numbers'])
  })

  it('have columns where they hold something of a kind, and findings of their own', async () => {
    const columns = async (kind: AlignKind): Promise<string[]> => (await grid(kind)).systems.map((s) => s.id).sort()
    expect(await columns('rates')).toEqual(['billing', 'commerce', 'ledger', 'pos', 'purchasing'])
    expect([await columns('items'), await columns('parties'), await columns('accounts')]).toEqual([['billing', 'commerce', 'pos'], ['billing', 'commerce', 'purchasing'], ['ledger']])
    await world.ok('POST', `${MONTH}/links/clear`, { kinds: ['agencies', 'rates', 'items'] })
    const found = async (kind: AlignKind): Promise<string[]> => (await grid(kind)).rows.flatMap((r) => r.findings.filter((f) => f.systemId !== null && !['ledger', 'billing'].includes(f.systemId)).map((f) => `${r.id} ${f.systemId} ${f.code.replace('AXION_', '')}`))
    expect(await found('rates')).toEqual(['WN-PLX pos RATE_PERCENT', 'TK purchasing RATE_PERCENT', 'pos till_TK-MER pos ALIGN_EXTRA', 'pos till_TK-MER pos RATE_FLAT'])
    expect(await found('agencies')).toEqual(['MCA pos ALIGN_NOT_LINKED', 'MCA pos ALIGN_NAME'])
    expect(await found('items')).toEqual(['TOOL-J commerce ALIGN_NAME', 'SUIT-V pos ITEM_TAX_CODE', 'HONEY-5 pos ITEM_ON_DEFAULT', 'SEED-C commerce ITEM_TAX_CODE'])
    expect(await found('codes')).toEqual(['pos CLOTHES pos ALIGN_EXTRA'])
    expect(await found('parties')).toEqual(['cus_thistledown commerce PARTY_CLAIMS'])
  })

  it('are changed on their desks field by field, and nothing is set that is no plain field', async () => {
    const cutOffs = (): Promise<{ cutOff: string | null; name: string }[]> => world.ownerSql(`select value->>'cutOff' as "cutOff", value->>'name' as name from held_object where entity_id = 'larkspur' and resource = 'locations' and system_id = 'pos' order by object_id`)
    await world.desk('pos', 'objects', { resource: 'locations', id: 'loc_quay', cutOff: '', name: 'The quay' })
    await world.desk('pos', 'objects', { resource: 'payment-methods', id: 'pm_gift', active: 'no' })
    await world.run('/pulls', { systemIds: ['pos'] })
    expect(await cutOffs()).toContainEqual({ cutOff: null, name: 'The quay' })
    const changed = (await world.ok<ConnectView>('GET', `${MONTH}/connect`)).systems.find((s) => s.id === 'pos')?.changes
    expect(changed?.flatMap((c) => c.fields.map((f) => `${c.resource} ${f.field}: ${f.from} > ${f.to}`)).sort()).toEqual(['locations cutOff: 03:00 > ', 'locations name: Port Lennox quay > The quay', 'payment-methods active: true > false'])
    for (const [fields, status] of [[{ resource: 'locations', id: 'loc_quay', address: 'x' }, 400], [{ resource: 'locations', id: 'nowhere', name: 'x' }, 404], [{ resource: 'accounts', id: '1', name: 'x' }, 404]] as const) {
      await expect(world.desk('pos', 'objects', fields)).rejects.toThrow(String(status))
    }
  })

  it('leave a month’s units the same, in whatever slices they are worked out', async () => {
    const gathered = (slice: number): Promise<string[]> => inEntity(world.services.database, 'larkspur', async (trx) => {
      const units: string[] = []
      for await (const some of unitsOf(trx, await groundsOf(trx, 'larkspur'), '2026-09', 'all', slice)) units.push(...some.map((unit) => json([unit.unitId, unit.expected, unit.stated, unit.booked])))
      return units
    })
    const whole = await gathered(5000)
    expect(whole.length).toBeGreaterThan(140)
    for (const slice of [1, 7, whole.length]) expect(await gathered(slice)).toEqual(whole)
  })

  it('keep what a bad record says wrong by name, and take the others', async () => {
    await world.desk('pos', 'objects', { resource: 'documents', id: 'rec_5001', kind: 'invoice' })
    await world.desk('pos', 'objects', { resource: 'documents', id: 'rec_5002', total: '1.00' })
    await world.desk('pos', 'remove', { resource: 'documents', id: 'rec_5003' })
    await world.run('/pulls', { systemIds: ['pos'] })
    const findings = await world.ownerSql<{ object_id: string; problem: string }>(`select object_id, facts->>'problem' as problem from finding where entity_id = 'larkspur' order by object_id`)
    expect(findings.map((f) => [f.object_id, /kind "invoice" is none that a pos system has|AXION_JOURNAL_OUT_OF_BALANCE/.test(f.problem)])).toEqual([['rec_5001', true], ['rec_5002', true]])
    expect(await world.ownerSql(`select record_id from held_record where entity_id = 'larkspur' and removed`)).toEqual([{ record_id: 'rec_5003' }])
  })
})
