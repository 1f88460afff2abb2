import type { ServerResponse } from 'node:http'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { SETTINGS, source, type Source } from '../second/source.ts'
import { Workers } from '../workers.ts'
import { makeWorld, untilEnded, type World } from '../world.ts'
import { Requests } from './requests.ts'

/**
 * Answers of a bridge that a seed spoils: cut at any byte, with bytes turned, of another status or head, with something odd in the page or
 * in its objects. Every run ends, and once the bridge is well it is read to its end.
 * AXION_FUZZ_ANSWERS says how many; two hundred where nothing is said. A worker reads them.
 */
const MANY = Number(process.env['AXION_FUZZ_ANSWERS'] ?? 200)
const SEED = Number(process.env['AXION_FUZZ_SEED'] ?? 20_261_127)
const TOKEN = 'a token for the spoilt'
const OWN = { ...SETTINGS, baseCurrency: 'USD', currencies: ['USD'], timeZone: 'America/Chicago' }

let world: World
let workers: Workers
let bad: Source
beforeAll(async () => {
  bad = await source('Spoilt', OWN, TOKEN)
  world = await makeWorld({
    bridges: [bad.address],
    environment: { AXION_BRIDGE_TIMEOUT: '0.5', AXION_LEASE: '3', AXION_WAITS: '0.05' },
  })
  workers = new Workers(world)
  workers.keep('worker')
  await world.as('administrator', 'PUT', '/api/entities/larkspur/systems/spoilt', {
    role: 'billing',
    name: 'Spoilt',
    address: bad.address,
    token: TOKEN,
  })
  const [document] = await world.billingSql<{ value: object }>(
    `select value from object where resource = 'documents' and value->>'documentDate' like '2026-09%' limit 1`,
  )
  putAll()
  for (let at = 0; at < 5; at++) bad.put('documents', `d${at}`, document?.value ?? {})
})
afterAll(async () => {
  await workers.killAll()
  await bad.close()
  await world.close()
})

/** Moves what there is to new sequences, so that it is read. */
function putAll(): void {
  bad.put('agencies', 'a', { code: null, name: 'Somebody', liabilityAccountId: null })
  bad.put('items', 'i', { code: 'I', name: 'x', kind: 'goods', taxable: true, itemTaxCode: null })
  bad.put('parties', 'p', { name: 'Somebody', exemption: null, address: null })
}

/** Spoils the answer itself: how it comes, rather than what it says. */
function spoilAnswer(requests: Requests, right: object, response: ServerResponse): void {
  const bytes = Buffer.from(JSON.stringify(right))
  switch (requests.int(0, 5)) {
    case 0: {
      response.writeHead(200, { 'content-type': 'application/json', 'content-length': bytes.length })
      response.write(bytes.subarray(0, requests.int(0, bytes.length - 1)), () => response.destroy())
      return
    }
    case 1:
      return void response.destroy()
    case 2:
      for (let turned = requests.int(1, 4); turned > 0; turned--)
        bytes[requests.int(0, bytes.length - 1)] = requests.int(0, 255)
      return void response.writeHead(200, { 'content-type': 'application/json' }).end(bytes)
    case 3:
      return void response.writeHead(requests.one([204, 206, 301, 400, 401, 404, 500, 502]), {}).end(bytes)
    case 4:
      return void response
        .writeHead(200, {
          'content-type': requests.one(['text/html', 'application/json; charset=utf-16', '']),
          'content-encoding': requests.one(['gzip', 'identity', 'deflate']),
        })
        .end(bytes)
    default:
      return void response
        .writeHead(200, { 'content-type': 'application/json' })
        .end(JSON.stringify(requests.bend(right)))
  }
}

/** Spoils what the objects of a page say. */
function spoilObjects(requests: Requests, right: object): string {
  const { items = [], ...rest } = right as { items?: { value: unknown }[] }
  return JSON.stringify({
    ...rest,
    items: items.map((item) => ({ ...item, value: requests.bend(item.value) })),
  })
}

it(`${MANY} spoilt answers, and every run ends`, { timeout: 3_600_000 }, async () => {
  const requests = new Requests(SEED, [])
  const states = new Map<string, number>()
  let spoilt = 0
  while (spoilt < MANY) {
    // In some pulls one answer is no answer; in the others many objects are none.
    const answers = requests.often(40)
    const which = requests.int(0, 6)
    let asked = 0
    bad.instead((path, response, query) => {
      const right = bad.right(path, query)
      if (right === null) return false
      if (answers ? asked++ !== which : !('items' in right)) return false
      spoilt++
      if (answers) spoilAnswer(requests, right, response)
      else response.writeHead(200, { 'content-type': 'application/json' }).end(spoilObjects(requests, right))
      return true
    })
    putAll()
    const { state } = await untilEnded(world, await world.begin('/pulls', { systemIds: ['spoilt'] }))
    states.set(state, (states.get(state) ?? 0) + 1)
  }
  process.stdout.write(`spoilt answers: ${spoilt}, runs: ${JSON.stringify(Object.fromEntries(states))}\n`)
  expect([...states.keys()].filter((state) => !['done', 'failed'].includes(state))).toEqual([])
  bad.instead(null)
  putAll()
  expect((await untilEnded(world, await world.begin('/pulls', { systemIds: null }))).state).toBe('done')
  expect(workers.died).toBe(0)
  expect(await world.ownerSql(`select 1 from run where state in ('queued', 'running')`)).toEqual([])
})
