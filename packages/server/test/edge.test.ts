import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { connect, type AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { baseline } from '@axion/demo'
import Fastify from 'fastify'
import { afterAll, beforeAll, describe, expect, it, test, vi } from 'vitest'
import { z } from 'zod'
import { answerWithProblems } from '../src/faults/problem.ts'
import { validateBounded } from '../src/faults/validate.ts'
import { buildApp } from '../src/main/app.ts'
import { limitPressure } from '../src/main/health.ts'
import { readSettings } from '../src/settings/settings.ts'
import { writingRoutes, type WritingRoute } from './routes.ts'
import { makeWorld, MONTH, type World } from './world.ts'

/** What is settled before a body is read: nobody unknown makes the server read, hold or check anything. */
let world: World
let port: number
beforeAll(async () => {
  world = await makeWorld({ environment: { AXION_PROXIES: '10.9.0.0/16, ::1' } })
  await world.app.listen({ port: 0, host: '127.0.0.1' })
  port = (world.app.server.address() as AddressInfo).port
})
afterAll(() => world.close())

/** Announces a body of so many bytes, sends none of it, and gives the status that comes all the same. */
function announced(method: string, path: string, bytes: number, cookie = ''): Promise<string> {
  return new Promise((answered, failed) => {
    const socket = connect(port, '127.0.0.1', () =>
      socket.write(
        [
          `${method} ${path} HTTP/1.1`,
          'host: x',
          'x-axion-request: t',
          'content-type: application/json',
          `content-length: ${bytes}`,
          ...(cookie === '' ? [] : [`cookie: ${cookie}`]),
          '',
          '',
        ].join('\r\n'),
      ),
    )
    socket.once('data', (data) => {
      answered(data.toString().split(' ')[1] ?? '')
      socket.destroy()
    })
    socket.once('error', failed)
  })
}
const cookieOf = async (who: string): Promise<string> => {
  const answer = await world.app.inject({
    method: 'POST',
    url: '/api/session',
    payload: { email: `${who}@example.org`, password: 'a long password' },
    headers: { 'x-axion-request': 't' },
    remoteAddress: '10.0.9.9',
  })
  return String(answer.headers['set-cookie']).split(';')[0] ?? ''
}

/** Every route that takes a body, with names in the place of its parameters. */
async function writing(): Promise<WritingRoute[]> {
  return (await writingRoutes(world)).map(({ method, path }) => ({
    method,
    path: path
      .replace('{entity}', 'larkspur')
      .replace('{month}', '2026-09')
      .replaceAll(/\{\w+\}/g, 'x'),
  }))
}
const ANYBODY = [
  ...['POST /api/session', 'DELETE /api/session', 'POST /api/first/x'],
  ...['POST /api/invitations/x', 'POST /api/invitations/x/asked'],
]

describe('before a body is read', () => {
  it('every route that writes knows who asks, and refuses the unknown', async () => {
    const routes = await writing()
    expect(routes.length).toBeGreaterThan(40)
    const refused: string[] = []
    for (const { method, path } of routes)
      refused.push(`${method} ${path} ${await announced(method, path, 200_000)}`)
    expect(refused.filter((one) => !one.endsWith(' 401')).sort()).toEqual(
      ANYBODY.map((one) => `${one} 413`).sort(),
    )
  })

  it('and the stranger to an entity, and who has too small a role there', async () => {
    const [stranger, viewer] = [await cookieOf('stranger'), await cookieOf('viewer')]
    expect(await announced('PUT', `${MONTH}/baseline`, 30_000_000, stranger)).toBe('404')
    expect(await announced('PUT', `${MONTH}/baseline`, 30_000_000, viewer)).toBe('403')
    expect(await announced('POST', `${MONTH}/post/runs`, 3_000_000, viewer)).toBe('403')
  })

  test.each<[string, string, number]>([
    ['POST', '/api/session', 5000],
    ['PUT', `${MONTH}/links`, 300_000],
    ['POST', `${MONTH}/post/runs`, 5_000_000],
    ['POST', `${MONTH}/align/bulk/preview`, 5_000_000],
  ])('%s %s has its limit', async (method, path, bytes) => {
    expect(await announced(method, path, bytes, await cookieOf('preparer'))).toBe('413')
  })
})

describe('founding an entity', () => {
  const entity = { id: 'new', name: 'New', country: 'XA', currency: 'USD', timeZone: 'UTC', locale: 'en' }
  test.each<[string, object]>([
    ['a time zone that is none', { timeZone: 'Mars/Olympus' }],
    ['a locale that is none', { locale: 'no locale at all' }],
    ['a locale that nothing can be written by', { locale: 'zz-ZZ' }],
  ])('refuses %s by name', async (_, wrong) => {
    const answer = await world.as('administrator', 'POST', '/api/entities', { ...entity, ...wrong })
    expect([answer.statusCode, answer.json().facts.path]).toEqual([400, Object.keys(wrong)[0]])
  })
})

describe('text', () => {
  test.each<[string, 'GET' | 'POST' | 'PUT', string, object | undefined, string]>([
    ['a NUL in a body', 'PUT', '/links', { systemId: 'le\u0000dger' }, 'systemId'],
    [
      'half of a character, deep',
      'POST',
      '/mend/preview',
      { remedy: { kind: 'a', of: ['\ud800'] } },
      'remedy.of.0',
    ],
    ['a NUL in the name of a field', 'PUT', '/links', { in: { 'a\u0000': 1 } }, 'in'],
    ['a NUL in a query', 'GET', '/tie-out?search=%00', undefined, 'search'],
  ])('%s is refused with the field’s name', async (_, method, path, body, field) => {
    const answer = await world.as('preparer', method, MONTH + path, body)
    expect([answer.statusCode, answer.json().facts]).toEqual([
      400,
      { path: field, problem: 'holds a NUL or half of a character' },
    ])
  })

  test.each([50, 100_000])('nested %d deep is refused, and ends nothing', async (deep) => {
    const answer = await world.app.inject({
      method: 'PUT',
      url: `${MONTH}/links`,
      headers: {
        'x-axion-request': 't',
        'content-type': 'application/json',
        cookie: await cookieOf('preparer'),
      },
      payload: `{"a":${'['.repeat(deep)}${']'.repeat(deep)}}`,
    })
    expect([answer.statusCode, answer.json().facts.problem]).toEqual([400, 'is nested too deep'])
    expect((await world.as('viewer', 'GET', '/api/session')).statusCode).toBe(200)
  })

  it('a NUL in an address is refused too', async () => {
    const answer = await world.as('preparer', 'GET', '/api/entities/larkspur/months/2026-09/align/ra%00tes')
    expect([answer.statusCode, answer.json().facts.path]).toEqual([400, 'kind'])
  })
})

it('no cache keeps what the API answers', async () => {
  for (const path of [`${MONTH}/close`, `${MONTH}/tie-out/list.csv`, '/api/session', '/api/nowhere'])
    expect([path, (await world.as('viewer', 'GET', path)).headers['cache-control']]).toEqual([
      path,
      'no-store',
    ])
})

it('a browser keeps the parts of pages, which are named by what they hold, and asks for each page anew', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'axion-web-'))
  mkdirSync(join(folder, 'assets'))
  writeFileSync(join(folder, 'index.html'), '<title>Axion</title>')
  writeFileSync(join(folder, 'assets', 'page-1.js'), 'export {}')
  const app = await buildApp({
    ...world.services,
    settings: { ...world.services.settings, AXION_WEB: `${folder}/` },
  })
  const told = async (url: string): Promise<unknown[]> => {
    const { statusCode, headers } = await app.inject(url)
    return [url, statusCode, headers['cache-control']]
  }
  expect(await told('/assets/page-1.js')).toEqual([
    '/assets/page-1.js',
    200,
    'public, max-age=31536000, immutable',
  ])
  expect(await told('/larkspur/2026-09')).toEqual(['/larkspur/2026-09', 200, 'public, max-age=0'])
  // A part of pages that were built before is not there: no page stands in its place.
  expect((await told('/assets/page-0.js'))[1]).toBe(404)
  // With pages beside it the API still describes itself, and nothing else.
  const { paths } = (await app.inject('/api/docs/json')).json<{ paths: object }>()
  expect(Object.keys(paths).filter((path) => !path.startsWith('/api/'))).toEqual([])
  expect(Object.keys(paths)).toContain('/api/session')
  await app.close()
  rmSync(folder, { recursive: true })
})

