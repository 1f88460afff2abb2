import { spawnSync } from 'node:child_process'
import { appendFileSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import type { PostView, TieOutView } from '@axion/contract'
import { uniformInt } from 'pure-rand/distribution/uniformInt'
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'
import { describe, expect, test, vi } from 'vitest'
import { freePort } from '../../../scripts/lib/home.mjs'
import { cuttableWay, type CuttableWay } from './cutting.ts'
import { makeWellWorld, MONTH, timesBooked, type World } from './world.ts'
import { Workers } from './workers.ts'

/**
 * Everything goes wrong at once, in an order that a seed draws: worker, server and database are killed, the disk is full, clocks jump, the
 * ledger is slow, busy, away, drops connections before and after its commit and ignores keys, answers are cut, sources are edited and
 * voided while documents are on their way, and people press everything. Afterwards, with all well again, each document is in the ledger as
 * often as it should be, with the amounts of its source.
 * AXION_CHAOS_SEEDS is "from..to"; AXION_CHAOS_LOG a file for what struck what.
 */
const [FROM = 1, TO = 2] = (process.env['AXION_CHAOS_SEEDS'] ?? '1..2').split('..').map(Number)
const SEEDS = Array.from({ length: TO - FROM + 1 }, (_, at) => FROM + at)
const STEPS = 16
const FAULTS = [
  'too-many',
  'unavailable',
  'lost-after-commit',
  'lost-before-commit',
  'slow',
  'keys-ignored',
] as const
const FAKETIME = '/usr/lib/x86_64-linux-gnu/faketime/libfaketime.so.1'
/** So much the database may fill; its data folder lies on a disk of its own where one can be mounted. */
const DISK_MB = 600

type Draw = (from: number, to: number) => number
interface Stage {
  readonly world: World
  readonly workers: Workers
  readonly worker: () => ReturnType<Workers['start']>
  readonly server: () => ReturnType<Workers['start']>
  readonly way: CuttableWay
  readonly base: string
  readonly cookie: string
  /** A disk of its own that can be filled; null where none could be mounted. */
  readonly disk: string | null
  /** Where the programs read what time it is; null where that cannot be told them. */
  readonly clock: string | null
  readonly draw: Draw
}

/** What was under way when something struck: a run's step, or a sending. */
async function underWay({ world }: Stage): Promise<string | null> {
  const rows = await world
    .ownerSql<{ what: string }>(
      `select kind || case when step = '' then '' else ': ' || regexp_replace(step, '^(Ledger|Billing): .*', '\\1') end as what from run where state = 'running' order by updated_at desc limit 1`,
    )
    .catch(() => [])
  return rows[0]?.what ?? null
}

/** Has a pull and a posting begun, and waits until a worker is at one of them: what strikes nothing shows nothing. */
async function beginsSomething(stage: Stage): Promise<string | null> {
  const { world } = stage
  const states = ['rehearsed', 'failed', 'changed']
  await world.as('preparer', 'POST', `${MONTH}/post/runs`, { states })
  await world.as('preparer', 'POST', `${MONTH}/pulls`, { systemIds: null })
  for (let tries = 0; tries < 100; tries++) {
    const what = await underWay(stage)
    if (what !== null) return what
    await pause(30)
  }
  return null
}

const STRIKES: Readonly<Record<string, (stage: Stage) => Promise<void>>> = {
  worker: ({ workers, worker }) => workers.kill(worker()),
  server: async (stage) => {
    void press(stage)
    await stage.workers.kill(stage.server())
  },
  postgres: async ({ world }) => {
    const [pid = ''] = readFileSync(join(world.cluster.data, 'postmaster.pid'), 'utf8').split('\n')
    process.kill(Number(pid), 'SIGKILL')
    await vi.waitFor(() => world.ownerSql('select 1'), { timeout: 60_000, interval: 100 })
  },
  people: (stage) => press(stage),
  'cut answers': ({ way, draw }) => Promise.resolve(way.cut(draw(1, 4), () => draw(0, 2000))),
  'full disk': async ({ world, disk }) => {
    if (disk === null) return
    const file = join(disk, 'filling')
    spawnSync('dd', ['if=/dev/zero', `of=${file}`, 'bs=1M', `count=${DISK_MB * 2}`], { stdio: 'ignore' })
    await world.as('preparer', 'POST', `${MONTH}/pulls`, { systemIds: null })
    rmSync(file)
    await vi.waitFor(() => world.ownerSql('select 1'), { timeout: 60_000, interval: 100 })
  },
  clock: ({ clock, draw }) => {
    if (clock !== null) writeFileSync(clock, `${draw(0, 1) === 0 ? '-' : '+'}${draw(1, 50)}h`)
    return Promise.resolve()
  },
}

/** Twenty people press everything at once; nobody is told 500. */
async function press({ base, cookie, draw }: Stage): Promise<void> {
  const acts: readonly (readonly [string, string, object?])[] = [
    ['GET', '/tie-out'],
    ['GET', '/post'],
    ['GET', '/close'],
    ['GET', '/align/rates'],
    ['POST', '/pulls', { systemIds: null }],
    ['POST', '/post/rehearsal', {}],
    ['POST', '/post/runs', { states: ['rehearsed', 'failed', 'changed'] }],
    ['POST', '/full-proof', {}],
    ['PUT', '/links', { systemId: 'ledger', kind: 'agency', objectId: 'agency_HCT', baselineId: 'HCT' }],
  ]
  const statuses = await Promise.all(
    Array.from({ length: 20 }, async () => {
      const [method, path, body] = acts[draw(0, acts.length - 1)] ?? ['GET', '/post']
      const answer = await fetch(`${base}${MONTH}${path}`, {
        method,
        headers: { cookie, 'x-axion-request': 't', ...(body ? { 'content-type': 'application/json' } : {}) },
        ...(body ? { body: JSON.stringify(body) } : {}),
      }).catch(() => null)
      return answer?.status === 500 ? `${method} ${path}: ${await answer.text()}` : null
    }),
  )
  expect(statuses.filter((one) => one !== null)).toEqual([])
}

const ordersOf = async (world: World): Promise<PostView> => world.ok<PostView>('GET', `${MONTH}/post`)

async function step(stage: Stage): Promise<string> {
  const { world, draw } = stage
  const { rows } = await ordersOf(world)
  const some = rows[draw(0, rows.length - 1)]
  const id = some?.unit.split(':')[2] ?? ''
  const which = draw(0, 13)
  if (which < 7) {
    const name = Object.keys(STRIKES)[which] ?? 'worker'
    const during = await beginsSomething(stage)
    await STRIKES[name]?.(stage)
    const tried = (name !== 'full disk' || stage.disk !== null) && (name !== 'clock' || stage.clock !== null)
    note(tried ? name : `${name} (not tried)`, during)
    return name
  }
  switch (which) {
    case 7:
    case 8: {
      const name = FAULTS[draw(0, FAULTS.length - 1)] ?? 'unavailable'
      note(name, await beginsSomething(stage))
      await world.desk('ledger', 'faults', { name, requests: String(draw(1, 4)) })
      return name
    }
    case 9:
      await world.desk('billing', 'invoices', { id, amount: `${draw(20, 900)}.${draw(10, 99)}` })
      return `edit ${id}`
    case 10:
      await world.desk('billing', 'state', { id, action: 'void' })
      return `void ${id}`
    case 11:
      await world.as('preparer', 'POST', `${MONTH}/pulls`, { systemIds: null })
      return 'pull'
    default:
      // Whatever is open may be posted, or there is nothing to post just now.
      await world.as('preparer', 'POST', `${MONTH}/post/runs`, { states: ['rehearsed', 'failed', 'changed'] })
      return 'post'
  }
}

function note(kind: string, during: string | null): void {
  const file = process.env['AXION_CHAOS_LOG']
  if (file) appendFileSync(file, `${JSON.stringify({ kind, during })}\n`)
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
    { timeout: 150_000, interval: 250 },
  )
}

