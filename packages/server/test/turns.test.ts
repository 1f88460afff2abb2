import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { afterAll, beforeAll, describe, expect, it, test, vi } from 'vitest'
import { acting, changing, connect, inEntity } from '../src/database/connection.ts'
import { Hands } from '../src/jobs/hands.ts'
import { isTakenOver, passes } from '../src/faults/errors.ts'
import {
  freeOwn,
  giveBack,
  renewLease,
  takeRun,
  waitingRuns,
  type Lease,
  type RunJob,
} from '../src/jobs/leases.ts'
import { Reading } from '../src/reading/pool.ts'
import type { ReadAs } from '../src/reading/thread.ts'
import { perform } from '../src/runs/perform.ts'
import { provePulled } from '../src/runs/pull.ts'
import { makeWorld, type RunSeen, type World } from './world.ts'

/** No legal entity takes the workers from the others, no page takes them from anybody. */
let world: World
beforeAll(async () => {
  world = await makeWorld({ environment: { AXION_SLICE: '0' } })
})
afterAll(() => world.close())

/** A legal entity beside the first, of which only runs are wanted. */
async function founded(id: string): Promise<void> {
  await world.as('administrator', 'POST', '/api/entities', {
    id,
    name: id,
    country: 'XA',
    currency: 'USD',
    timeZone: 'UTC',
    locale: 'en-US',
  })
}
async function waits(entityId: string): Promise<RunJob> {
  const [row] = await world.ownerSql<{ run_id: string }>(
    `insert into run (entity_id, kind, payload, started_by) values ($1, 'rehearse', jsonb_build_object('month', '2026-09', 'of', gen_random_uuid()), 'T') returning run_id`,
    [entityId],
  )
  return { entityId, runId: row?.run_id ?? '' }
}
const ended = (jobs: readonly RunJob[]): Promise<object[]> =>
  world.ownerSql(`update run set state = 'done' where run_id = any($1::uuid[])`, [
    jobs.map(({ runId }) => runId),
  ])
const said = (error: Error): never => {
  throw error
}

describe('hands', () => {
  it('work for each legal entity once: one with many runs waits while another has its turn', async () => {
    await founded('many')
    await founded('one')
    const order: string[] = []
    let letGo = (): void => undefined
    const held = new Promise<void>((done) => (letGo = done))
    for (const entityId of ['many', 'many', 'many', 'many', 'many', 'one']) await waits(entityId)
    const hands = new Hands(2, said)
    try {
      hands.workAt({
        database: world.services.database,
        handle: async (job) => {
          order.push(job.entityId)
          if (order.length === 1) await held
          await ended([job])
          if (job.entityId === 'one') letGo()
          return true
        },
      })
      await vi.waitFor(() => expect(order).toHaveLength(6), { timeout: 600_000, interval: 100 })
      expect(order.slice(0, 2)).toEqual(['many', 'one'])
    } finally {
      letGo()
      await hands.stop()
    }
  })

  it('of which one is at what cannot be done go on with the rest, and are told of it', async () => {
    const problems: string[] = []
    const [bad, good] = [await waits('many'), await waits('one')]
    const hands = new Hands(1, ({ message }) => problems.push(message))
    const done: string[] = []
    try {
      hands.workAt({
        database: world.services.database,
        handle: async (job) => {
          await ended([job])
          if (job.entityId === 'many') throw new Error('it fell')
          done.push(job.runId)
          return true
        },
      })
      await vi.waitFor(() => expect(done).toEqual([good.runId]), { timeout: 600_000, interval: 50 })
      expect(problems).toEqual(['it fell'])
    } finally {
      await hands.stop()
      await ended([bad, good])
    }
  })

  it('try what somebody else holds not before their next look', async () => {
    const job = await waits('many')
    let tries = 0
    const hands = new Hands(1, said)
    const began = performance.now()
    try {
      hands.workAt({ database: world.services.database, handle: () => Promise.resolve(++tries > 3) })
      await vi.waitFor(() => expect(tries).toBeGreaterThan(2), { timeout: 600_000, interval: 20 })
      // A timer is never early.
      expect(performance.now() - began).toBeGreaterThan(900)
    } finally {
      await hands.stop()
      await ended([job])
    }
  })

  it('whose program’s clock is set back in the middle of a slice take the next all the same', async () => {
    const done: string[] = []
    const now = Date.now.bind(Date)
    const clock = vi.spyOn(Date, 'now')
    const first = await waits('many')
    let second: RunJob | undefined
    const hands = new Hands(1, said)
    try {
      hands.workAt({
        database: world.services.database,
        handle: async (job) => {
          done.push(job.runId)
          await ended([job])
          if (job.runId !== first.runId) return true
          clock.mockImplementation(() => now() - 50 * 3_600_000)
          second = await waits('many')
          return true
        },
      })
      // What waits for it here goes by the clock that does not jump.
      for (let looks = 0; looks < 6000 && done.length < 2; looks++) await pause(100)
      expect(done).toEqual([first.runId, second?.runId])
    } finally {
      clock.mockRestore()
      await hands.stop()
    }
  })
})

