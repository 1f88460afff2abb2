import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { afterAll, beforeAll, describe, expect, it, test, vi } from 'vitest'
import { changing } from '../src/database/connection.ts'
import { Queue } from '../src/queue/queue.ts'
import { Reading } from '../src/reading/pool.ts'
import { perform } from '../src/runs/perform.ts'
import { provePulled } from '../src/runs/pull.ts'
import { makeWorld, type RunSeen, type World } from './world.ts'

/** No legal entity takes the workers from the others, no page takes them from anybody. */
let world: World
beforeAll(async () => {
  world = await makeWorld({ environment: { AXION_SLICE: '0' } })
})
afterAll(() => world.close())

describe('hands', () => {
  it('work for each legal entity once: one with many runs waits while another has its turn', async () => {
    const queue = new Queue(world.databases.app, world.services.settings.waits)
    await queue.start((error) => process.stderr.write(`queue: ${error.message}\n`))
    const order: string[] = []
    let letGo = (): void => undefined
    const held = new Promise<void>((done) => (letGo = done))
    const many = Array.from({ length: 5 }, () => ({ entityId: 'many', runId: randomUUID() }))
    for (const job of [...many, { entityId: 'one', runId: randomUUID() }]) await queue.send(job)
    try {
      await queue.work(2, async ({ entityId }) => {
        order.push(entityId)
        if (order.length === 1) await held
        if (entityId === 'one') letGo()
      })
      await vi.waitFor(() => expect(order).toHaveLength(6), { timeout: 600_000, interval: 100 })
      expect(order.slice(0, 2)).toEqual(['many', 'one'])
    } finally {
      letGo()
      await queue.stop()
    }
  })
})

it('a slice that is put back to wait has been tried as often as before', async () => {
  const queue = new Queue(world.databases.app, world.services.settings.waits)
  await queue.start((error) => process.stderr.write(`queue: ${error.message}\n`))
  let letGo = (): void => undefined
  const held = new Promise<void>((done) => (letGo = done))
  const tries = new Map<string, number>()
  const [first, second] = [randomUUID(), randomUUID()]
  try {
    await queue.send({ entityId: 'often', runId: first })
    await queue.work(2, async ({ runId, tried }) => {
      tries.set(runId, tried ?? 0)
      if (runId !== first) return
      // Nobody takes it before it has been tried so often.
      await queue.send({ entityId: 'often', runId: second }, { afterSeconds: 10_000 })
      await world.ownerSql(
        `update pgboss.job set retry_count = 7, start_after = now() where data->>'runId' = $1`,
        [second],
      )
      await vi.waitFor(
        async () =>
          expect(
            await world.ownerSql(
              `select 1 from pgboss.job where data->>'runId' = $1 and data->>'tried' = '7'`,
              [second],
            ),
          ).not.toEqual([]),
        { timeout: 600_000, interval: 50 },
      )
      letGo()
    })
    await held
    await vi.waitFor(() => expect(tries.get(second)).toBe(7), { timeout: 600_000, interval: 100 })
  } finally {
    await queue.stop()
  }
})

describe('a pull whose turn is over', () => {
  const seen = (run: string): Promise<RunSeen> => world.ok('GET', `/api/entities/larkspur/runs/${run}`)
  const slices = async (run: string): Promise<number> => {
    for (let done = 1; done < 50; done++) {
      await perform(world.services, { entityId: 'larkspur', runId: run })
      if ((await seen(run)).state === 'done') return done
    }
    throw new Error('the run does not end')
  }
  const summary = async (run: string): Promise<unknown> =>
    (await seen(run)).pulled.map(({ counts, problem }) => [
      problem,
      counts.map(({ resource, unreadable }) => [resource, unreadable]),
    ])

  it('lets those who wait have theirs, goes on where it was, and has read each system once', async () => {
    const alone = await world.begin('/pulls', { systemIds: null })
    expect(await slices(alone)).toBe(1)
    const job = { entityId: 'twin', runId: randomUUID() }
    await world.services.queue.send(job)
    const shared = await world.begin('/pulls', { systemIds: null })
    expect(await slices(shared)).toBeGreaterThan(3)
    expect(await summary(shared)).toEqual(await summary(alone))
    expect(
      await world.ownerSql(
        `select system_id, count(*)::int as n, bool_and(ended and problem is null) as whole from pull where run_id = $1 group by 1 order by 1`,
        [shared],
      ),
    ).toEqual([
      { system_id: 'billing', n: 1, whole: true },
      { system_id: 'ledger', n: 1, whole: true },
    ])
  })
})

