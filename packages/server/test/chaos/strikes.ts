import { execFile, spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { promisify } from 'node:util'
import { expect, vi } from 'vitest'
import { ROOT } from '../../../../scripts/lib/home.mjs'
import { told } from '../../../../scripts/lib/programs.mjs'
import { MONTH, type World } from '../world.ts'
import { WAITS, type Stage } from './stage.ts'

/** What a run is at when something strikes it. */
export const STEPS = ['reading', 'proving', 'sending'] as const
export type Step = (typeof STEPS)[number]
interface Strike {
  readonly at: readonly Step[]
  /** False where it could not be tried here. */
  readonly can?: (stage: Stage) => boolean
  readonly does: (stage: Stage) => Promise<void>
}

const untilDatabase = (world: World): Promise<unknown> =>
  vi.waitFor(() => world.ownerSql('select 1'), { timeout: 600_000, interval: 50 })

/** Stops it as hard as can be, and waits until it is there again. */
export async function killPostgres(world: World): Promise<void> {
  const [pid = ''] = readFileSync(join(world.cluster.data, 'postmaster.pid'), 'utf8').split('\n')
  process.kill(Number(pid), 'SIGKILL')
  await untilDatabase(world)
}

/** A fault of the ledger's, for some requests of its next. */
const ledgerFault =
  (name: string) =>
  ({ world, draw }: Stage): Promise<void> =>
    world.desk('ledger', 'faults', { name, requests: String(draw(1, 4)) })

/** Two days at the most, to either side. */
const hours = ({ draw }: Stage): number => draw(1, 50) * (draw(0, 1) === 0 ? -1 : 1)

const run = promisify(execFile)

/** What may strike, and at which steps. */
export const STRIKES: Readonly<Record<string, Strike>> = {
  'worker killed': { at: STEPS, does: (stage) => stage.kill('worker') },
  'server killed': {
    at: STEPS,
    does: async (stage) => {
      void press(stage)
      await stage.kill('server')
    },
  },
  'PostgreSQL killed': {
    at: STEPS,
    does: ({ world }) => killPostgres(world),
  },
  'data disk full': {
    at: STEPS,
    can: ({ tries }) => tries.data,
    does: async (stage) => {
      await stage.whileFull('data', async () => {
        await stage.call('POST', `${MONTH}/pulls`, { systemIds: null })
      })
      await untilDatabase(stage.world)
    },
  },
  'home disk full': {
    at: STEPS,
    can: ({ tries }) => tries.home,
    does: (stage) => stage.whileFull('home', () => press(stage)),
  },
  'clock of the programs': {
    at: STEPS,
    can: ({ tries }) => tries.clocks,
    does: (stage) => Promise.resolve(stage.setClock('programs', hours(stage))),
  },
  'clock of the database': {
    at: STEPS,
    can: ({ tries }) => tries.clocks,
    does: async (stage) => {
      stage.setClock('database', hours(stage))
      await stage.signIn()
    },
  },
  'all clocks': {
    at: STEPS,
    can: ({ tries }) => tries.clocks,
    does: async (stage) => {
      const jump = hours(stage)
      stage.setClock('programs', jump)
      stage.setClock('database', jump)
      await stage.signIn()
    },
  },
  'answers cut': {
    at: ['reading', 'sending'],
    does: ({ way, draw }) => Promise.resolve(way.cut(draw(1, 4), () => draw(0, 2000))),
  },
  'systems down for a minute': {
    at: ['reading', 'sending'],
    does: (stage) => {
      stage.way.down(true)
      const back = pause(60_000 * WAITS).then(() => {
        stage.way.down(false)
        stage.later.delete(back)
      })
      stage.later.add(back)
      return Promise.resolve()
    },
  },
  'two starts': { at: STEPS, does: secondStart },
  'twenty people': { at: STEPS, does: (stage) => press(stage) },
  'answer lost after the commit': { at: ['sending'], does: ledgerFault('lost-after-commit') },
  'lost before the commit': { at: ['sending'], does: ledgerFault('lost-before-commit') },
  'slow ledger': { at: ['sending'], does: ledgerFault('slow') },
  'ledger asks to wait': { at: ['sending'], does: ledgerFault('too-many') },
  'ledger answers 503': { at: ['sending'], does: ledgerFault('unavailable') },
  'keys ignored': { at: ['sending'], does: ledgerFault('keys-ignored') },
}

/** Every kind at every step that it may strike, all kinds equally often. */
export const CELLS = Object.entries(STRIKES).flatMap(([kind, { at }]) =>
  STEPS.map((step, n) => ({ kind, step: at.includes(step) ? step : (at[n % at.length] ?? step) })),
)

/** A second worker works along; a second server and a second installation of the home end by themselves, and say why. */
async function secondStart({ settings, home }: Stage): Promise<void> {
  const program = (name: string): [string, string[]] => [
    process.execPath,
    told(`packages/server/src/main/${name}.ts`),
  ]
  const worker = spawn(...program('worker'), { env: { ...process.env, ...settings.worker }, stdio: 'ignore' })
  const lock = `const { holdHome } = await import(${JSON.stringify(join(ROOT, 'scripts/lib/lock.mjs'))}); await holdHome(${JSON.stringify(home)}, 'me')`
  const ended = (file: string, args: string[], env: object): Promise<string> =>
    run(file, args, { env: { ...process.env, ...env } }).then(
      () => 'nothing',
      (error: unknown) => (error as { stderr: string }).stderr,
    )
  const [server, installation] = await Promise.all([
    ended(...program('server'), settings.server),
    ended(process.execPath, ['--input-type=module', '-e', lock], {}),
  ])
  worker.kill('SIGKILL')
  expect(server).not.toBe('nothing')
  expect(installation).toContain('is held by the chaos')
}

/** Twenty people press everything at once; nobody is told 500. */
export async function press(stage: Stage): Promise<void> {
  const { draw } = stage
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
  const told = await Promise.all(
    Array.from({ length: 20 }, async () => {
      const [method, path, body] = acts[draw(0, acts.length - 1)] ?? ['GET', '/post']
      const answer = await stage.call(method, MONTH + path, body)
      return answer?.status === 500 ? `${method} ${path}: ${await answer.text()}` : null
    }),
  )
  expect(told.filter((one) => one !== null)).toEqual([])
}

/** Which steps are under way just now; null where nobody is at work. A database that is away does not say. */
export async function underWay({ owner }: Stage): Promise<readonly Step[] | null> {
  const runs = await owner
    .raw<{ rows: { at: Step | null }[] }>(
      `select distinct case when run.state = 'running' and step = 'proving' then 'proving' when run.state = 'running' and (step like '%: %' or exists (select from booking b where b.run_id = run.run_id and b.state = 'sending')) then case kind when 'post' then 'sending' else 'reading' end end as at
       from run where state in ('queued', 'running')`,
    )
    .catch(() => ({ rows: [{ at: null }] }))
  return runs.rows.length === 0 ? null : runs.rows.flatMap(({ at }) => at ?? [])
}
