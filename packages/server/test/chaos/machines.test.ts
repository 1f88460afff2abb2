import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { PostView, PracticeView } from '@axion/contract'
import { baseline } from '@axion/demo'
import pg from 'pg'
import { expect, it, vi } from 'vitest'
import { Cluster } from '../../../../scripts/lib/cluster.mjs'
import { moveBooks } from '../../src/database/moving.ts'
import { migrate } from '../../src/main/migrate.ts'
import { DIRECTORY } from '../../src/settings/settings.ts'
import { Workers } from '../workers.ts'
import { makeReadyWorld, timesBooked, type RunSeen, type World } from '../world.ts'
import { makeMachine } from './apart.ts'

/**
 * Two PostgreSQL servers, three legal entities, two workers, each on a machine of its own where the network lets one be made. One entity is
 * moved while it posts; one worker is cut off in the middle and comes back; one server is stopped. In the end every document is there once.
 */
const LONG = { timeout: 600_000, interval: 50 }
const MONTH = (entity: string): string => `/api/entities/${entity}/months/2026-09`
const ENTITIES = ['larkspur', 'teasel', 'sorrel']
const DOCUMENTS = 144

it('entities on two servers are worked by two workers, moved, cut off and left alone, and every document is booked once', async () => {
  const home = mkdtempSync(join(tmpdir(), 'axion-north-'))
  const server = await new Cluster(home).start()
  const north = server.prepare('north', [])
  await migrate(north.owner)
  const world = await makeReadyWorld({
    environment: {
      AXION_BRIDGE_TIMEOUT: '2',
      AXION_LEASE: '4',
      AXION_WAITS: '0.1',
      AXION_DATABASES: 'north',
      AXION_DATABASE_NORTH: north.app,
      AXION_KEYS_DATABASE_NORTH: north.keys,
    },
  })
  const machines = await Promise.all([0, 1].map(() => makeMachine(portsOf(world, server))))
  const workers = new Workers(world)
  const running = machines.map((machine) => workers.start('worker', {}, machine?.command ?? []))
  const cutOff = (): void => void (machines[0] ? machines[0].unplug() : running[0]?.kill('SIGSTOP'))
  const comeBack = (): void => void (machines[0] ? machines[0].plug() : running[0]?.kill('SIGCONT'))
  try {
    for (const entity of ENTITIES.slice(1)) await makeReady(world, entity)
    await move(world, north.owner, 'sorrel')
    const post = (entity: string): Promise<unknown> =>
      world.ok('POST', `${MONTH(entity)}/post/runs`, { states: ['rehearsed'] })
    for (const entity of ENTITIES) await post(entity)
    await vi.waitFor(async () => expect(await booked(world, 'larkspur')).toBeGreaterThan(10), LONG)
    await move(world, north.owner, 'larkspur')
    // It was moved in the middle, and not once all was done.
    expect(await booked(world, 'larkspur')).toBeLessThan(DOCUMENTS)
    cutOff()
    const before = await booked(world, 'larkspur')
    await vi.waitFor(async () => expect(await booked(world, 'larkspur')).toBeGreaterThan(before + 10), LONG)
    server.stop()
    // Its entities say so, on their pages and on the board; the others work.
    const away = async (entity: string): Promise<unknown> => {
      const answer = await world.as('preparer', 'GET', `${MONTH(entity)}/post`)
      return answer.statusCode === 200 ? 'there' : answer.json<{ code: string }>().code
    }
    expect(await Promise.all(ENTITIES.map(away))).toEqual(['AXION_BOOKS_AWAY', 'there', 'AXION_BOOKS_AWAY'])
    const board = await world.ok<PracticeView>('GET', '/api/practice?month=2026-09')
    expect([board.entities.map(({ id }) => id), board.away.map(({ id }) => id).sort()]).toEqual([
      ['teasel'],
      ['larkspur', 'sorrel'],
    ])
    await vi.waitFor(async () => expect(await booked(world, 'teasel')).toBe(DOCUMENTS), LONG)
    expect((await world.app.inject('/api/health')).json()).toMatchObject({
      status: 'ok',
      databases: [{ name: 'north', answers: false }],
    })
    await server.start(server.port)
    comeBack()
    for (const entity of ENTITIES)
      await vi.waitFor(async () => {
        const view = (await world.as('preparer', 'GET', `${MONTH(entity)}/post`)).json<PostView>()
        expect(view.counts).toEqual({ sent: DOCUMENTS })
      }, LONG)
    const times = await timesBooked(world)
    expect(times.size).toBe(ENTITIES.length * DOCUMENTS)
    expect([...times.values()].filter((n) => n !== 1)).toEqual([])
  } finally {
    await workers.killAll()
    for (const machine of machines) machine?.remove()
    await world.close()
    server.stop()
    rmSync(home, { recursive: true, force: true })
  }
}, 1_800_000)

