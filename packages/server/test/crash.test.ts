import type { PostView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import { Workers } from './workers.ts'
import { makeReadyWorld, MONTH, timesBooked, type World } from './world.ts'

let world: World
let workers: Workers
beforeAll(async () => {
  world = await makeReadyWorld({ environment: { AXION_BRIDGE_TIMEOUT: '2', AXION_LEASE: '3' } })
  workers = new Workers(world)
})
afterAll(async () => {
  await workers.killAll()
  await world.close()
})

const booked = async (): Promise<number> => (await timesBooked(world)).size
const untilBooked = (n: number): Promise<void> =>
  vi.waitFor(async () => expect(await booked()).toBeGreaterThanOrEqual(n), { timeout: 600_000, interval: 20 })
const counts = async (): Promise<PostView['counts']> =>
  (await world.ok<PostView>('GET', `${MONTH}/post`)).counts

/** One after another goes by the same name: each takes over at once what the one before had. */
const ONE = { AXION_WORKER: 'one' }

/** Kills a worker in the middle of a run, again and again, as no signal handler can soften. */
async function killAt(points: readonly number[]): Promise<void> {
  for (const point of points) {
    const worker = workers.start('worker', ONE)
    await untilBooked(point)
    await workers.kill(worker)
  }
}

describe('kill -9 of the worker in the middle of a posting run', () => {
  it('loses no document and books none twice, against a ledger that ignores keys and drops acknowledgements', async () => {
    const documents = (await world.ok<PostView>('GET', `${MONTH}/post`)).rows
    await world.desk('ledger', 'faults', { name: 'keys-ignored', requests: '-1' })
    await world.desk('ledger', 'faults', { name: 'lost-after-commit', requests: '4' })
    await world.ok('POST', `${MONTH}/post/runs`, { units: documents.slice(0, 80).map((d) => d.unit) })
    await killAt([7, 23, 45])
    workers.start('worker', ONE)
    await vi.waitFor(async () => expect(await counts()).toEqual({ sent: 80, rehearsed: 64 }), {
      timeout: 600_000,
      interval: 200,
    })
    const times = await timesBooked(world)
    expect(times.size).toBe(80)
    expect([...times.values()].every((n) => n === 1)).toBe(true)
  })

  it('goes on with the rest, and every document is there once', async () => {
    await world.desk('ledger', 'faults', { name: 'keys-ignored', requests: '0' })
    await world.ok('POST', `${MONTH}/post/runs`, { states: ['rehearsed'] })
    await vi.waitFor(async () => expect(await counts()).toEqual({ sent: 144 }), {
      timeout: 600_000,
      interval: 200,
    })
    expect([...(await timesBooked(world)).values()]).toEqual(Array.from({ length: 144 }, () => 1))
  })
})
