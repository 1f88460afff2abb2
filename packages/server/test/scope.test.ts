import {
  WHOLE_SCOPE,
  type CloseView,
  type ConnectView,
  type PostView,
  type Scope,
  type ScopePreview,
  type ScopeView,
} from '@axion/contract'
import { otherSystems, SEED } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startDuePulls } from '../src/connect/schedule.ts'
import { makeReadyWorld, MONTH, type World } from './world.ts'

let world: World
beforeAll(async () => {
  world = await makeReadyWorld({
    others: otherSystems(SEED).filter((system) => ['pos', 'commerce', 'bank'].includes(system.id)),
  })
})
afterAll(() => world.close())

const units = (text: string | null): bigint => BigInt((text ?? '0').replace('.', ''))
const view = (system: string): Promise<ScopeView> => world.ok('GET', `${MONTH}/systems/${system}/scope`)
const preview = async (
  system: string,
  changes: Partial<Scope>,
): Promise<{ scope: Scope; seen: ScopePreview }> => {
  const scope = { ...WHOLE_SCOPE, ...changes }
  return {
    scope,
    seen: (await world.as('administrator', 'POST', `${MONTH}/systems/${system}/scope/preview`, scope)).json(),
  }
}
const keep = async (system: string, changes: Partial<Scope>): Promise<ScopePreview> => {
  const { scope, seen } = await preview(system, changes)
  const kept = await world.as('administrator', 'PUT', `${MONTH}/systems/${system}/scope`, {
    scope,
    revision: seen.revision,
  })
  expect(kept.statusCode).toBe(200)
  return seen
}
const post = (): Promise<PostView> => world.ok('GET', `${MONTH}/post`)
const close = (): Promise<CloseView> => world.ok('GET', `${MONTH}/close`)
const staked = (): Promise<{ system: string; n: number }[]> =>
  world.ownerSql(
    `select u.system_id as system, count(*)::int as n from stake_share s join unit u using (entity_id, unit_id) where s.entity_id = 'larkspur' and not u.posted group by 1 order by 1`,
  )