describe('what the database says', () => {
  const member = { email: 'viewer@example.org', role: 'viewer' }
  test.each<[string, string, number, string]>([
    ['is busy with another', '40P01', 503, 'AXION_NOT_NOW'],
    ['stops', '57P01', 503, 'AXION_NOT_NOW'],
    ['cannot keep a value', '22003', 400, 'AXION_BAD_REQUEST'],
    ['something else', 'P0001', 500, 'AXION_INTERNAL'],
  ])('that it %s', async (_, state, status, code) => {
    await world.ownerSql(
      `create function refuse() returns trigger language plpgsql as $$ begin raise exception 'no' using errcode = '${state}'; end $$; create trigger refuse before insert or update on membership for each row execute function refuse()`,
    )
    const answer = await world.as('administrator', 'PUT', '/api/entities/larkspur/members', member)
    await world.ownerSql('drop function refuse() cascade')
    expect([answer.statusCode, answer.json().code, answer.headers['retry-after']]).toEqual([
      status,
      code,
      status === 503 ? '2' : undefined,
    ])
  })
})

describe('behind a proxy', () => {
  const signInFrom = (remoteAddress: string) =>
    world.app.inject({
      method: 'POST',
      url: '/api/session',
      payload: { email: 'viewer@example.org', password: 'a long password' },
      headers: {
        'x-axion-request': 't',
        'x-forwarded-for': '203.0.113.7',
        'x-forwarded-proto': 'https',
      },
      remoteAddress,
    })

  it('that is named, a cookie goes by TLS alone, and the trail has the true address', async () => {
    const cookie = String((await signInFrom('10.9.4.1')).headers['set-cookie'])
    expect(cookie).toMatch(/; Secure/)
    const asked = await world.app.inject({
      method: 'PUT',
      url: '/api/entities/larkspur/members',
      payload: { email: 'viewer@example.org', role: 'viewer' },
      headers: {
        'x-axion-request': 't',
        cookie: await cookieOf('administrator'),
        'x-forwarded-for': '203.0.113.7',
      },
      remoteAddress: '10.9.4.1',
    })
    expect(asked.statusCode).toBe(200)
    expect(
      await world.ownerSql(
        `select from_address as at from audit_entry where action = 'member' order by at desc limit 1`,
      ),
    ).toEqual([{ at: '203.0.113.7' }])
  })

  it('that nobody named, what it says is not believed', async () => {
    expect(String((await signInFrom('10.8.4.1')).headers['set-cookie'])).not.toMatch(/; Secure/)
  })
})

