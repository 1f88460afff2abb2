import type { PostView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test, vi } from 'vitest'
import { inEntity } from '../src/database/connection.ts'
import { makeReadyWorld, MONTH, timesBooked, type World } from './world.ts'

let world: World
let documents: PostView['rows']
beforeAll(async () => {
  world = await makeReadyWorld({
    environment: { AXION_BRIDGE_TIMEOUT: '1', AXION_LEASE: '3', AXION_ATTEMPTS: '3' },
  })
  documents = (await world.ok<PostView>('GET', `${MONTH}/post`)).rows
})
afterAll(() => world.close())

const fault = (name: string, requests: number) =>
  world.desk('ledger', 'faults', { name, requests: String(requests) })
const stateOf = async (unit: string): Promise<string | undefined> =>
  (await world.ok<PostView>('GET', `${MONTH}/post`)).rows.find((r) => r.unit === unit)?.state
const setting = async (fields: object): Promise<void> => {
  const [row] = await world.ledgerSql<{ value: object }>(`select value from setting where name = 'settings'`)
  await world.ledgerSql(`update setting set value = $1 where name = 'settings'`, [
    JSON.stringify({ ...row?.value, ...fields }),
  ])
}

describe('whatever goes wrong while posting, each document is in the ledger once, or in doubt', () => {
  const cases: readonly [string, Record<string, number>, object, string, number][] = [
    ['nothing', {}, {}, 'sent', 1],
    ['429 twice', { 'too-many': 2 }, {}, 'sent', 1],
    ['503 twice', { unavailable: 2 }, {}, 'sent', 1],
    ['an answer lost after the commit', { 'lost-after-commit': 1 }, {}, 'sent', 1],
    [
      'an answer lost after the commit, twice, keys ignored',
      { 'lost-after-commit': 2, 'keys-ignored': -1 },
      {},
      'sent',
      1,
    ],
    ['a connection lost before the commit', { 'lost-before-commit': 1 }, {}, 'sent', 1],
    [
      'a connection lost before the commit, keys ignored',
      { 'lost-before-commit': 1, 'keys-ignored': -1 },
      {},
      'sent',
      1,
    ],
    ['a commit that comes after we stopped waiting', { slow: 1, 'keys-ignored': -1 }, {}, 'sent', 1],
    [
      'a lost answer, no look-up by external id',
      { 'lost-after-commit': 1, 'no-external-id': -1 },
      {},
      'sent',
      1,
    ],
    [
      'a lost answer, and no way at all to know',
      { 'lost-after-commit': 1, 'no-external-id': -1, 'keys-ignored': -1 },
      {},
      'in-doubt',
      1,
    ],
    [
      'nothing committed, and no way at all to know',
      { 'lost-before-commit': 1, 'no-external-id': -1, 'keys-ignored': -1 },
      {},
      'in-doubt',
      0,
    ],
    [
      'a lost answer, no limit to late commits',
      { 'lost-after-commit': 1 },
      { longestLateCommitSeconds: null },
      'in-doubt',
      1,
    ],
    ['a ledger that stays away', { unavailable: -1 }, {}, 'failed', 0],
  ]
  test.each(cases.map((row, at) => [...row, at] as const))(
    '%s',
    async (_, faults, settings, state, times, at) => {
      const document = documents[at]
      for (const [name, requests] of Object.entries(faults)) await fault(name, requests)
      await setting(settings)
      try {
        await world.run('/post/runs', { units: [document?.unit] })
      } finally {
        for (const name of Object.keys(faults)) await fault(name, 0)
        await setting({ longestLateCommitSeconds: 5 })
      }
      expect(await stateOf(document?.unit ?? '')).toBe(state)
      expect((await timesBooked(world)).get(document?.externalId ?? '') ?? 0).toBe(times)
    },
  )

  it('waits for a late commit of each attempt that had no answer, not of the first alone', async () => {
    const [document] = documents.slice(28)
    // It commits long after the timeout, and within the time that the ledger names.
    await world.ledgerSql(`insert into setting values ('slowSeconds', '4')`)
    await fault('keys-ignored', -1)
    await fault('lost-before-commit', 1)
    await fault('slow', 3)
    await world.run('/post/runs', { units: [document?.unit] })
    const [left] = await world.ledgerSql(`select value->'slow' as slow from setting where name = 'faults'`)
    await fault('keys-ignored', 0)
    await fault('slow', 0)
    await world.ledgerSql(`delete from setting where name = 'slowSeconds'`)
    // It was sent twice: the second one's commit was waited for.
    expect(left).toEqual({ slow: 1 })
    expect((await timesBooked(world)).get(document?.externalId ?? '')).toBe(1)
  })

  it('opens a circuit to a ledger that does not answer, and closes it when it does', async () => {
    const circuit = async (): Promise<{ circuit_failures: number; circuit_until: Date | null }> =>
      inEntity(world.services.database, 'larkspur', ({ trx }) =>
        trx('system').where({ system_id: 'ledger' }).first('circuit_failures', 'circuit_until'),
      ) as never
    const chosen = documents.slice(30, 38)
    await fault('unavailable', 6)
    const run = world.run('/post/runs', { units: chosen.map((d) => d.unit) })
    await vi.waitFor(async () => expect((await circuit()).circuit_until).not.toBeNull(), {
      timeout: 600_000,
      interval: 20,
    })
    expect(await run).toMatchObject({ state: 'done', done: 8, failed: 0 })
    expect(await circuit()).toEqual({ circuit_failures: 0, circuit_until: null })
    const times = await timesBooked(world)
    expect(chosen.map((d) => times.get(d.externalId ?? ''))).toEqual(chosen.map(() => 1))
  })

  it('settles doubt by what the ledger’s journal shows, and never sends again by itself', async () => {
    const before = await timesBooked(world)
    await world.run('/pulls', { systemIds: null })
    const view = await world.ok<PostView>('GET', `${MONTH}/post`)
    expect(view.counts['in-doubt']).toBe(1)
    const [doubtful] = view.rows.filter((r) => r.state === 'in-doubt')
    expect(
      (await world.as('preparer', 'POST', `${MONTH}/post/runs`, { units: [doubtful?.unit] })).json().code,
    ).toBe('AXION_NOTHING_TO_DO')
    await world.run('/post/look-again', { units: [doubtful?.unit] })
    expect(await stateOf(doubtful?.unit ?? '')).toBe('sent')
    expect((await timesBooked(world)).get(doubtful?.externalId ?? '')).toBe(1)
    expect([...before.values()].every((n) => n === 1)).toBe(true)
  })

  it('does not replace what somebody changed in the ledger', async () => {
    const [entry] = await world.ledgerSql<{
      id: string
      value: { externalId: string; lines: { agencyId: string | null }[] }
    }>(`select id, value from object where resource = 'journal-entries' order by id limit 1`)
    const booked = documents.find((d) => d.externalId === entry?.value.externalId)
    await world.desk('ledger', 'entries', {
      id: entry?.id ?? '',
      action: 'change',
      line: String(entry?.value.lines.findIndex((l) => l.agencyId)),
      credit: '9.99',
    })
    await world.desk('billing', 'invoices', { id: booked?.unit.split('/')[1] ?? '', amount: '10.00' })
    await world.run('/pulls', { systemIds: ['billing'] })
    await world.run('/post/runs', { units: [booked?.unit] })
    const row = (await world.ok<PostView>('GET', `${MONTH}/post?state=failed`)).rows.find(
      (r) => r.unit === booked?.unit,
    )
    expect(row?.reason?.says).toContain('Somebody changed it in the ledger')
  })

  it('hands amounts over to a ledger that takes them as given', async () => {
    await setting({ taxComputation: 'as-given' })
    const given = documents.slice(20, 25)
    await world.run('/pulls', { systemIds: ['ledger'] })
    expect(await world.run('/post/runs', { units: given.map((d) => d.unit) })).toMatchObject({
      done: 5,
      failed: 0,
    })
    await world.run('/pulls', { systemIds: ['ledger'] })
    const { rows } = await world.ok<{
      rows: { unit: string; proved: boolean; booked: string | null; expected: string | null }[]
    }>('GET', `${MONTH}/tie-out?show=all&limit=1000`)
    // Its own wrong rate and swapped accounts have no say where it takes what it is handed.
    expect(
      rows
        .filter((r) => given.some((d) => d.unit === r.unit))
        .every((r) => r.proved && r.booked === r.expected),
    ).toBe(true)
  })
})