it('what a pull has brought by the end of its turn is proved by whoever comes between, and what it brings later is not taken for proved', async () => {
  await world.services.queue.send({ entityId: 'twin', runId: randomUUID() })
  const run = await world.begin('/pulls', { systemIds: ['ledger'] })
  await perform(world.services, { entityId: 'larkspur', runId: run })
  const pulls = (): Promise<object[]> =>
    world.ownerSql(`select ended, proved_at is not null as proved from pull where run_id = $1`, [run])
  expect(await pulls()).toEqual([{ ended: false, proved: false }])
  await changing(world.services.database, 'larkspur', (books) => provePulled(books, '2026-09'))
  expect(await pulls()).toEqual([{ ended: false, proved: false }])
  expect((await world.finish(run)).state).toBe('done')
  expect(await pulls()).toEqual([{ ended: true, proved: true }])
})

describe('a thread that reads', () => {
  const folder = mkdtempSync(join(tmpdir(), 'axion-threads-'))
  afterAll(() => rmSync(folder, { recursive: true }))
  test.each([
    [
      'without an end',
      1,
      'export const page = () => { for (;;); }',
      /^it takes longer than 1 seconds to read$/,
    ],
    [
      'without a bound',
      600,
      'export const page = () => { const all = []; for (;;) all.push(new Array(1000).fill(all.length)) }',
      /^it takes more than 32 MB to read$/,
    ],
  ])('%s ends alone, and the next piece of work is done', async (_, seconds, code, says) => {
    const file = join(folder, `${randomUUID()}.mjs`)
    writeFileSync(file, `${code}\nexport const values = ({ values }) => values.map((value) => ({ value }))`)
    const reading = new Reading({ seconds, megabytes: 32 }, file)
    try {
      const asked = { role: 'billing', resource: 'items', booksCurrency: 'USD', values: [1] } as const
      expect(await reading.page(Buffer.from('{}'))).toEqual({ problem: expect.stringMatching(says) })
      expect(await reading.values(asked)).toEqual([{ value: 1 }])
    } finally {
      await reading.close()
    }
  })
})

it('a hand whose program’s clock is set back in the middle of its slice takes the next all the same', async () => {
  const queue = new Queue(world.databases.app, { ...world.services.settings.waits, heartbeat: 0.1 })
  await queue.start((error) => process.stderr.write(`queue: ${error.message}\n`))
  const done: string[] = []
  const [first, second] = [randomUUID(), randomUUID()]
  const now = Date.now.bind(Date)
  const clock = vi.spyOn(Date, 'now')
  try {
    await queue.send({ entityId: 'set-back', runId: first })
    await queue.work(1, async ({ entityId, runId }) => {
      // What other tests left queued is nothing to this.
      if (entityId !== 'set-back') return
      done.push(runId)
      if (runId !== first) return
      await queue.send({ entityId: 'set-back', runId: second })
      clock.mockImplementation(() => now() - 50 * 3_600_000)
    })
    // What waits for it here goes by the clock that does not jump.
    for (let looks = 0; looks < 600 && done.length < 2; looks++) await pause(100)
    expect(done).toEqual([first, second])
  } finally {
    clock.mockRestore()
    await queue.stop()
  }
})
