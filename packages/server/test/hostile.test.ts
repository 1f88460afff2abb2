import type { ServerResponse } from 'node:http'
import type { CloseView, ConnectView, PathView } from '@axion/contract'
import { afterAll, afterEach, beforeAll, describe, expect, it, test } from 'vitest'
import { pullAndProve } from '../src/connect/pullRun.ts'
import { endForsaken, perform } from '../src/jobs/perform.ts'
import { SETTINGS, source, type Instead, type Source } from './second/source.ts'
import { makeWorld, MONTH, type RunSeen, type World } from './world.ts'

/** A bridge that does whatever a bridge should not, beside two that are well: its run ends, says how, and stops nobody else. */
const TOKEN = 'a token for the hostile'
const OWN = { ...SETTINGS, baseCurrency: 'USD', currencies: ['USD'], timeZone: 'America/Chicago' }
let world: World
let bad: Source
beforeAll(async () => {
  bad = await source('Hostile', OWN, TOKEN)
  world = await makeWorld({ bridges: [bad.address], environment: { AXION_BRIDGE_TIMEOUT: '2' } })
  await world.as('administrator', 'PUT', '/api/entities/larkspur/systems/hostile', {
    role: 'billing',
    name: 'Hostile',
    address: bad.address,
    token: TOKEN,
  })
  bad.put('agencies', 'a', { code: null, name: 'Somebody', liabilityAccountId: null })
})
afterEach(() => bad.instead(null))
afterAll(async () => {
  await bad.close()
  await world.close()
})

const pull = (): Promise<RunSeen> => world.run('/pulls', { systemIds: null })
const problemOf = ({ pulled }: RunSeen): string =>
  (pulled as unknown as { system: string; problem: { says: string } | null }[]).find(
    ({ system }) => system === 'Hostile',
  )?.problem?.says ?? ''
const body = (response: ServerResponse, text: string | Buffer, type = 'application/json'): true => {
  response.writeHead(200, { 'content-type': type }).end(text)
  return true
}
/** Answers for one resource alone. */
const at =
  (resource: string, answer: (response: ServerResponse, query: URLSearchParams) => true): Instead =>
  (path, response, query) =>
    path === resource && answer(response, query)
const change = (sequence: string, id = 'x', value: unknown = {}): object => ({
  id,
  sequence,
  revision: '1',
  removed: false,
  value,
})
const ITEM = { code: 'I', name: 'x', kind: 'goods', taxable: true, itemTaxCode: null }
const page = (items: readonly object[], next: string, more = false): string =>
  JSON.stringify({ items, next, more })

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

