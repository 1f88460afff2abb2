import { spawnSync } from 'node:child_process'
import { chmodSync, existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { uniformInt } from 'pure-rand/distribution/uniformInt'
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'
import { expect, vi } from 'vitest'
import { freePort } from '../../../../scripts/lib/home.mjs'
import { holdHome } from '../../../../scripts/lib/lock.mjs'
import { pauses, Processes } from '../../../../scripts/lib/processes.mjs'
import { connect, type Database } from '../../src/database/connection.ts'
import { makeWellWorld, PASSWORD, type World } from '../world.ts'
import { cuttableWay, type CuttableWay } from './cutting.ts'

/** The share of each usual wait that is waited; two seeds are run at the real ones. */
export const WAITS = Number(process.env['AXION_CHAOS_WAITS'] ?? '0.05')
const FAKETIME = '/usr/lib/x86_64-linux-gnu/faketime/libfaketime.so.1'
/** So much the database may fill, and so much the home with its logs, where disks of their own can be mounted. */
const DISKS_MB = { data: 600, home: 8 } as const

export type Draw = (from: number, to: number) => number
export type Disk = keyof typeof DISKS_MB
export type Clock = 'programs' | 'database'
type Program = 'server' | 'worker'

export interface Stage {
  readonly world: World
  readonly home: string
  readonly port: number
  /** What server and worker are told. */
  readonly settings: Readonly<Record<Program, Readonly<Record<string, string>>>>
  readonly processes: Processes
  /** Questions of the schema's owner, over one connection. */
  readonly owner: Database
  readonly way: CuttableWay
  readonly draw: Draw
  /** What is undone by itself after a while. */
  readonly later: Set<Promise<void>>
  /** Whether a disk or a clock of one's own is there to be tried. */
  readonly tries: Readonly<Record<Disk | 'clocks', boolean>>
  /** A call to the server over HTTP, as a preparer; null where it did not answer. */
  call(method: string, path: string, body?: object): Promise<Response | null>
  /** Lets people in anew: where the database's clock jumps, their sessions are over. */
  signIn(): Promise<void>
  setClock(clock: Clock, hours: number): void
  /** Has a disk without any room while something is done. */
  whileFull(disk: Disk, work: () => Promise<void>): Promise<void>
  kill(program: Program): Promise<void>
  close(): Promise<void>
}

/** A folder on a disk of its own, where that may be mounted. */
export function mounted(megabytes: number): {
  readonly at: string
  readonly isOwn: boolean
  readonly clear: () => void
} {
  const at = mkdtempSync(join(tmpdir(), 'axion-chaos-'))
  chmodSync(at, 0o755)
  const isOwn = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${megabytes}m`, 'none', at]).status === 0
  return {
    at,
    isOwn,
    clear: () => {
      if (isOwn) spawnSync('umount', ['-l', at])
      rmSync(at, { recursive: true, force: true })
    },
  }
}

/** A program's environment in which its clock is what a file says. */
function clockOf(file: string): Record<string, string> {
  writeFileSync(file, '+0h', { mode: 0o644 })
  return {
    LD_PRELOAD: FAKETIME,
    FAKETIME_TIMESTAMP_FILE: file,
    FAKETIME_NO_CACHE: '1',
    DONT_FAKE_MONOTONIC: '1',
  }
}

/** Where seeds play: what they all begin with is made once, and each begins with it anew. */
export interface Theatre {
  /** An installation of real processes, as the start command has them, whose every part can be struck. */
  play(seed: number): Promise<Stage>
  close(): Promise<void>
}

/** A folder anew, as another is: whose it is stays. */
function copy(from: string, to: string): void {
  rmSync(to, { recursive: true, force: true })
  const { status, stderr } = spawnSync('cp', ['-a', from, to], { encoding: 'utf8' })
  if (status !== 0) throw new Error(stderr)
}

/** How long servers wait for a bridge, from how long a first pull took here: a machine that is slow today waits longer. */
function patience(pullSeconds: number): {
  readonly bridge: number
  readonly late: number
  readonly lease: number
} {
  const bridge = Math.max(10 * WAITS, 0.5, pullSeconds / 4)
  return { bridge, late: bridge * 1.6, lease: bridge * 1.5 }
}

export async function theatre(seed: number): Promise<Theatre> {
  const [data, home, clocks] = [mounted(DISKS_MB.data), mounted(DISKS_MB.home), mounted(1)]
  const before = join(mkdtempSync(join(tmpdir(), 'axion-chaos-before-')), 'data')
  const hasClocks = existsSync(FAKETIME)
  const fileOf = (clock: Clock): string => join(clocks.at, clock)
  const time = (clock: Clock): Record<string, string> => (hasClocks ? clockOf(fileOf(clock)) : {})
  const letGo = await holdHome(home.at, 'the chaos')
  let way: CuttableWay | null = null
  // What is made before anything strikes is made with the usual patience: it is no part of what is tried.
  const world = await makeWellWorld(
    seed,
    {},
    {
      home: data.at,
      clock: time('database'),
      through: async (port) => {
        way = await cuttableWay(() => port)
        return way.port
      },
    },
  )
  const began = performance.now()
  await world.run('/pulls', { systemIds: null })
  const { bridge, late, lease } = patience((performance.now() - began) / 1000)
  // The ledger's own slowness, and what it says of it, are waits like others.
  if (WAITS < 1) {
    await world.ledgerSql(`insert into setting values ('slowSeconds', $1::text::jsonb)`, [late])
    await world.ledgerSql(
      `update setting set value = value || jsonb_build_object('longestLateCommitSeconds', $1::int) where name = 'settings'`,
      [Math.ceil(late)],
    )
  }
  const port = await freePort()
  const own = {
    ...world.environment,
    AXION_LOG: 'info',
    AXION_WAITS: String(WAITS),
    AXION_BRIDGE_TIMEOUT: String(bridge),
    AXION_LEASE: String(lease),
    AXION_SLICE: String(Math.max(20 * WAITS, 1)),
    ...time('programs'),
  }
  const settings = {
    // As the start command names it: who begins again takes over at once.
    worker: { ...own, AXION_WORKER: 'chaos' },
    server: { ...own, AXION_PORT: String(port), AXION_KEYS_DATABASE: world.databases.keys },
  }
  world.cluster.stop()
  copy(world.cluster.data, before)
  const base = `http://127.0.0.1:${port}`

  const play: Theatre['play'] = async (seedOfPlay) => {
    const generator = xoroshiro128plus(seedOfPlay)
    const draw: Draw = (from, to) => uniformInt(generator, from, to)
    for (const clock of ['programs', 'database'] as const) if (hasClocks) clockOf(fileOf(clock))
    rmSync(join(home.at, 'log'), { recursive: true, force: true })
    world.cluster.stop()
    copy(before, world.cluster.data)
    await world.cluster.start(world.cluster.port)
    const unwatch = world.cluster.keepRunning(Math.max(3000 * WAITS, 100))
    const processes = new Processes(home.at, {}, pauses(WAITS))
    for (const program of ['server', 'worker'] as const)
      processes.start(program, `packages/server/src/main/${program}.ts`, settings[program])
    await vi.waitFor(async () => expect((await fetch(`${base}/api/health`)).status).toBe(200), {
      timeout: 600_000,
      interval: 50,
    })
    const owner = connect(world.databases.owner, 1)
    let cookie = ''
    const call: Stage['call'] = (method, path, body) =>
      fetch(base + path, {
        method,
        headers: { cookie, 'x-axion-request': 't', ...(body ? { 'content-type': 'application/json' } : {}) },
        ...(body ? { body: JSON.stringify(body) } : {}),
      }).catch(() => null)
    const stage: Stage = {
      world,
      home: home.at,
      port,
      settings,
      processes,
      owner,
      way: way as unknown as CuttableWay,
      draw,
      later: new Set(),
      tries: { data: data.isOwn, home: home.isOwn, clocks: hasClocks },
      call,
      signIn: async () => {
        await world.signIn()
        // Where the server is just started again, whoever presses is told that they are not known.
        const answer = await call('POST', '/api/session', {
          email: 'preparer@example.org',
          password: PASSWORD,
        })
        cookie = String(answer?.headers.get('set-cookie') ?? cookie).split(';')[0] ?? ''
      },
      setClock: (clock, hours) => writeFileSync(fileOf(clock), `${hours < 0 ? '' : '+'}${hours}h`),
      whileFull: async (disk, work) => {
        const at = { data, home }[disk].at
        const file = join(at, 'filling')
        spawnSync('dd', ['if=/dev/zero', `of=${file}`, 'bs=1M', `count=${DISKS_MB[disk] * 2}`], {
          stdio: 'ignore',
        })
        try {
          await work()
        } finally {
          rmSync(file)
        }
      },
      kill: async (program) => {
        const child = processes.running.get(program)
        if (!child) return
        const gone = new Promise((done) => child.once('exit', done))
        child.kill('SIGKILL')
        await gone
      },
      close: async () => {
        unwatch()
        await processes.stop()
        await owner.destroy()
        world.cluster.stop()
      },
    }
    await stage.signIn()
    return stage
  }
  return {
    play,
    close: async () => {
      await world.close()
      await way?.close()
      world.cluster.stop()
      letGo()
      for (const one of [data, home, clocks]) one.clear()
      rmSync(dirname(before), { recursive: true, force: true })
    },
  }
}