describe('the scope of a system', () => {
  it('leaves out what is dated before a day, with its amounts, and takes it again', async () => {
    const [posted, closed] = [await post(), await close()]
    const early = await world.ownerSql<{ n: number }>(
      `select count(*)::int as n from source_document where entity_id = 'larkspur' and document_date < '2026-09-10' and status not in ('draft', 'void')`,
    )
    const seen = await keep('billing', { from: '2026-09-10' })
    expect([seen.leaves.documents, seen.comes.documents, seen.staysBooked.documents]).toEqual([
      early[0]?.n,
      0,
      0,
    ])
    const after = await view('billing')
    expect([after.tooOld, after.off.documents, after.left.length]).toEqual([
      seen.leaves,
      0,
      Math.min(50, seen.leaves.documents),
    ])
    expect(units(after.left.length < 50 ? seen.leaves.total : '0')).toBe(
      after.left.length < 50 ? after.left.reduce((sum, one) => sum + units(one.total), 0n) : 0n,
    )
    expect(
      after.left.every((one) => one.why === 'out-of-range' && one.date < '2026-09-10' && !one.booked),
    ).toBe(true)
    // Post shows it as what it is, and the month's totals go without it.
    const left = await post()
    expect([left.counts['out-of-range'], left.counts.rehearsed]).toEqual([
      seen.leaves.documents,
      (posted.counts.rehearsed ?? 0) - seen.leaves.documents,
    ])
    expect(left.tax['out-of-range']).toBe(seen.leaves.tax)
    const total = await close()
    expect(units(closed.totals.stated) - units(total.totals.stated)).toBe(units(seen.leaves.tax))
    expect([total.totals.expected, total.unproved]).toEqual([total.expected, total.totals.unproved])
    const members = await world.ok<{ amount: string }>(
      'GET',
      `${MONTH}/evidence?open=${encodeURIComponent('of=tax&voice=expected')}`,
    )
    expect(members.amount).toBe(total.expected)
    expect((await world.run('/post/rehearsal')).state).toBe('done')
    expect((await post()).counts['not-composed']).toBeUndefined()
    const connect = await world.ok<ConnectView>('GET', `${MONTH}/connect`)
    expect(connect.systems.find((system) => system.id === 'billing')?.leftOut).toEqual(seen.leaves)

    expect((await keep('billing', {})).comes).toEqual(seen.leaves)
    expect([
      await close().then(({ history: _, ...rest }) => rest),
      (await post()).counts['out-of-range'],
    ]).toEqual([(({ history: _, ...rest }) => rest)(closed), undefined])
  })

  it('leaves out outlets, channels, kinds and whole systems, and puts nothing at stake on them', async () => {
    const before = await staked()
    const { parts } = await view('pos')
    expect(parts.places.map((place) => place.name)).toEqual([
      'Cairnmouth autumn fair',
      'Merrow market',
      'Port Lennox quay',
      'Quillby yard',
    ])
    const quay = parts.places.find((place) => place.key === 'loc_quay')
    const seen = await keep('pos', { off: { ...WHOLE_SCOPE.off, places: ['loc_quay'] } })
    expect(seen.leaves).toEqual({ documents: quay?.documents, tax: quay?.tax, total: quay?.total })
    expect((await staked()).find((row) => row.system === 'pos')?.n ?? 0).toBeLessThan(
      before.find((row) => row.system === 'pos')?.n ?? 0,
    )
    // What comes in later is judged by the same scope.
    await world.desk('pos', 'objects', { resource: 'locations', id: 'loc_quay', name: 'The quay' })
    await world.run('/pulls', { systemIds: ['pos'] })
    expect((await view('pos')).off.documents).toBe(quay?.documents)
    expect((await view('commerce')).parts.channels.map((channel) => channel.key).sort()).toEqual([
      'Commonfair',
      'Own shop',
    ])
    for (const [system, changes] of [
      ['commerce', { off: { ...WHOLE_SCOPE.off, channels: ['Commonfair'] } }],
      ['commerce', { off: { ...WHOLE_SCOPE.off, kinds: ['order'] } }],
      ['pos', { off: { ...WHOLE_SCOPE.off, statuses: ['paid'] } }],
      ['bank', { comesIn: false }],
    ] as const) {
      const { leaves } = await keep(system, changes as Partial<Scope>)
      expect(leaves.documents).toBeGreaterThan(0)
      expect(leaves.tax === null).toBe(system === 'bank')
      await keep(system, {})
    }
    await keep('pos', {})
    expect(await staked()).toEqual(before)
  })

  it('keeps what is booked, sends nothing where it is closed, and is changed by administrators alone, as previewed', async () => {
    const [first] = (await world.ok<PostView>('GET', `${MONTH}/post?state=rehearsed`)).rows
    expect((await world.run('/post/runs', { units: [first?.unit] })).done).toBe(1)
    await world.run('/pulls', { systemIds: ['ledger'] })
    const { scope, seen } = await preview('billing', { comesIn: false })
    expect(seen.staysBooked.documents).toBe(1)
    expect(
      (
        await world.as('preparer', 'PUT', `${MONTH}/systems/billing/scope`, {
          scope,
          revision: seen.revision,
        })
      ).statusCode,
    ).toBe(403)
    expect(
      (
        await world.as('administrator', 'PUT', `${MONTH}/systems/billing/scope`, {
          scope,
          revision: 'another',
        })
      ).json(),
    ).toMatchObject({ code: 'AXION_STALE' })
    await keep('billing', { comesIn: false })
    expect((await post()).counts).toMatchObject({ booked: 1 })
    expect((await post()).counts.rehearsed).toBeUndefined()
    expect(
      (await world.as('preparer', 'POST', `${MONTH}/post/runs`, { states: ['rehearsed'] })).json(),
    ).toMatchObject({ code: 'AXION_NOTHING_TO_DO' })
    await keep('billing', {})

    await keep('ledger', { goesOut: false })
    expect(
      (await world.as('preparer', 'POST', `${MONTH}/post/runs`, { states: ['rehearsed'] })).json(),
    ).toMatchObject({
      code: 'AXION_NOT_READY',
      title: expect.stringContaining('Its scope sends nothing to Ledger') as string,
    })
    const send = await world.as('preparer', 'POST', `${MONTH}/mend/preview`, {
      remedy: {
        kind: 'component-percent',
        systemId: 'ledger',
        objectId: 'tax_WN-FEN',
        jurisdictionId: 'WN-HOL',
      },
    })
    expect(send.json()).toMatchObject({ code: 'AXION_NOTHING_TO_DO' })
    await keep('ledger', {})
    for (const bad of [
      { ...WHOLE_SCOPE, from: '2026-02-30' },
      { ...WHOLE_SCOPE, off: { ...WHOLE_SCOPE.off, statuses: ['void'] } },
      { ...WHOLE_SCOPE, schedule: { everyMinutes: 1 } },
      { ...WHOLE_SCOPE, schedule: { at: ['25:00'] } },
      { ...WHOLE_SCOPE, schedule: { at: [] } },
    ]) {
      expect(
        (await world.as('administrator', 'POST', `${MONTH}/systems/billing/scope/preview`, bad)).statusCode,
      ).toBe(400)
    }
    expect((await world.as('stranger', 'GET', `${MONTH}/systems/billing/scope`)).statusCode).toBe(404)
  })
})