describe('a run’s lease', () => {
  const expired = ({ runId }: RunJob): Promise<object[]> =>
    world.ownerSql(`update run set leased_until = now() - interval '1 second' where run_id = $1`, [runId])
  const at = async (lease: Lease): Promise<string> =>
    acting
      .run({ run: lease.runId, lease: lease.lease }, () =>
        inEntity(world.services.database, lease.entityId, () => Promise.resolve('written')),
      )
      .catch((error: unknown) => (isTakenOver(error) ? 'taken over' : String(error)))

  it('is one worker’s, until it runs out; and who had it before writes nothing more', async () => {
    const { database } = world.services
    const job = await waits('one')
    const both = await Promise.all([
      takeRun(database, job, { seconds: 290 }),
      takeRun(database, job, { seconds: 290 }),
    ])
    const [slow] = both.filter((one) => one !== null)
    expect(both.filter((one) => one !== null)).toHaveLength(1)
    expect(await waitingRuns(database, [], 10)).toEqual([])
    if (!slow) throw new Error('nobody has it')
    await renewLease(database, slow, 290)
    expect([await takeRun(database, job, { seconds: 290 }), await at(slow)]).toEqual([null, 'written'])
    await expired(job)
    // Nobody has taken it yet: being slow alone costs nothing.
    expect(await at(slow)).toBe('written')
    const next = await takeRun(database, job, { seconds: 290 })
    expect([await at(slow), next && (await at(next))]).toEqual(['taken over', 'written'])
    // What the slow one still says of it moves nothing.
    await giveBack(database, slow, { afterSeconds: 0, cameToItsEnd: true })
    await renewLease(database, slow, 9000)
    expect([await takeRun(database, job, { seconds: 290 }), next?.tried]).toEqual([null, 2])
    await ended([job])
    await expired(job)
    expect(await takeRun(database, job, { seconds: 290 })).toBeNull()
  })

  it('is one worker’s, of however many come for it in the same moment', async () => {
    const { database } = world.services
    const taken: number[] = []
    // Of six at once, two took one run in twenty while they asked the view alone.
    for (let run = 0; run < 120; run++) {
      const job = await waits('one')
      const all = await Promise.all(Array.from({ length: 6 }, () => takeRun(database, job, { seconds: 290 })))
      taken.push(all.filter((one) => one !== null).length)
      await ended([job])
    }
    expect(new Set(taken)).toEqual(new Set([1]))
  })

  it('goes to whoever begins under the name of who had it, at once; what others have stays theirs', async () => {
    const { database } = world.services
    const [own, other] = [await waits('one'), await waits('many')]
    const before = await takeRun(database, own, { seconds: 290, name: 'w' })
    await takeRun(database, other, { seconds: 290, name: 'v' })
    await freeOwn(database, 'w')
    expect(await waitingRuns(database, [], 10)).toEqual([own])
    const next = await takeRun(database, own, { seconds: 290, name: 'w' })
    expect([before && (await at(before)), next && (await at(next))]).toEqual(['taken over', 'written'])
    await ended([own, other])
  })

  it('is not waited for where somebody holds its row, who may have been cut off; what holds it is given up in time', async () => {
    const { databases } = world
    const job = await waits('one')
    const cutOff = connect(databases.app, 1, { patience: 20, idle: 0.3 })
    const open = await cutOff.transaction()
    await open.raw(`select enter('one', '', '', '', '', '')`)
    await open('run').where({ run_id: job.runId }).update({ step: 'half way' })
    expect(await takeRun(world.services.database, job, { seconds: 290 })).toBeNull()
    // Nor is it by who renews it: the transaction may be the slice's own, and takes as long as it takes.
    await renewLease(world.services.database, { ...job, lease: '0', tried: 1 }, 290)
    await vi.waitFor(
      async () => expect(await takeRun(world.services.database, job, { seconds: 290 })).not.toBeNull(),
      { timeout: 600_000, interval: 50 },
    )
    expect(await world.ownerSql('select step from run where run_id = $1', [job.runId])).toEqual([
      { step: '' },
    ])
    const late = await open('run')
      .select()
      .then(
        () => null,
        (error: unknown) => error,
      )
    expect(passes(late)).toBe(true)
    await open.rollback().catch(() => undefined)
    await cutOff.destroy()
    await ended([job])
  })

  it('is held to the end of what is written under it: nobody takes it in between, however late it is', async () => {
    const { database } = world.services
    const job = await waits('one')
    const slow = await takeRun(database, job, { seconds: 290 })
    if (!slow) throw new Error('nobody has it')
    await expired(job)
    const tried: unknown[] = []
    await acting.run({ run: slow.runId, lease: slow.lease }, () =>
      inEntity(database, 'one', async ({ trx }) => {
        tried.push(await takeRun(database, job, { seconds: 290 }))
        await renewLease(database, slow, 290)
        tried.push((await trx('run').where({ run_id: job.runId }).whereRaw('leased_until > now()')).length)
      }),
    )
    await expired(job)
    expect([...tried, await at(slow), (await takeRun(database, job, { seconds: 290 }))?.tried]).toEqual([
      null,
      1,
      'written',
      2,
    ])
    await ended([job])
  })

  it('that is given back is counted as tried as often as before, unless a slice came to its end', async () => {
    const { database } = world.services
    const job = await waits('one')
    const tried: (number | undefined)[] = []
    for (const cameToItsEnd of [false, false, true, false]) {
      const lease = await takeRun(database, job, { seconds: 290 })
      tried.push(lease?.tried)
      if (lease) await giveBack(database, lease, { afterSeconds: 0, cameToItsEnd })
    }
    expect(tried).toEqual([1, 2, 3, 1])
    await ended([job])
  })

  it('that another took over in the middle of a slice ends the slice, and not the run', async () => {
    const run = await world.begin('/pulls', { systemIds: null })
    const row = (): Promise<object[]> =>
      world.ownerSql(
        `select state, lease::int, step, report->'problem' as problem from run where run_id = $1`,
        [run],
      )
    const { bridges } = world.services
    const open: typeof bridges.open = (...asked) => {
      const bridge = bridges.open(...asked)
      const about: typeof bridge.about = async () => {
        await world.ownerSql(`update run set lease = lease + 1, step = 'of another' where run_id = $1`, [run])
        return bridge.about()
      }
      return Object.assign(Object.create(bridge) as typeof bridge, { about })
    }
    const slow = { ...world.services, bridges: { open } as typeof bridges }
    expect(await perform(slow, { entityId: 'larkspur', runId: run })).toBe(true)
    expect(await row()).toEqual([
      { state: 'running', lease: expect.any(Number), step: 'of another', problem: null },
    ])
    await expired({ entityId: 'larkspur', runId: run })
    expect((await world.finish(run)).state).toBe('done')
  })
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
    await founded('twin')
    const twin = await waits('twin')
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
    await ended([twin])
  })
})

