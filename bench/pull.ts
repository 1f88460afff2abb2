import { fork, spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { Cluster, type Databases } from '../scripts/lib/cluster.mjs'
import { freePort } from '../scripts/lib/home.mjs'
import { told } from '../scripts/lib/programs.mjs'
import { changing, inEntity, type Database } from '../packages/server/src/database/connection.ts'
import { startRun } from '../packages/server/src/jobs/runs.ts'
import { migrate } from '../packages/server/src/main/migrate.ts'
import { groundsOf } from '../packages/server/src/proof/grounds.ts'
import { MemoryWatch } from './memory.ts'
import { ENTITY, businesses, found } from './month/founded.ts'
import { partyOf, writeChanges, writeMonth, writeSetUp } from './month/pages.ts'

export const MONTH = '2026-09'
/** So many documents change at once, half of them in the month before. */
const CHANGED = 1000

/** A business that is read and proved, and still there. */
export interface Pulled {
  readonly databases: Databases
  readonly database: Database
  /** Of servers and workers beside. */
  readonly environment: Readonly<Record<string, string>>
  readonly memory: MemoryWatch
  /** Where the pages of its bridges are. */
  readonly folder: string
  /** Does its runs. */
  readonly worker: ChildProcess
  /** Has its bridges send changed documents with the next pull. @returns how many */
  readonly changes: () => number
  /** A customer that nothing is agreed upon, with documents. */
  readonly party: string
}

export interface PullTimes<T> {
  readonly documents: number
  /** Milliseconds from the first request to the end of the run, and of its steps by what is told of them. */
  readonly whole: number
  readonly steps: readonly (readonly [string, number])[]
  /** What came of what was done with it then. */
  readonly after: T
  readonly proved: number
  readonly posted: number
  readonly memory: readonly { readonly process: string; readonly mebibytes: number }[]
}

/** Documents of a month, of which a tenth stands in the one before; or over the twelve that end with it. */
export const dayIn = {
  month: (at: number): string => {
    const round = Math.floor(at / 20)
    return `${round % 10 === 9 ? '2026-08' : MONTH}-${dayOfRound(round)}`
  },
  year: (at: number): string => {
    const round = Math.floor(at / 20)
    const month = (round % 12) + 10
    return `${month > 12 ? '2026' : '2025'}-${String(month > 12 ? month - 12 : month).padStart(2, '0')}-${dayOfRound(Math.floor(round / 12))}`
  },
}
const dayOfRound = (round: number): string => String(1 + (round % 28)).padStart(2, '0')

/** Reads and proves a business whose documents all wait at its bridges, by a worker of its own. @param then what is done with it once it is */
export async function timePull<T>(
  documents: number,
  dayOf: (at: number) => string,
  then: (pulled: Pulled, told: Pick<PullTimes<T>, 'whole' | 'steps'>) => Promise<T>,
): Promise<PullTimes<T>> {
  const home = mkdtempSync(join(tmpdir(), 'axion-bench-'))
  const cluster = await new Cluster(home).start()
  const port = await freePort()
  const address = `http://127.0.0.1:${port}`
  const folder = join(home, 'pages')
  const bridge = fork(new URL('./month/bridge.ts', import.meta.url), [folder, String(port)], {
    execArgv: ['--import', 'tsx'],
  })
  const memory = new MemoryWatch(join(home, 'postgres'))
  let worker: ChildProcess | null = null
  try {
    const databases = cluster.prepare('axion', [])
    await migrate(databases.owner)
    const database = await found(databases, {
      address,
      token: cluster.secrets.standinsToken,
      secretKey: cluster.secrets.secretKey,
    })
    writeSetUp(folder, businesses())
    const setUp = await inEntity(database, ENTITY, (books) => groundsOf(books))
    writeMonth(folder, { setUp, documents, astrayPercent: 1, dayOf })
    const environment: Record<string, string> = {
      ...(process.env as Record<string, string>),
      AXION_DATABASE: databases.app,
      AXION_SECRET_KEY: cluster.secrets.secretKey,
      AXION_TODAY: '2026-10-02',
      AXION_BRIDGES: `${address}/`,
      AXION_LOG: 'silent',
    }
    const run = await changing(database, ENTITY, (books) =>
      startRun(books, {
        kind: 'pull',
        payload: { month: MONTH, systemIds: null },
        startedBy: 'bench',
      }),
    )
    worker = spawn(
      process.execPath,
      ['--max-old-space-size=512', ...told('packages/server/src/main/worker.ts')],
      {
        env: environment,
        stdio: ['ignore', 'ignore', 'inherit'],
      },
    )
    memory.also('worker', String(worker.pid))
    const began = performance.now()
    const steps = await runToItsEnd(database, run, worker)
    const whole = performance.now() - began
    const [counted] = (
      await inEntity(database, ENTITY, ({ trx }) =>
        trx.raw(
          `select count(*) filter (where proved)::int as proved, count(*)::int as posted from tie_unit where entity_id = ?`,
          [ENTITY],
        ),
      )
    ).rows as { proved: number; posted: number }[]
    const pulled: Pulled = {
      databases,
      database,
      environment,
      memory,
      folder,
      worker,
      changes: () => writeChanges(folder, { documents, changed: CHANGED, dayOf }),
      party: partyOf(documents, dayOf),
    }
    const after = await then(pulled, { whole, steps })
    await database.destroy()
    return {
      documents,
      whole,
      after,
      steps,
      proved: counted?.proved ?? 0,
      posted: counted?.posted ?? 0,
      memory: memory.most(),
    }
  } finally {
    memory.stop()
    worker?.kill('SIGKILL')
    bridge.kill()
    cluster.stop()
    rmSync(home, { recursive: true, force: true })
  }
}

/** Waits until a worker has done a run. @returns milliseconds of its steps, by what is told of them */
export async function runToItsEnd(
  database: Database,
  run: string,
  worker: ChildProcess,
): Promise<readonly (readonly [string, number])[]> {
  const steps = new Map<string, number>()
  let [at, last] = [performance.now(), 'waiting']
  for (;;) {
    const { state, step } = await inEntity(
      database,
      ENTITY,
      async ({ trx }) =>
        (await trx('run').where({ entity_id: ENTITY, run_id: run }).first('state', 'step')) as {
          state: string
          step: string
        },
    )
    const now = performance.now()
    steps.set(last, (steps.get(last) ?? 0) + now - at)
    ;[at, last] = [now, step === '' ? last : step]
    if (worker.exitCode !== null) throw new Error(`the worker ended with ${worker.exitCode}`)
    if (!['queued', 'running'].includes(state)) {
      if (state !== 'done') throw new Error(`the run is ${state}`)
      return [...steps]
    }
    await pause(100)
  }
}