describe('a schedule', () => {
  const runs = (): Promise<{ run_id: string; payload: { systemIds: string[]; month: string } }[]> =>
    world.ownerSql(`select run_id, payload from run where entity_id = 'larkspur' and started_by = 'Schedule'`)

  it('pulls what is due once, whoever looks, and waits while something else is done', async () => {
    await keep('pos', { schedule: { everyMinutes: 30 } })
    await startDuePulls(world.services)
    expect(await runs()).toEqual([])
    await world.ownerSql(
      `update system_scope set next_pull_at = now() - interval '1 minute' where system_id = 'pos'`,
    )
    const other = await world.begin('/pulls', { systemIds: ['bank'] })
    await startDuePulls(world.services)
    expect(await runs()).toEqual([])
    await world.finish(other)
    await Promise.all([startDuePulls(world.services), startDuePulls(world.services)])
    const started = await runs()
    expect(started.map((run) => run.payload)).toEqual([{ month: '2026-10', systemIds: ['pos'] }])
    expect((await world.finish(started[0]?.run_id ?? '')).state).toBe('done')
    const [{ next }] = (await world.ownerSql<{ next: boolean }>(
      `select next_pull_at > now() + interval '29 minutes' as next from system_scope where system_id = 'pos'`,
    )) as [{ next: boolean }]
    expect(next).toBe(true)
  })

  it('reads times by the wall clock of the entity, the nearest to come first, and none where nobody set one', async () => {
    await keep('pos', { schedule: { at: ['06:00', '18:30'] } })
    const [{ wall, soon }] = (await world.ownerSql<{ wall: string; soon: boolean }>(
      `select to_char(next_pull_at at time zone 'America/Chicago', 'HH24:MI') as wall, next_pull_at between now() and now() + interval '12.5 hours' as soon from system_scope where system_id = 'pos'`,
    )) as [{ wall: string; soon: boolean }]
    expect(['06:00', '18:30']).toContain(wall)
    expect(soon).toBe(true)
    await keep('pos', {})
    expect(await world.ownerSql(`select 1 from system_scope where next_pull_at is not null`)).toEqual([])
  })
})

it('a system that was taken off sends nothing, and a rehearsal goes by it', async () => {
  await world.as('administrator', 'DELETE', '/api/entities/larkspur/systems/billing')
  expect(await world.run('/post/rehearsal')).toMatchObject({ state: 'done', problem: null, done: 0 })
})
