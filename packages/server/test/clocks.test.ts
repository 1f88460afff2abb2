import { WHOLE_SCOPE, type PostView } from '@axion/contract'
import { baseline } from '@axion/demo'
import { afterAll, beforeAll, beforeEach, describe, expect, it, test } from 'vitest'
import { startDuePulls } from '../src/connect/schedule.ts'
import { circuitOf } from '../src/post/circuit.ts'
import { claim, holds, settle, type Leased } from '../src/post/outbox.ts'
import { Uncertain } from '../src/post/uncertain.ts'
import { makeReadyWorld, MONTH, timesBooked, type World } from './world.ts'

/** A database whose clock was set back: whatever it put off stands two days ahead, and nobody waits for it. */
let world: World
beforeAll(async () => void (world = await makeReadyWorld({ environment: { AXION_BRIDGE_TIMEOUT: '1' } })))
afterAll(() => world.close())

const AHEAD = `now() + interval '50 hours'`
const states = async (): Promise<PostView['counts']> =>
  (await world.ok<PostView>('GET', `${MONTH}/post`)).counts

describe('a booking', () => {
  let run: string
  beforeEach(async () => {
    const { rows } = await world.ok<PostView>('GET', `${MONTH}/post`)
    const next = rows.find(({ state }) => state === 'rehearsed')
    run = await world.begin('/post/runs', { units: [next?.unit] })
  })

  test.each([
    ['that was put off', `not_before = ${AHEAD}`],
    [
      'that a worker held when it died',
      `state = 'sending', lease_token = gen_random_uuid(), lease_until = ${AHEAD}`,
    ],
  ])('%s is sent', async (_, set) => {
    await world.ownerSql(`update booking set ${set} where run_id = $1`, [run])
    const before = (await states()).sent ?? 0
    expect((await world.finish(run)).state).toBe('done')
    expect((await states()).sent).toBe(before + 1)
    expect([...(await timesBooked(world)).values()].every((n) => n === 1)).toBe(true)
  })

  it('that a ledger has put off for days is looked at again within the hour, and not at once', async () => {
    const { database } = world.services
    const [booking] = await claim(database, 'larkspur', run, { leaseSeconds: 15 })
    await settle(database, 'larkspur', booking as Leased, {
      state: 'waiting',
      afterSeconds: 200_000,
      uncertain: true,
      detail: 'waits for a late commit',
    })
    expect(await claim(database, 'larkspur', run, { leaseSeconds: 15 })).toEqual([])
    const [{ next } = { next: 0 }] = await world.ownerSql<{ next: number }>(
      `select extract(epoch from not_before - now())::float8 as next from booking where run_id = $1`,
      [run],
    )
    expect(next).toBeLessThanOrEqual(3600)
    await world.ownerSql(`update booking set not_before = null, uncertain_since = null where run_id = $1`, [
      run,
    ])
    expect((await world.finish(run)).state).toBe('done')
  })

  it('that another worker took over is not sent by the one before, which held it for too long', async () => {
    const { database } = world.services
    const [slow] = await claim(database, 'larkspur', run, { leaseSeconds: 15 })
    await world.ownerSql(`update booking set lease_until = now() - interval '1 second' where run_id = $1`, [
      run,
    ])
    const [next] = await claim(database, 'larkspur', run, { leaseSeconds: 15 })
    expect([
      await holds(database, 'larkspur', slow as Leased, 15),
      await holds(database, 'larkspur', next as Leased, 15),
    ]).toEqual([false, true])
    await world.ownerSql(`update booking set lease_until = now() - interval '1 second' where run_id = $1`, [
      run,
    ])
    expect((await world.finish(run)).state).toBe('done')
  })
})

it('a ledger that was left alone is asked again', async () => {
  await world.ownerSql(
    `update system set circuit_failures = 9, circuit_until = ${AHEAD} where system_id = 'ledger'`,
  )
  const { waits } = world.services.settings
  expect((await circuitOf(world.services.database, 'larkspur', 'ledger', waits.circuit)).state).toBe(
    'half-open',
  )
  await world.ownerSql(`update system set circuit_failures = 0, circuit_until = null`)
})

