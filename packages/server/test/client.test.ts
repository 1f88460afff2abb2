import { createServer, type Server } from 'node:http'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { freePort } from '../../../scripts/lib/home.mjs'
import { say } from '@axion/contract'
import { Bridges, type Bridge } from '../src/bridges/client.ts'
import { seal, unseal } from '../src/bridges/secrets.ts'
import type { Problem } from '../src/faults/problem.ts'
import { Reading } from '../src/reading/pool.ts'
import { readSettings } from '../src/settings/settings.ts'

const REQUIRED = { AXION_DATABASE: 'postgres://x', AXION_SECRET_KEY: 'a'.repeat(64) }
const reading = new Reading()
const AS = { role: 'billing', resource: 'agencies', booksCurrency: 'USD', places: new Map() } as const
interface Canned {
  readonly status?: number
  readonly headers?: Record<string, string>
  readonly body?: string
  readonly drop?: boolean
  readonly hang?: boolean
}
let server: Server
let bridge: Bridge
let port: number
let canned: Canned = {}
let seen: { headers: Record<string, unknown>; method: string | undefined } = { headers: {}, method: '' }

beforeAll(async () => {
  port = await freePort()
  server = createServer((request, response) => {
    seen = { headers: request.headers, method: request.method }
    if (canned.drop) return void request.socket.destroy()
    if (canned.hang) return
    response
      .writeHead(canned.status ?? 200, { 'content-type': 'application/json', ...canned.headers })
      .end(canned.body ?? '{}')
  })
  await new Promise<void>((listening) => void server.listen(port, '127.0.0.1', listening))
  bridge = within('60')
})
afterAll(async () => {
  server.close()
  await reading.close()
})

/** The bridge with so many seconds to answer: however slow the machine, only what never answers is impatiently waited for. */
const within = (seconds: string): Bridge =>
  new Bridges(
    readSettings({
      ...REQUIRED,
      AXION_BRIDGES: `http://127.0.0.1:${port}/a`,
      AXION_BRIDGE_TIMEOUT: seconds,
      AXION_LEASE: '120',
    }),
    reading,
  ).open('Ledger', `http://127.0.0.1:${port}/a/bridge/`, 'secret token')

const problem = (status: number, headers = {}): Canned => ({
  status,
  headers,
  body: JSON.stringify({ type: 'about:blank', title: 'no', status, code: 'c', detail: 'Because.' }),
})

describe('writing to a bridge', () => {
  test.each<[string, Canned, object]>([
    [
      'a success carries its revision',
      { status: 201, headers: { etag: '"7"' }, body: '{"id":"1"}' },
      { kind: 'done', revision: '7', body: { id: '1' } },
    ],
    [
      'a problem is a refusal: nothing was written',
      problem(422),
      { kind: 'refused', status: 422, code: 'c', detail: 'Because.' },
    ],
    ['429 waits as it is asked to', problem(429, { 'retry-after': '9' }), { kind: 'later', afterSeconds: 9 }],
    [
      'an absurd Retry-After is bounded',
      problem(503, { 'retry-after': '99999' }),
      { kind: 'later', afterSeconds: 300 },
    ],
    [
      'a Retry-After that is none has a default',
      problem(503, { 'retry-after': 'soon' }),
      { kind: 'later', afterSeconds: 2 },
    ],
    ['an error without a reason tells nothing', { status: 500, body: 'oops' }, { kind: 'unknown' }],
    ['a 503 without a reason tells nothing either', { status: 503, body: '<html>' }, { kind: 'unknown' }],
    ['a lost connection', { drop: true }, { kind: 'unknown' }],
    ['no answer in time', { hang: true }, { kind: 'unknown' }],
  ])('%s', async (_, answer, outcome) => {
    canned = answer
    const asked = answer.hang ? within('0.3') : bridge
    expect(await asked.postBooking({} as never, 'key-1')).toMatchObject(outcome)
    expect(seen.headers).toMatchObject({ authorization: 'Bearer secret token', 'idempotency-key': 'key-1' })
  })

  it('knows that nothing was sent where nobody listens', async () => {
    const free = await freePort()
    const nobody = new Bridges(
      readSettings({ ...REQUIRED, AXION_BRIDGES: `http://127.0.0.1:${free}/` }),
      reading,
    ).open('Ledger', `http://127.0.0.1:${free}/`, 't')
    expect(await nobody.postBooking({} as never, 'k')).toMatchObject({ kind: 'later' })
  })

  it('replaces under the revision it was read at', async () => {
    canned = { headers: { etag: '"8"' } }
    await bridge.replaceBooking('7001', {} as never, 'key-2', '7')
    expect([seen.method, seen.headers['if-match']]).toEqual(['PUT', '"7"'])
  })
})

