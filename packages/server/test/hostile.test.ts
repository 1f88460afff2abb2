import type { CloseView, ConnectView, PathView } from '@axion/contract'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { perform } from '../src/runs/perform.ts'
import { pullAndProve } from '../src/runs/pull.ts'
import { at, body, change, hostileWorld, ITEM, page, problemOf, TOKEN } from './hostileBridge.ts'
import type { Source } from './second/source.ts'
import { MONTH, type RunSeen, type World } from './world.ts'

/** What a bridge, the database or a worker does in the middle of a run: it ends, says how, and stops nobody else. */
let world: World
let bad: Source
beforeAll(async () => void ({ world, bad } = await hostileWorld({ AXION_BRIDGE_TIMEOUT: '2' })))
afterEach(() => bad.instead(null))
afterAll(async () => {
  await bad.close()
  await world.close()
})

const pull = (): Promise<RunSeen> => world.run('/pulls', { systemIds: null })

it('a system whose first pull broke off was never pulled, whatever was taken of it by then', async () => {
  bad.instead(at('items', (response) => body(response, '<html>')))
  expect((await pull()).state).toBe('failed')
  expect(
    await world.ownerSql(`select 1 from pull where system_id = 'hostile' and counts <> '[]'`),
  ).toHaveLength(1)
  expect((await world.ok<CloseView>('GET', `${MONTH}/close`)).awaits).toEqual(['Hostile'])
  bad.instead(null)
  expect((await pull()).state).toBe('done')
  expect((await world.ok<CloseView>('GET', `${MONTH}/close`)).awaits).toEqual([])
})

describe('what nobody foresaw', () => {
  const broken = (make: boolean, table = 'held_object'): Promise<object[]> =>
    world.ownerSql(
      make
        ? `create function refuse() returns trigger language plpgsql as $$ begin raise exception 'not today'; end $$; create trigger refuse before insert or update on ${table} for each row execute function refuse()`
        : `drop function refuse() cascade`,
    )

  it('while an object is taken over ends that system’s part, by its name; the others and the next pull go on', async () => {
    bad.put('items', 'i1', { code: 'I1', name: 'x', kind: 'goods', taxable: true, itemTaxCode: null })
    await broken(true)
    const run = await pull()
    await broken(false)
    expect([run.state, problemOf(run)]).toEqual([
      'failed',
      expect.stringMatching(/^What Hostile has of items could not be taken over: .*not today/),
    ])
    expect(run.pulled.filter(({ problem }) => problem === null)).toHaveLength(2)
    expect((await pull()).state).toBe('done')
  })

  it('anywhere else ends the run as failed, with what it was', async () => {
    await broken(true, 'unit')
    const run = await world.run('/pulls', { systemIds: null }).catch(() => null)
    bad.put('parties', 'p', { name: 'Somebody', exemption: null, address: null })
    await world.billingSql(
      `update object set value = jsonb_set(value, '{party,name}', '"Renamed"'), revision = revision + 1, sequence = nextval('change_sequence') where resource = 'documents' and value->>'documentDate' like '2026-09%'`,
    )
    const second = await world.run('/pulls', { systemIds: null })
    await broken(false)
    expect(run === null || ['done', 'failed'].includes(run.state)).toBe(true)
    expect([second.state, second.problem?.says]).toEqual(['failed', expect.stringContaining('not today')])
    expect((await pull()).state).toBe('done')
  })

  it('a run that was begun again and again, and of which nobody came to the end, is ended; another is not', async () => {
    const forsaken = await world.begin('/pulls', { systemIds: null })
    const waiting = await world.begin('/pulls', { systemIds: ['hostile'] })
    await world.ownerSql(`update run set tried = 20 where run_id = $1`, [forsaken])
    // It died in the middle of a system.
    await world.ownerSql(
      `insert into pull (entity_id, system_id, run_id, counts) values ('larkspur', 'hostile', $1, '[]')`,
      [forsaken],
    )
    await perform(world.services, { entityId: 'larkspur', runId: forsaken })
    expect((await world.ok<PathView>('GET', `${MONTH}/path`)).connect.limits.failed).toEqual(['Hostile'])
    const seen = (run: string): Promise<RunSeen> => world.ok('GET', `/api/entities/larkspur/runs/${run}`)
    expect([(await seen(forsaken)).state, (await seen(forsaken)).problem?.says]).toEqual([
      'failed',
      expect.stringContaining('nobody came to its end'),
    ])
    expect((await seen(waiting)).state).toBe('queued')
    expect((await world.finish(waiting)).state).toBe('done')
  })

  it('the last attempt at a slice fails its run, whatever passes', async () => {
    const run = await world.begin('/pulls', { systemIds: null })
    await world.ownerSql(
      `create function refuse() returns trigger language plpgsql as $$ begin raise exception 'busy' using errcode = '40P01'; end $$; create trigger refuse before insert or update on pull for each row execute function refuse()`,
    )
    const job = { entityId: 'larkspur', runId: run }
    await expect(perform(world.services, job)).rejects.toThrow('busy')
    // It is tried again after a while, and not before.
    expect(await perform(world.services, job)).toBe(false)
    await world.ownerSql(`update run set due_at = now(), tried = 19 where run_id = $1`, [run])
    expect(await perform(world.services, job)).toBe(true)
    await broken(false)
    expect(await world.ok('GET', `/api/entities/larkspur/runs/${run}`)).toMatchObject({ state: 'failed' })
    expect((await pull()).state).toBe('done')
  })
})

