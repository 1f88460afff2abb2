import { spawn, type ChildProcess } from 'node:child_process'
import { createInterface } from 'node:readline'
import { resolve } from 'node:path'
import { otherSystems, SEED, type OtherSystem } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { ROOT } from '../../../scripts/lib/home.mjs'
import { reckoner } from '../../server/test/keeping.ts'
import { makeWorld, type World } from '../../server/test/world.ts'
import { checkBridge, type Result } from '../src/index.ts'

/** A tax service that was told of one document. */
const { data, ...service } = reckoner()
const told: OtherSystem = {
  ...service,
  data: {
    ...data,
    objects: [
      ...data.objects,
      {
        resource: 'committed',
        id: 'kept_1',
        value: {
          ...{ number: 'LA-1', kind: 'invoice', documentId: 'inv_1', status: 'committed' },
          ...{ documentDate: '2026-09-02', currency: 'USD', exchangeRate: null, taxes: [], webAddress: null },
        },
      },
    ],
  },
}
const OTHERS = [...otherSystems(SEED), told]
const TOKEN = 'a token for the test'
let world: World
let python: ChildProcess
let pythonAddress = ''
beforeAll(async () => {
  world = await makeWorld({ others: OTHERS })
  python = spawn(
    'python3',
    [resolve(ROOT, 'packages/standins/python/ledger_bridge.py'), '--port', '0', '--token', TOKEN],
    { stdio: ['ignore', 'pipe', 'inherit'] },
  )
  const [line] = await new Promise<string[]>((told) =>
    createInterface({ input: python.stdout as NonNullable<typeof python.stdout> }).once('line', (text) =>
      told(text.split(' ').slice(-1)),
    ),
  )
  pythonAddress = `http://127.0.0.1:${line}`
})
afterAll(async () => {
  python.kill()
  await world.close()
})

const failing = (results: readonly Result[]): Result[] => results.filter((r) => r.state === 'fails')

describe('the bridges keep to docs/bridge.md', () => {
  test.each(['by-rate', 'as-given'])('our ledger stand-in, tax %s', async (taxComputation) => {
    await world.desk('ledger', 'settings', {
      keepsDocumentNumbers: 'yes',
      lockedThrough: '2026-08-31',
      taxComputation,
    })
    const results = await checkBridge(`${world.standins}/ledger/bridge`, world.token, { write: true })
    expect(failing(results)).toEqual([])
    expect(results.length).toBeGreaterThan(25)
  })

  it('our billing stand-in', async () =>
    expect(
      failing(await checkBridge(`${world.standins}/billing/bridge`, world.token, { write: true })),
    ).toEqual([]))

  test.each(OTHERS.map(({ id, name }) => [id, name]))('our stand-in of %s, %s', async (id) => {
    expect(
      failing(await checkBridge(`${world.standins}/${id}/bridge`, world.token, { write: true })),
    ).toEqual([])
  })

  it('the ledger in Python, from the page alone', async () => {
    const results = await checkBridge(pythonAddress, TOKEN, { write: true })
    expect(failing(results)).toEqual([])
    expect(results.length).toBeGreaterThan(25)
  })

  it('writes nothing without being told to', async () => {
    const results = await checkBridge(pythonAddress, TOKEN, { write: false })
    expect(results.filter((r) => r.state === 'not-checked').map((r) => r.rule)).toEqual([
      'bookings and set-up',
    ])
  })
})

describe('what does not keep to it is told', () => {
  test.each([
    ['a ledger that ignores keys', 'keys-ignored', /the same key/],
    ['a ledger that finds nothing by external id, and says so', 'no-external-id', null],
  ] as const)('%s', async (_, fault, rule) => {
    await world.desk('ledger', 'faults', { name: fault, requests: '-1' })
    const failed = failing(await checkBridge(`${world.standins}/ledger/bridge`, world.token, { write: true }))
    await world.desk('ledger', 'faults', { name: fault, requests: '0' })
    if (rule) expect(failed.map((r) => r.rule).join()).toMatch(rule)
    else expect(failed).toEqual([])
  })

  it('a wrong token', async () =>
    expect(
      failing(await checkBridge(`${world.standins}/billing/bridge`, 'wrong', { write: false })).map(
        (r) => r.rule,
      ),
    ).toContain('GET /about has the shape of the page, and speaks this version'))
})