describe('an answer that is none', () => {
  test.each<[string, Instead, RegExp]>([
    [
      'a body cut off',
      at('items', (response) => {
        response.writeHead(200, { 'content-type': 'application/json', 'content-length': '1000' })
        response.write('{"items": [')
        response.destroy()
        return true
      }),
      /^Hostile does not answer/,
    ],
    [
      'a slow drip',
      at('items', (response) => {
        response.writeHead(200, { 'content-type': 'application/json' })
        const drip = setInterval(() => response.write(' '), 100)
        response.once('close', () => clearInterval(drip))
        return true
      }),
      /^Hostile took longer than 2 seconds/,
    ],
    ['silence', at('items', () => true), /^Hostile took longer than 2 seconds/],
    [
      'a sequence past 64 bits',
      at('items', (response) => body(response, page([], '9999999999999999999'))),
      /\/items.*next is past what 64 bits hold/,
    ],
    [
      'a sequence that is none',
      at('items', (response) => body(response, page([], '1.0'))),
      /\/items.*next is no sequence number/,
    ],
    [
      'a sequence that goes backwards',
      at('items', (response) => body(response, page([change('7'), change('5', 'y')], '7'))),
      /\/items.*y stands at 5, which is not past 7/,
    ],
    [
      'the same page for ever',
      at('items', (response) => body(response, page([change('7')], '7', true))),
      /\/items.*x stands at 7, which is not past 7/,
    ],
    [
      'more pages that lead nowhere',
      at('items', (response) => body(response, page([], '0', true))),
      /\/items.*more pages are promised/,
    ],
    [
      'more objects than were asked for',
      at('items', (response) =>
        body(
          response,
          page(
            Array.from({ length: 501 }, (_, n) => change(String(n + 1), `x${n}`)),
            '501',
          ),
        ),
      ),
      /\/items.*501 changes came where 500 were asked for/,
    ],
    [
      'another charset',
      at('items', (response) => body(response, page([], '0'), 'application/json; charset=iso-8859-1')),
      /\/items.*iso-8859-1, and not in UTF-8/,
    ],
    [
      'bytes that are no UTF-8',
      at('items', (response) => body(response, Buffer.from([0x7b, 0xff, 0xfe, 0x7d]))),
      /\/items.*not in UTF-8/,
    ],
    [
      'more bytes than anybody reads',
      at('items', (response) => {
        response.writeHead(200, { 'content-type': 'application/json' })
        const piece = Buffer.alloc(1024 * 1024, 0x20)
        const more = (): void => {
          while (response.write(piece));
        }
        response.on('drain', more)
        more()
        return true
      }),
      /\/items.*longer than \d+ bytes/,
    ],
    ['no JSON', at('items', (response) => body(response, '<html>')), /\/items in another shape/],
    [
      'JSON ten thousand deep',
      at('items', (response) => body(response, '['.repeat(10_000) + ']'.repeat(10_000))),
      /\/items in another shape/,
    ],
    [
      'a NUL in an id',
      at('items', (response) => body(response, page([change('7', 'a\u0000b')], '7'))),
      /\/items.*holds a NUL/,
    ],
    [
      'no end of being asked later',
      at('items', (response) => {
        response.writeHead(429, { 'retry-after': '0' }).end('{}')
        return true
      }),
      /^Hostile refused: status 429/,
    ],
  ])(
    '%s: the run ends as failed, says what, and the others are pulled',
    { timeout: 60_000 },
    async (_, instead, says) => {
      bad.instead(instead)
      const run = await pull()
      expect([run.state, problemOf(run)]).toEqual(['failed', expect.stringMatching(says)])
      expect(run.pulled.filter(({ problem }) => problem === null)).toHaveLength(2)
      const { systems } = await world.ok<ConnectView>('GET', `${MONTH}/connect`)
      expect(systems.flatMap(({ name, notFresh }) => (notFresh ? [name] : []))).toEqual(['Hostile'])
      bad.instead(null)
      expect((await pull()).state).toBe('done')
    },
  )

  it('that asks once to be asked later is asked again', async () => {
    let asked = 0
    bad.instead(
      at('items', (response) =>
        ++asked === 1
          ? (response.writeHead(429, { 'retry-after': '1' }).end('{}'), true)
          : body(response, page([], '0')),
      ),
    )
    expect([(await pull()).state, asked]).toEqual(['done', 2])
  })
})

