import type { PostView, TieOutView } from '@axion/contract'
import { uniformInt } from 'pure-rand/distribution/uniformInt'
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'
import { describe, expect, test, vi } from 'vitest'
import { makeWellWorld, MONTH, timesBooked, type World } from './world.ts'
import { Workers } from './workers.ts'

/**
 * Everything goes wrong at once, in an order that a seed draws: workers are killed, the ledger is slow, busy, away, drops
 * connections before and after its commit and ignores keys, sources are edited and voided while documents are on their way.
 * Afterwards, with all well again, each document is in the ledger as often as it should be, with the amounts of its source.
 */
const SEEDS = Array.from({ length: Number(process.env['AXION_CHAOS_SEEDS'] ?? 2) }, (_, at) => 101 + at)
const STEPS = 14
const FAULTS = [
  'too-many',
  'unavailable',
  'lost-after-commit',
  'lost-before-commit',
  'slow',
  'keys-ignored',
] as const

type Draw = (from: number, to: number) => number
const ordersOf = async (world: World): Promise<PostView> => world.ok<PostView>('GET', `${MONTH}/post`)

async function step(
  world: World,
  workers: Workers,
  draw: Draw,
  alive: { worker: ReturnType<Workers['start']> },
): Promise<string> {
  const { rows } = await ordersOf(world)
  const some = rows[draw(0, rows.length - 1)]
  const id = some?.unit.split(':')[2] ?? ''
  switch (draw(0, 6)) {
    case 0:
    case 1: {
      const name = FAULTS[draw(0, FAULTS.length - 1)] ?? 'unavailable'
      await world.desk('ledger', 'faults', { name, requests: String(draw(1, 4)) })
      return name
    }
    case 2:
      await workers.kill(alive.worker)
      alive.worker = workers.start()
      return 'kill'
    case 3:
      await world.desk('billing', 'invoices', { id, amount: `${draw(20, 900)}.${draw(10, 99)}` })
      return `edit ${id}`
    case 4:
      await world.desk('billing', 'state', { id, action: 'void' })
      return `void ${id}`
    case 5:
      await world.as('preparer', 'POST', `${MONTH}/pulls`, { systemIds: null })
      return 'pull'
    default:
      // Whatever is open may be posted, or there is nothing to post just now.
      await world.as('preparer', 'POST', `${MONTH}/post/runs`, { states: ['rehearsed', 'failed', 'changed'] })
      return 'post'
  }
}

async function quiet(world: World): Promise<void> {
  await vi.waitFor(
    async () => {
      const { rows } = await ordersOf(world)
      expect(rows.filter((r) => ['waiting', 'sending'].includes(r.state)).map((r) => r.number)).toEqual([])
      const [{ running = '1' } = {}] = (
        (await world.services.database.raw(`select count(*)::text as running from unfinished_runs()`)) as {
          rows: { running: string }[]
        }
      ).rows
      expect(running).toBe('0')
    },
    { timeout: 90_000, interval: 250 },
  )
}

describe('chaos', () => {
  test.each(SEEDS)(
    'seed %d',
    async (seed) => {
      const generator = xoroshiro128plus(seed)
      const draw: Draw = (from, to) => uniformInt(generator, from, to)
      const world = await makeWellWorld(seed, { AXION_BRIDGE_TIMEOUT: '2', AXION_LEASE: '3' })
      const workers = new Workers(world)
      const alive = { worker: workers.start() }
      const story: string[] = []
      try {
        await world.ok('POST', `${MONTH}/post/runs`, { states: ['rehearsed'] })
        for (let at = 0; at < STEPS; at++) story.push(await step(world, workers, draw, alive))
        for (const name of FAULTS) await world.desk('ledger', 'faults', { name, requests: '0' })
        await quiet(world)
        for (let rounds = 0; rounds < 4; rounds++) {
          await world.ok('POST', `${MONTH}/pulls`, { systemIds: null })
          await quiet(world)
          if (
            (
              await world.as('preparer', 'POST', `${MONTH}/post/runs`, {
                states: ['rehearsed', 'failed', 'changed'],
              })
            ).statusCode === 200
          )
            await quiet(world)
          const toVoid = (await ordersOf(world)).rows
            .filter((r) => r.state === 'void-at-source')
            .map((r) => r.unit)
          if (toVoid.length > 0) {
            const { revision } = await world.ok<{ revision: string }>(
              'POST',
              `${MONTH}/post/withdrawals/preview`,
              { units: toVoid },
            )
            await world.as('preparer', 'POST', `${MONTH}/post/withdrawals`, { units: toVoid, revision })
            await quiet(world)
          }
        }
        const told = `seed ${seed}: ${story.join(', ')}`
        const times = await timesBooked(world)
        const voided = new Set(
          (
            await world.billingSql<{ id: string }>(
              `select id from object where resource = 'documents' and value->>'status' = 'void'`,
            )
          ).map((r) => r.id),
        )
        for (const { externalId, unit, number } of (await ordersOf(world)).rows) {
          expect(times.get(externalId ?? '') ?? 0, `${told}: ${number}`).toBe(
            voided.has(unit.split(':')[2] ?? '') ? 0 : 1,
          )
        }
        expect(await world.ok<TieOutView>('GET', `${MONTH}/tie-out`), told).toMatchObject({
          unproved: '0.00',
          unprovedNet: '0.00',
          documents: 0,
        })
      } finally {
        await workers.killAll()
        await world.close()
      }
    },
    240_000,
  )
})