describe('a setting that is wrong is told by name', () => {
  const right = { AXION_DATABASE: 'postgres://x', AXION_SECRET_KEY: '0'.repeat(64) }
  test.each<[string, string]>([
    ['AXION_BRIDGES', 'books.example'],
    ['AXION_BRIDGES', 'https://books.example/?a=b'],
    ['AXION_BRIDGES', 'ftp://books.example'],
    ['AXION_PROXIES', 'proxy.example'],
    ['AXION_PROXIES', '10.0.0.0/33'],
    ['AXION_PROXIES', '10.0.0.0/8/8'],
    ['AXION_TODAY', '2026-02-30'],
    ['AXION_PORT', 'many'],
  ])('%s=%s', (name, value) => {
    expect(() => readSettings({ ...right, [name]: value })).toThrow(new RegExp(`^${name} `))
    expect(readSettings(right)).toMatchObject({ AXION_BRIDGES: [], AXION_PROXIES: [] })
  })
})

describe('what would take the server past its limits', () => {
  it('is answered 503 with when to come back, and its health is told all the same', async () => {
    const app = Fastify()
    answerWithProblems(app)
    await limitPressure(app, { maxEventLoopDelay: 0, maxHeapUsedBytes: 1, sampleInterval: 5 })
    app.get('/a', () => 'never')
    app.get('/health', { config: { tellsHealth: true } }, () => 'told')
    await app.ready()
    await vi.waitFor(() => expect(app.isUnderPressure()).toBe(true), { timeout: 600_000 })
    const refused = await app.inject('/a')
    expect([refused.statusCode, refused.headers['retry-after'], refused.json().code]).toEqual([
      503,
      '5',
      'AXION_NOT_NOW',
    ])
    expect((await app.inject('/health')).body).toBe('told')
    await app.close()
  })

  it('a lag below the limit refuses nobody, however long one look is kept waiting', async () => {
    const app = Fastify()
    answerWithProblems(app)
    await limitPressure(app, { maxEventLoopDelay: 600_000, sampleInterval: 5 })
    app.get('/busy', () => {
      for (const until = performance.now() + 20; performance.now() < until;);
      return 'done'
    })
    await app.listen({ port: 0, host: '127.0.0.1' })
    const at = `http://127.0.0.1:${(app.server.address() as AddressInfo).port}/busy`
    for (let burst = 0; burst < 5; burst++) {
      const answers = await Promise.all(Array.from({ length: 8 }, () => fetch(at)))
      expect(answers.map(({ status }) => status)).toEqual(Array<number>(8).fill(200))
    }
    await app.close()
  })

  it('health has how far the server lags, and its memory', async () => {
    expect((await world.app.inject('/api/health')).json()).toMatchObject({
      eventLoopDelayMs: expect.any(Number),
      heapMegabytes: expect.any(Number),
      heapLimitMegabytes: expect.any(Number),
      residentMegabytes: expect.any(Number),
      underPressure: false,
    })
    // Before it came to measure, it lags beyond all telling: no figure, and no failure of the page that tells it.
    const lags = vi.spyOn(world.app, 'memoryUsage').mockReturnValue({
      ...world.app.memoryUsage(),
      eventLoopDelay: Infinity,
    })
    const told = await world.app.inject('/api/health')
    lags.mockRestore()
    expect([told.json().code, told.json().eventLoopDelayMs]).toEqual([undefined, null])
  })
})