/** A folder for the database, on a disk of its own where that may be mounted. */
function ground(): { readonly home: string; readonly disk: string | null; readonly clear: () => void } {
  const home = mkdtempSync(join(tmpdir(), 'axion-chaos-'))
  const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${DISK_MB}m`, 'none', home]).status === 0
  return {
    home,
    disk: mounted ? home : null,
    clear: () => {
      if (mounted) spawnSync('umount', ['-l', home])
      rmSync(home, { recursive: true, force: true })
    },
  }
}

async function stageFor(seed: number, home: string, disk: string | null): Promise<Stage> {
  const generator = xoroshiro128plus(seed)
  const draw: Draw = (from, to) => uniformInt(generator, from, to)
  let way: CuttableWay | null = null
  const world = await makeWellWorld(
    seed,
    { AXION_BRIDGE_TIMEOUT: '2', AXION_LEASE: '3', AXION_SLICE: '1' },
    {
      home,
      through: async (port) => {
        way = await cuttableWay(() => port)
        return way.port
      },
    },
  )
  const workers = new Workers(world)
  const clock = existsSync(FAKETIME) ? join(home, 'clock') : null
  if (clock !== null) writeFileSync(clock, '+0h')
  const time: Record<string, string> =
    clock === null
      ? {}
      : {
          LD_PRELOAD: FAKETIME,
          FAKETIME_TIMESTAMP_FILE: clock,
          FAKETIME_NO_CACHE: '1',
          DONT_FAKE_MONOTONIC: '1',
        }
  const port = await freePort()
  const server = workers.keep('server', {
    ...time,
    AXION_PORT: String(port),
    AXION_KEYS_DATABASE: world.databases.keys,
  })
  const worker = workers.keep('worker', time)
  const base = `http://127.0.0.1:${port}`
  await vi.waitFor(async () => expect((await fetch(`${base}/api/health`)).status).toBe(200), {
    timeout: 60_000,
    interval: 200,
  })
  const signedIn = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'x-axion-request': 't' },
    body: JSON.stringify({ email: 'preparer@example.org', password: 'a long password' }),
  })
  const cookie = String(signedIn.headers.get('set-cookie')).split(';')[0] ?? ''
  return {
    world,
    workers,
    worker,
    server,
    way: way as unknown as CuttableWay,
    base,
    cookie,
    disk,
    clock,
    draw,
  }
}