describe('an object that no database holds', () => {
  const line = {
    id: '1',
    kind: 'goods',
    itemCode: null,
    description: 'x',
    quantity: '1',
    unitPrice: '10',
    discount: '0',
    amount: '10.00',
    taxRateId: null,
    creditsLineId: null,
  }
  const document = {
    number: 'H-1',
    kind: 'invoice',
    status: 'open',
    documentDate: '2026-09-10',
    supplyDate: '2026-09-10',
    paymentDate: null,
    currency: 'USD',
    exchangeRate: null,
    pricesIncludeTax: false,
    creditsDocumentId: null,
    party: { id: 'p', name: 'Somebody' },
    shipTo: { country: 'XA', region: 'XA-WN', city: null, postalCode: null },
    shipFrom: null,
    lines: [line],
    discount: '0',
    reimbursed: '0',
    taxes: [],
    total: '10.00',
    webAddress: null,
  }
  const of = (amount: string): object => ({ lines: [{ ...line, amount }], total: amount })
  test.each<[string, object, RegExp]>([
    ['an amount past what is kept', of('999999999999999999.99'), /at most 15 digits/],
    ['the largest amount that has a shape', of('999999999999999.99'), /is more than is kept/],
    [
      'an exchange rate that takes it past that',
      { ...of('9999999999.99'), currency: 'EUR', exchangeRate: '999999999' },
      /is more than is kept/,
    ],
    ['a NUL', { number: 'H\u00001' }, /holds a NUL or half of a character/],
    ['half of a character', { party: { id: 'p', name: '\ud800' } }, /holds a NUL or half of a character/],
    ['the year nought', { documentDate: '0000-01-01' }, /from 1900 to 2199/],
    ['a time without a year', { soldAt: '0000-01-01T00:00:00Z' }, /from 1900 to 2199/],
    ['a quantity without an end', { lines: [{ ...line, quantity: '9'.repeat(18) }] }, /at most 9 digits/],
    ['lines without an end', { lines: Array.from({ length: 5001 }, () => line) }, /<=5000 items/],
    ['an address of a program', { webAddress: 'javascript:alert(1)' }, /webAddress/],
  ])('%s: it is named as unreadable, and nothing else stops', async (_, changes, says) => {
    bad.put('documents', 'h1', { ...document, ...changes })
    const run = await pull()
    expect([run.state, problemOf(run)]).toEqual(['done', ''])
    const { systems } = await world.ok<ConnectView>('GET', `${MONTH}/connect`)
    const hostile = systems.find(({ name }) => name === 'Hostile')
    expect(hostile?.findings.map((one) => one.says)).toEqual([expect.stringMatching(says)])
    expect((await world.ok<PathView>('GET', `${MONTH}/path`)).connect.limits).toMatchObject({
      failed: [],
      unread: 1,
    })
  })

  it('is read once it can be', async () => {
    bad.put('documents', 'h1', document)
    expect((await pull()).state).toBe('done')
    expect((await world.ok<PathView>('GET', `${MONTH}/path`)).connect.limits.unread).toBe(0)
    expect((await world.ok<CloseView>('GET', `${MONTH}/close`)).notFresh).toEqual([])
  })
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
    await broken(true, 'tie_unit')
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

  it('a run that nobody works at any more is ended, and one that somebody does is not', async () => {
    const forsaken = await world.begin('/pulls', { systemIds: null })
    const waiting = await world.begin('/pulls', { systemIds: ['hostile'] })
    await world.ownerSql(
      `update run set updated_at = now() - interval '1 hour' where run_id = any($1::uuid[])`,
      [[forsaken, waiting]],
    )
    await world.ownerSql(`delete from pgboss.job where data->>'runId' = $1`, [forsaken])
    // It died in the middle of a system.
    await world.ownerSql(
      `insert into pull (entity_id, system_id, run_id, counts) values ('larkspur', 'hostile', $1, '[]')`,
      [forsaken],
    )
    await endForsaken(world.services)
    expect((await world.ok<PathView>('GET', `${MONTH}/path`)).connect.limits.failed).toEqual(['Hostile'])
    const seen = (run: string): Promise<RunSeen> => world.ok('GET', `/api/entities/larkspur/runs/${run}`)
    expect([(await seen(forsaken)).state, (await seen(forsaken)).problem?.says]).toEqual([
      'failed',
      expect.stringContaining('nobody works at it'),
    ])
    expect((await seen(waiting)).state).toBe('queued')
    expect((await world.finish(waiting)).state).toBe('done')
  })

  it('the last attempt at a slice fails its run, whatever passes', async () => {
    const run = await world.begin('/pulls', { systemIds: null })
    await world.ownerSql(
      `create function refuse() returns trigger language plpgsql as $$ begin raise exception 'busy' using errcode = '40P01'; end $$; create trigger refuse before insert or update on pull for each row execute function refuse()`,
    )
    await expect(perform(world.services, { entityId: 'larkspur', runId: run })).rejects.toThrow('busy')
    await perform(world.services, { entityId: 'larkspur', runId: run }, true)
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
  expect([(await world.finish(run)).state, pages]).toEqual(['cancelled', 1])
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
  const reports = await pullAndProve(world.services, 'larkspur', run, '2026-09', ['hostile'])
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
  expect(await world.ownerSql(`select 1 from pull_page`)).toEqual([])
})