test.each([
  ['that waits', `due_at = ${AHEAD}`],
  ['that a worker had begun when it died', `state = 'running', lease = 7, leased_until = ${AHEAD}`],
])('a slice %s is given out', async (_, set) => {
  const run = await world.begin('/pulls', { systemIds: null })
  await world.ownerSql(`update run set ${set} where run_id = $1`, [run])
  expect((await world.finish(run)).state).toBe('done')
})

test.each([[{ everyMinutes: 60 }], [{ at: ['05:00'] }]])(
  'a pull scheduled by %j is due',
  async (schedule) => {
    const path = `${MONTH}/systems/billing/scope`
    const scope = { ...WHOLE_SCOPE, schedule }
    const { revision } = (await world.as('administrator', 'POST', `${path}/preview`, scope)).json<{
      revision: string
    }>()
    expect((await world.as('administrator', 'PUT', path, { scope, revision })).statusCode).toBe(200)
    const due = (): Promise<object[]> => world.ownerSql('select * from pull_due')
    expect(await due()).toEqual([])
    await world.ownerSql(`update system_scope set next_pull_at = now() + interval '10 days'`)
    await startDuePulls(world.services)
    expect(await due()).toEqual([])
    const [{ run_id: run } = { run_id: '' }] = await world.ownerSql<{ run_id: string }>(
      `select run_id from run where state = 'queued'`,
    )
    expect((await world.finish(run)).state).toBe('done')
  },
)

it('what is agreed is recorded past all that was', async () => {
  await world.ownerSql(`update party set recorded = tstzrange(${AHEAD}, null) where upper_inf(recorded)`)
  await world.ownerSql(`update legal_entity set recorded_last = ${AHEAD}`)
  const renamed = baseline()
  renamed.parties?.forEach((one) => (one.name += ' again'))
  expect(await world.ok('PUT', `${MONTH}/baseline`, renamed)).toMatchObject({
    added: renamed.parties?.length,
  })
})

it('a worker is alive only where it was heard of about now', async () => {
  await world.ownerSql(`insert into worker_heartbeat (worker_id, at) values (gen_random_uuid(), ${AHEAD})`)
  expect((await world.app.inject('/api/health')).json()).toMatchObject({ worker: false })
})

describe('how long nobody can be sending a booking any more', () => {
  let now: number
  let uncertain: Uncertain
  beforeEach(() => {
    now = 5000
    uncertain = new Uncertain(() => now)
  })
  const at = (attempts: number, since: Date | null = new Date(0)): Leased =>
    ({
      external_id: 'e/b/d/invoice',
      revision: 1,
      action: 'book',
      uncertain_since: since,
      attempts,
    }) as Leased
  const quiet = (booking: Leased): number | null => uncertain.quietForSeconds('larkspur', booking, 10)

  it('is counted from when this process met it, with the time that another may still be at it, whatever any clock says', () => {
    expect([quiet(at(1, null)), quiet(at(2))]).toEqual([null, -10])
    now += 12_000
    expect(quiet(at(3))).toBe(2)
  })

  it('is counted anew from each attempt of its own that had no answer', () => {
    uncertain.unanswered('larkspur', at(1))
    now += 6000
    expect(quiet(at(2))).toBe(6)
    uncertain.unanswered('larkspur', at(2))
    now += 1000
    expect(quiet(at(3))).toBe(1)
  })

  it('is not known where somebody else had it in between', () => {
    uncertain.unanswered('larkspur', at(1))
    now += 60_000
    expect(quiet(at(3))).toBe(-10)
  })

  it('is forgotten once what became of it is known', () => {
    uncertain.unanswered('larkspur', at(1))
    now += 60_000
    expect([quiet(at(2, null)), quiet(at(3))]).toEqual([null, -10])
  })
})
