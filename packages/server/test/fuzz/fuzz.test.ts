import { afterAll, beforeAll, expect, it, vi } from 'vitest'
import { freePort } from '../../../../scripts/lib/home.mjs'
import { Workers } from '../workers.ts'
import { reckoner } from '../keeping.ts'
import { makeReadyWorld, type World } from '../world.ts'
import { RECIPES } from './recipes.ts'
import { Requests, routesOf, type Drawn, type Route } from './requests.ts'

/**
 * Requests that a seed draws, at every route of the docs, against a server and a worker of their own: no answer of 500, and none
 * past it but that another system fails or "not now", no run that stays, no process that dies; and each route is answered well at least once.
 * AXION_FUZZ says how many; a thousand where nothing is said.
 */
const MANY = Number(process.env['AXION_FUZZ'] ?? 1000)
const SEED = Number(process.env['AXION_FUZZ_SEED'] ?? 20_261_127)
const PEOPLE = ['administrator', 'preparer', 'reviewer', 'viewer', 'stranger']

let world: World
let workers: Workers
let server: ReturnType<Workers['start']>
let base: string
beforeAll(async () => {
  world = await makeReadyWorld({
    others: [reckoner()],
    environment: { AXION_BRIDGE_TIMEOUT: '2', AXION_LEASE: '3', AXION_PROXIES: '127.0.0.1' },
  })
  workers = new Workers(world)
  const port = await freePort()
  base = `http://127.0.0.1:${port}`
  server = workers.start('server', { AXION_PORT: String(port), AXION_KEYS_DATABASE: world.databases.keys })
  workers.start()
  await vi.waitFor(async () => expect((await fetch(`${base}/api/health`)).status).toBe(200), {
    timeout: 600_000,
    interval: 200,
  })
})
afterAll(async () => {
  await workers.killAll()
  await world.close()
})

const cookies = new Map<string, string>()
let asked = 0
/** Each is asked from an address of its own: the limit of one is not what is tried here. */
const from = (): Record<string, string> => ({
  'x-forwarded-for': `10.${++asked >> 16}.${(asked >> 8) & 255}.${asked & 255}`,
})
async function cookieOf(who: string): Promise<string> {
  const known = cookies.get(who)
  if (known !== undefined) return known
  const [email = '', password = 'a long password'] = who.includes('|')
    ? who.split('|')
    : [`${who}@example.org`]
  const answer = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'x-axion-request': 't', ...from() },
    body: JSON.stringify({ email, password }),
  })
  const cookie = String(answer.headers.get('set-cookie')).split(';')[0] ?? ''
  if (answer.ok) cookies.set(who, cookie)
  return cookie
}

async function send({
  method,
  url,
  body,
  type,
  headers,
  who,
}: Drawn): Promise<{ status: number; value: unknown }> {
  const answer = await fetch(base + url, {
    method,
    headers: {
      ...headers,
      ...from(),
      ...(body === null || type === '' ? {} : { 'content-type': type }),
      ...(who === null ? {} : { cookie: await cookieOf(who) }),
    },
    ...(body === null ? {} : { body: typeof body === 'string' ? body : new Uint8Array(body) }),
  })
  const text = await answer.text()
  try {
    return { status: answer.status, value: JSON.parse(text) }
  } catch {
    return { status: answer.status, value: text }
  }
}

/** What an answer past 500 may say: that another system fails, or that it is not now. */
const NAMED = [
  'AXION_NOT_NOW',
  'AXION_BRIDGE_REFUSED',
  'AXION_BRIDGE_DOWN',
  'AXION_BRIDGE_TIMEOUT',
  'AXION_BRIDGE_MALFORMED',
  'AXION_BRIDGE_TOKEN',
  'AXION_CREATED_UNSURE',
]
/** What would take the people away who ask, or what they may write, or the limit of sign-ins that everybody here shares. */
const ASIDE = [
  'DELETE /api/session',
  'PUT /api/session/password',
  'POST /api/session',
  'PUT /api/people/{email}/password',
  'DELETE /api/session/all/{session}',
  'PUT /api/entities/{entity}/members',
  'PUT /api/entities/{entity}/closed',
  'DELETE /api/entities/{entity}/members/{email}',
]

