import type { PostView } from '@axion/contract'
import { chmodSync, cpSync, mkdirSync, mkdtempSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, afterEach, describe, expect, it, vi } from 'vitest'
import { noteBegun, notePlace, wasBroughtBack } from '../../../scripts/lib/home.mjs'
import { Workers } from './workers.ts'
import { makeReadyWorld, MONTH, timesBooked, type World } from './world.ts'

/** A dump is taken in the middle of a posting run, more is sent, and the dump is read in again: whatever was sent since, no document is booked twice. */
const folder = mkdtempSync(join(tmpdir(), 'axion-dump-'))
// The database's own user writes there, who may be another than ours.
chmodSync(folder, 0o777)

let world: World
let workers: Workers
const open: (() => Promise<unknown>)[] = []
afterEach(async () => {
  for (const close of open.splice(0)) await close()
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const view = (): Promise<PostView> => world.ok<PostView>('GET', `${MONTH}/post`)
const until = (look: () => Promise<void>): Promise<void> =>
  vi.waitFor(look, { timeout: 600_000, interval: 50 })
const nobodySends = (): Promise<void> =>
  until(async () => {
    const { counts } = await view()
    expect((counts.waiting ?? 0) + (counts.sending ?? 0)).toBe(0)
  })
const administered = (program: string, ...args: string[]): void => {
  const { cluster, databases } = world
  const name = new URL(databases.owner).pathname.slice(1)
  const where = ['-h', '127.0.0.1', '-p', String(cluster.port), '-U', 'axion_admin', '-d', name]
  cluster.run(program, [...where, ...args])
}
const WORKER = { AXION_WORKER: 'one' }

/** Posts 60 documents, with a dump in their midst, then 20 more; and goes back to the dump. */
async function broughtBack(faults: readonly string[]): Promise<void> {
  world = await makeReadyWorld()
  workers = new Workers(world)
  open.push(
    () => workers.killAll(),
    () => world.close(),
  )
  for (const name of faults) await world.desk('ledger', 'faults', { name, requests: '-1' })
  const units = (await view()).rows.map(({ unit }) => unit)
  await world.ok('POST', `${MONTH}/post/runs`, { units: units.slice(0, 60) })
  const worker = workers.start('worker', WORKER)
  await until(async () => expect((await timesBooked(world)).size).toBeGreaterThanOrEqual(15))
  administered('pg_dump', '-Fc', '-f', join(folder, 'dump'))
  await nobodySends()
  await world.ok('POST', `${MONTH}/post/runs`, { units: units.slice(60, 80) })
  await nobodySends()
  await workers.kill(worker)
  expect((await timesBooked(world)).size).toBe(80)
  administered('pg_restore', '--clean', '--if-exists', join(folder, 'dump'))
  // A dump has nothing of what the planner knew.
  administered('psql', '-qc', 'analyze')
  workers.start('worker', WORKER)
}

const twice = async (): Promise<readonly string[]> =>
  [...(await timesBooked(world))].filter(([, n]) => n !== 1).map(([id]) => id)

describe('a backup that is brought back', () => {
  it.each([
    ['knows the keys', []],
    ['has forgotten them', ['keys-ignored']],
  ])('has what was sent since looked up before anything is sent, in a ledger that %s', async (_, faults) => {
    await broughtBack(faults)
    await nobodySends()
    expect(await twice()).toEqual([])
    // What the copy knows nothing of is posted again, and is there already.
    await world.ok('POST', `${MONTH}/post/runs`, { states: ['rehearsed'] })
    await nobodySends()
    expect(await twice()).toEqual([])
    const { counts, restored } = await view()
    expect([counts, restored?.ends]).toEqual([{ sent: 144 }, 'pull'])
    expect((await timesBooked(world)).size).toBe(144)
  })

  it('leaves in doubt what a ledger cannot find, and sends none of it again, until the ledger’s journal shows it', async () => {
    await broughtBack(['keys-ignored', 'no-external-id'])
    await nobodySends()
    const { counts } = await view()
    expect(counts['in-doubt']).toBeGreaterThan(0)
    await world.ok('POST', `${MONTH}/post/runs`, { states: ['rehearsed'] })
    await nobodySends()
    expect([await twice(), (await timesBooked(world)).size]).toEqual([[], 80])
    // A pull shows what is there; who began it when that was so knows again what was sent, and posts the rest.
    await world.ownerSql(`update legal_entity set restored_at = restored_at - interval '1 hour'`)
    await world.ok('POST', '/api/entities/larkspur/months/2026-09/pulls', { systemIds: null })
    await until(async () => expect((await view()).restored).toBeNull())
    await until(async () => expect((await view()).counts.booked).toBe(80))
    expect((await view()).counts['in-doubt']).toBe(64)
  })
})

it('is noticed of a whole folder, where another one stands in its place', () => {
  const [home, copy] = [join(folder, 'home'), join(folder, 'copy')]
  mkdirSync(join(home, 'postgres', 'global'), { recursive: true })
  noteBegun(home, { demo: false, external: false })
  const control = join(home, 'postgres', 'global', 'pg_control')
  writeFileSync(control, 'one')
  const seen: boolean[] = []
  const started = (): void => {
    seen.push(wasBroughtBack(home))
    notePlace(home)
  }
  started()
  cpSync(home, copy, { recursive: true })
  // The database goes on, and writes it in place.
  writeFileSync(control, 'two')
  started()
  renameSync(home, join(folder, 'lost'))
  renameSync(copy, home)
  // A start that breaks off before set-up knew of it has told nobody.
  seen.push(wasBroughtBack(home))
  started()
  started()
  expect(seen).toEqual([false, false, true, true, false])
})