describe('reading from a bridge', () => {
  const about = {
    contract: '1',
    role: 'ledger',
    product: 'P',
    company: { id: 'c', name: 'C' },
    webAddress: null,
    resources: [],
    takes: [],
    taxComputation: null,
    idempotency: null,
    findsByExternalId: false,
    longestLateCommitSeconds: null,
  }
  test.each<[string, Canned, string]>([
    ['another version', { body: JSON.stringify({ ...about, contract: '2' }) }, 'AXION_BRIDGE_VERSION'],
    ['another shape', { body: JSON.stringify({ ...about, company: null }) }, 'AXION_BRIDGE_MALFORMED'],
    ['no JSON', { body: 'hello' }, 'AXION_BRIDGE_MALFORMED'],
    ['a refused token', { status: 401 }, 'AXION_BRIDGE_TOKEN'],
    ['a refusal', problem(400), 'AXION_BRIDGE_REFUSED'],
    ['a lost connection', { drop: true }, 'AXION_BRIDGE_DOWN'],
    ['no answer in time', { hang: true }, 'AXION_BRIDGE_TIMEOUT'],
    [
      'a redirect elsewhere',
      { status: 302, headers: { location: 'http://169.254.169.254/' } },
      'AXION_BRIDGE_DOWN',
    ],
  ])('%s is an error that names it', async (_, answer, code) => {
    canned = answer
    const asked = answer.hang ? within('0.3') : bridge
    await expect(asked.about()).rejects.toMatchObject({ code })
  })

  it('says what a connection ended with', async () => {
    canned = { drop: true }
    await expect(bridge.about()).rejects.toMatchObject({ facts: { why: 'UND_ERR_SOCKET' } })
    const nowhere = `http://127.0.0.1:${await freePort()}/bridge`
    const nobody = new Bridges(readSettings({ ...REQUIRED, AXION_BRIDGES: nowhere }), reading)
    const refused = (await nobody
      .open('Till', nowhere, 't')
      .about()
      .catch((error: unknown) => error)) as Problem
    expect(say(refused.code, refused.facts).says).toBe(
      'Till does not answer at its address: nobody listens there.',
    )
  })

  it('takes a page, and refuses one that would never end', async () => {
    canned = { body: JSON.stringify({ items: [], next: '5', more: false }) }
    const page = () => bridge.page({ after: '5' }, AS)
    expect(await page()).toEqual({ rows: '[]', count: 0, next: '5', more: false })
    canned = { body: JSON.stringify({ items: [], next: '5', more: true }) }
    await expect(page()).rejects.toMatchObject({ code: 'AXION_BRIDGE_MALFORMED' })
  })
})

describe('addresses', () => {
  test.each([
    ['http://127.0.0.1:1/a/bridge', true],
    ['http://127.0.0.1:1/a', true],
    ['http://127.0.0.1:1/ab', false],
    ['http://127.0.0.1:2/a', false],
    ['http://127.0.0.1.evil.example:1/a', false],
    ['http://127.0.0.1:1@evil.example/a', false],
    ['https://127.0.0.1:1/a', false],
    ['http://127.0.0.1:1/a/../b', false],
    ['no address', false],
  ])('%s: allowed %s', (address, allowed) => {
    const bridges = new Bridges(readSettings({ ...REQUIRED, AXION_BRIDGES: 'http://127.0.0.1:1/a' }), reading)
    const open = (): Bridge => bridges.open('X', address, 't')
    if (allowed) expect(open()).toBeDefined()
    else expect(open).toThrow('AXION_ADDRESS_NOT_ALLOWED')
  })
})

describe('tokens at rest', () => {
  it('come back only with the key, and untampered', () => {
    const sealed = seal('secret token', 'b'.repeat(64))
    expect(unseal(sealed, 'b'.repeat(64))).toBe('secret token')
    expect(sealed.toString('latin1')).not.toContain('secret')
    expect(seal('secret token', 'b'.repeat(64)).equals(sealed)).toBe(false)
    expect(() => unseal(sealed, 'c'.repeat(64))).toThrow()
    sealed[sealed.length - 1] = (sealed.at(-1) ?? 0) ^ 1
    expect(() => unseal(sealed, 'b'.repeat(64))).toThrow()
  })
})

describe('settings', () => {
  it('have defaults, and need what has none', () => {
    expect(readSettings(REQUIRED)).toMatchObject({
      AXION_PORT: 4100,
      AXION_BRIDGE_TIMEOUT: 10,
      AXION_LEASE: 15,
      AXION_ATTEMPTS: 8,
      AXION_BRIDGES: [],
      AXION_LOG: 'warn',
    })
    expect(() => readSettings({})).toThrow(/AXION_DATABASE[\s\S]*AXION_SECRET_KEY/)
  })
  test.each([
    ['AXION_PORT', '70000'],
    ['AXION_PORT', 'none'],
    ['AXION_TODAY', '2026-02-30'],
    ['AXION_SECRET_KEY', 'short'],
    ['AXION_LEASE', '5'],
    ['AXION_BRIDGE_TIMEOUT', '0'],
    ['AXION_LOG', 'loud'],
    ['AXION_DATABASE', 'mysql://x'],
    ['AXION_ATTEMPTS', '0'],
  ])('%s=%s is refused by name', (name, value) =>
    expect(() => readSettings({ ...REQUIRED, [name]: value })).toThrow(name),
  )
})