it('what a pull has brought by the end of its turn is proved by whoever comes between, and what it brings later is not taken for proved', async () => {
  const twin = await waits('twin')
  const run = await world.begin('/pulls', { systemIds: ['ledger'] })
  await perform(world.services, { entityId: 'larkspur', runId: run })
  const pulls = (): Promise<object[]> =>
    world.ownerSql(`select ended, proved_at is not null as proved from pull where run_id = $1`, [run])
  expect(await pulls()).toEqual([{ ended: false, proved: false }])
  await changing(world.services.database, 'larkspur', (books) => provePulled(books, '2026-09'))
  expect(await pulls()).toEqual([{ ended: false, proved: false }])
  expect((await world.finish(run)).state).toBe('done')
  expect(await pulls()).toEqual([{ ended: true, proved: true }])
  await ended([twin])
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
    writeFileSync(
      file,
      `${code}\nexport const changes = ({ as }) => { if (as.spoilt === null) page(); return { rows: as.spoilt, count: 1 } }`,
    )
    const reading = new Reading({ seconds, megabytes: 32 }, file)
    try {
      const as: ReadAs = {
        role: 'billing',
        resource: 'items',
        booksCurrency: 'USD',
        places: new Map(),
        spoilt: null,
      }
      const page = { bytes: Buffer.from('{}'), after: '0', limit: 1, only: null, as }
      expect(await reading.page(page)).toEqual({ problem: expect.stringMatching(says) })
      // What takes too much to read is said to be spoilt, and goes on.
      expect(await reading.changes({ changes: [], as })).toEqual({
        rows: expect.stringMatching(says),
        count: 1,
      })
    } finally {
      await reading.close()
    }
  })
})