const portsOf = (world: World, north: Cluster): number[] => [
  world.cluster.port,
  north.port,
  ...new Set(world.environment['AXION_BRIDGES']?.match(/(?<=:)\d+(?=\/)/g)?.map(Number)),
]

const booked = async (world: World, entity: string): Promise<number> =>
  [...(await timesBooked(world)).keys()].filter((id) => id.startsWith(`${entity}/`)).length

/** Another entity with systems of its own at the same addresses, pulled, linked and rehearsed by the workers. */
async function makeReady(world: World, entity: string): Promise<void> {
  const must = async (role: string, method: 'POST' | 'PUT', path: string, body: object): Promise<unknown> => {
    const answer = await world.as(role, method, path, body)
    if (answer.statusCode !== 200) throw new Error(`${path}: ${answer.body}`)
    return answer.json()
  }
  await must('administrator', 'POST', '/api/entities', {
    id: entity,
    name: entity,
    country: 'XA',
    currency: 'USD',
    timeZone: 'America/Chicago',
    locale: 'en-US',
  })
  await must('administrator', 'PUT', `/api/entities/${entity}/members`, {
    email: 'preparer@example.org',
    role: 'preparer',
  })
  await must('preparer', 'PUT', `${MONTH(entity)}/baseline`, baseline())
  for (const system of ['ledger', 'billing'])
    await must('administrator', 'PUT', `/api/entities/${entity}/systems/${system}`, {
      role: system,
      name: system,
      address: `${world.standins}/${system}/bridge`,
      token: world.token,
    })
  const done = async (path: string, body: object): Promise<void> => {
    const { run } = (await must('preparer', 'POST', `${MONTH(entity)}${path}`, body)) as { run: string }
    await vi.waitFor(async () => {
      const seen = await world.ok<RunSeen>('GET', `/api/entities/${entity}/runs/${run}`)
      expect(seen.state).toBe('done')
    }, LONG)
  }
  await done('/pulls', { systemIds: null })
  await must('preparer', 'POST', `${MONTH(entity)}/links/clear`, { kinds: ['agencies', 'rates'] })
  for (const [systemId, kind, objectId, baselineId] of [
    ['ledger', 'agency', 'agency_HCT', 'HCT'],
    ['billing', 'combined-rate', 'rate_typed', 'WN-PLX'],
  ])
    await must('preparer', 'PUT', `${MONTH(entity)}/links`, { systemId, kind, objectId, baselineId })
  await done('/post/rehearsal', {})
}

async function move(world: World, north: string, entityId: string): Promise<void> {
  const owners = new Map<string, pg.Client>()
  try {
    for (const [name, connectionString] of [
      [DIRECTORY, world.databases.owner],
      ['north', north],
    ] as const) {
      const client = new pg.Client({ connectionString })
      await client.connect()
      owners.set(name, client)
    }
    await moveBooks(owners, { entityId, to: 'north', say: () => undefined })
  } finally {
    for (const client of owners.values()) await client.end()
  }
}