describe('chaos', () => {
  test.each(SEEDS)(
    'seed %d',
    async (seed) => {
      const { home, disk, clear } = ground()
      const stage = await stageFor(seed, home, disk)
      const { world, workers, way, clock } = stage
      const unwatch = world.cluster.keepRunning(200)
      const story: string[] = []
      try {
        await world.ok('POST', `${MONTH}/post/runs`, { states: ['rehearsed'] })
        for (let at = 0; at < STEPS; at++) story.push(await step(stage))
        for (const name of FAULTS) await world.desk('ledger', 'faults', { name, requests: '0' })
        way.cut(0, () => 0)
        if (clock !== null) writeFileSync(clock, '+0h')
        await quiet(world)
        for (let rounds = 0; rounds < 4; rounds++) {
          await world.ok('POST', `${MONTH}/pulls`, { systemIds: null })
          await quiet(world)
          const { counts } = await ordersOf(world)
          if (counts['in-doubt']) {
            await world.as('preparer', 'POST', `${MONTH}/post/look-again`, { units: null })
            await quiet(world)
          }
          const states = ['rehearsed', 'failed', 'changed']
          if ((await world.as('preparer', 'POST', `${MONTH}/post/runs`, { states })).statusCode === 200)
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
        note('documents', String(times.size))
      } finally {
        unwatch()
        await workers.killAll()
        await world.close()
        await way.close()
        world.cluster.stop()
        clear()
      }
    },
    400_000,
  )
})