describe('a body of somebody who is known', () => {
  const put = async (body: object): Promise<string> =>
    (await world.as('preparer', 'PUT', `${MONTH}/baseline`, body)).json<{ title: string }>().title
  const rates = (n: number, at = -1): object => ({
    ...baseline(),
    rateVersions: Array.from({ length: n }, (_, i) => ({
      jurisdiction: 'WN',
      percent: i === at ? 'much' : '1',
      from: '2026-01-01',
      to: null,
    })),
  })

  it('with a list without a bound is refused by its name', async () => {
    expect(await put(rates(10_001))).toBe('rateVersions has 10001 members of at most 10000.')
  })

  it('is looked through no further than its first hundred faults, each by its place', () => {
    let looked = 0
    const member = z.object({ a: z.string() }).refine(() => true)
    const spy = vi.spyOn(member, 'safeParse').mockImplementation((value) => {
      looked++
      return z.object({ a: z.string() }).safeParse(value) as never
    })
    const check = validateBounded({
      schema: z.object({ list: z.array(member) }),
      method: 'PUT',
      url: '/',
      httpPart: 'body',
    })
    const { error } = check({
      list: Array.from({ length: 5000 }, (_, at) => (at < 4000 ? { a: '' } : {})),
    }) as {
      error: readonly { instancePath: string }[]
    }
    expect([looked, error.length, error[0]?.instancePath]).toEqual([4100, 100, '/list/4000/a'])
    spy.mockRestore()
  })

  it('with one fault in a long list is told where', async () => {
    expect(await put(rates(2000, 1500))).toMatch(/^rateVersions\.1500\.percent is no percent/)
  })
})