it(`${MANY} requests, and every route answered well`, { timeout: 3_600_000 }, async () => {
  const requests = new Requests(SEED, PEOPLE)
  requests.know('entity', 'larkspur')
  requests.know('month', '2026-09', '2026-08')
  const routes = routesOf(
    (await send({ method: 'GET', url: '/api/docs/json', body: null, type: '', headers: {}, who: null }))
      .value,
  )
  expect(routes.length).toBeGreaterThan(60)
  const named = ({ method, path }: Route): string => `${method} ${path}`
  const well = new Set<string>()
  const wrong: string[] = []
  const told = new Map<string, number>()
  const look = async (route: Route, drawn: Drawn): Promise<number> => {
    const { status, value } = await send(drawn)
    const code = (value as { code?: unknown } | null)?.code
    told.set(String(status), (told.get(String(status)) ?? 0) + 1)
    if (status < 300) {
      well.add(named(route))
      requests.learn(value)
    } else if (status === 500 || (status > 500 && !NAMED.includes(String(code))))
      wrong.push(
        `${status} ${drawn.method} ${drawn.url.slice(0, 300)} as ${drawn.who}: ${String(drawn.body).slice(0, 500)} → ${JSON.stringify(value).slice(0, 300)}`,
      )
    return status
  }
  // What takes more than one step is walked first, as a person would.
  /** Of the routes that an address fits, the one that says most of it. */
  const matching = (method: string, url: string): Route | undefined => {
    const path = url.split('?')[0] ?? ''
    const open = (route: Route): number => route.path.split('{').length
    return routes
      .filter((one) => {
        const fits = one.path.replaceAll('.', '\\.').replaceAll(/\{[^}]*\}/g, '[^/]+')
        return one.method === method && new RegExp(`^${fits}$`).test(path)
      })
      .sort((a, b) => open(a) - open(b))[0]
  }
  for (const recipe of RECIPES)
    await recipe({
      world,
      call: async (who, method, url, body) => {
        const route = matching(method, url)
        if (!route) throw new Error(`${method} ${url} is no route`)
        const isFile = Buffer.isBuffer(body)
        const { status, value } = await send({
          method,
          url,
          body: body === undefined ? null : isFile ? body : JSON.stringify(body),
          type: isFile ? 'application/octet-stream' : 'application/json',
          headers: { 'x-axion-request': 't' },
          who,
        })
        if (status >= 300) throw new Error(`${method} ${url}: ${status} ${JSON.stringify(value)}`)
        well.add(named(route))
        return value as never
      },
    })
  // What is there is learnt, from every route that reads.
  for (let round = 0; round < 3; round++)
    for (const route of routes.filter(({ method }) => method === 'GET'))
      await look(route, requests.draw(route, 'right'))
  const fuzzed = routes.filter((route) => !ASIDE.includes(named(route)))
  for (let at = 0; at < MANY; at++) {
    const how = at % 3 === 0 ? 'right' : at % 3 === 1 ? 'bent' : 'odd'
    const route = requests.one(at % 7 === 0 ? routes : fuzzed)
    const aside = ASIDE.includes(named(route))
    await look(route, { ...requests.draw(route, aside ? 'odd' : how), ...(aside ? { who: null } : {}) })
  }
  expect(wrong).toEqual([])
  process.stdout.write(`fuzz: ${JSON.stringify(Object.fromEntries([...told].sort()))}\n`)
  expect(routes.map(named).filter((route) => !well.has(route))).toEqual([])
  await vi.waitFor(
    async () =>
      expect(
        await world.ownerSql(
          `select run_id, kind, state, step from run where state in ('queued', 'running')`,
        ),
      ).toEqual([]),
    { timeout: 300_000, interval: 500 },
  )
  // What nobody foresaw has no name of its own.
  expect(
    await world.ownerSql(
      `select kind, step, report->'problem' as problem from run where report->'problem'->>'code' = 'AXION_RUN_FAILED'`,
    ),
  ).toEqual([])
  expect([server.exitCode, server.signalCode]).toEqual([null, null])
  expect(workers.died).toBe(0)
  expect((await fetch(`${base}/api/health`)).status).toBe(200)
})