it('a pull is cancelled between pages, within what one page takes; what it had not read is said', async () => {
  const run = await world.begin('/pulls', { systemIds: ['hostile'] })
  let pages = 0
  bad.instead((path, response, query) => {
    if (path !== 'items') return false
    const after = Number(query.get('after'))
    pages++
    void world
      .as('preparer', 'POST', `/api/entities/larkspur/runs/${run}/cancel`, {})
      .then(() =>
        body(response, page([change(String(after + 1), `i${after}`, ITEM)], String(after + 1), true)),
      )
    return true
  })
  expect((await world.finish(run)).state).toBe('cancelled')
  // The next page may have been asked for by then, and no other.
  expect(pages).toBeLessThanOrEqual(2)
  const { systems } = await world.ok<ConnectView>('GET', `${MONTH}/connect`)
  expect(systems.find(({ name }) => name === 'Hostile')?.notFresh?.says).toContain(
    'somebody cancelled the pull',
  )
  bad.instead(null)
  expect((await pull()).state).toBe('done')
})

it('a pull that another act ends with goes to its end, whatever was cancelled', async () => {
  const run = await world.begin('/pulls', { systemIds: ['hostile'] })
  await world.as('preparer', 'POST', `/api/entities/larkspur/runs/${run}/cancel`, {})
  const reports = await pullAndProve(world.services, 'larkspur', {
    runId: run,
    month: '2026-09',
    systemIds: ['hostile'],
  })
  expect(reports.map(({ problem }) => problem)).toEqual([null])
  expect((await world.finish(run)).state).toBe('cancelled')
  expect((await pull()).state).toBe('done')
})

it('nobody who waits, and no lease, is kept waiting by a system that asks to be asked later', async () => {
  let asked = 0
  bad.instead((path, response) => {
    if (path !== 'about') return false
    asked++
    response.writeHead(429, { 'retry-after': '30' }).end('{}')
    return true
  })
  const answer = await world.as('administrator', 'PUT', '/api/entities/larkspur/systems/hostile', {
    role: 'billing',
    name: 'Hostile',
    address: bad.address,
    token: TOKEN,
  })
  expect([answer.json().code, asked]).toEqual(['AXION_BRIDGE_REFUSED', 1])
})

it('a pull that breaks off goes on from its last page, and takes all over at once', async () => {
  const asked: number[] = []
  const PAGES = 6
  const item = (n: number): object => change(String(n), `s${n}`, { ...ITEM, code: `S${n}` })
  let broken = true
  const [cursor] = await world.ownerSql<{ sequence: string }>(
    `select sequence from pull_cursor where system_id = 'hostile' and resource = 'items'`,
  )
  const start = Number(cursor?.sequence ?? 0)
  bad.instead(
    at('items', (response, query) => {
      const after = Number(query.get('after'))
      asked.push(after - start)
      if (broken && after - start === 3) {
        response.destroy()
        return true
      }
      return body(response, page([item(after + 1)], String(after + 1), after - start + 1 < PAGES))
    }),
  )
  const held = async (): Promise<number> =>
    (await world.ownerSql(`select 1 from held_object where system_id = 'hostile' and object_id like 's%'`))
      .length
  expect([(await pull()).state, await held(), asked]).toEqual(['failed', 0, [0, 1, 2, 3]])
  broken = false
  expect([(await pull()).state, await held(), asked.slice(4)]).toEqual(['done', PAGES, [3, 4, 5]])
  expect(await world.ownerSql(`select from pull_page union all select from staged_object`)).toEqual([])
})
