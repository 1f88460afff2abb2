import type { CloseView, ConnectView, PathView } from '@axion/contract'
import { afterAll, afterEach, beforeAll, describe, expect, it, test } from 'vitest'
import { at, body, change, hostileWorld, page, problemOf } from './hostileBridge.ts'
import { ODD } from './oddAnswers.ts'
import type { Instead, Source } from './second/source.ts'
import { Workers } from './workers.ts'
import { MONTH, untilEnded, type RunSeen, type World } from './world.ts'

/** A bridge that does whatever a bridge should not, beside two that are well, read by a worker: its run ends, says how, and stops nobody else. */
let world: World
let workers: Workers
let bad: Source
beforeAll(async () => {
  ;({ world, bad } = await hostileWorld({ AXION_BRIDGE_TIMEOUT: '10', AXION_WAITS: '0.05' }))
  workers = new Workers(world)
  workers.keep('worker')
})
afterEach(() => bad.instead(null))
afterAll(async () => {
  const died = workers.died
  await workers.killAll()
  await bad.close()
  await world.close()
  expect(died).toBe(0)
})

const pull = async (): Promise<RunSeen> => untilEnded(world, await world.begin('/pulls', { systemIds: null }))

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
      /^Hostile took longer than 10 seconds/,
    ],
    ['silence', at('items', () => true), /^Hostile took longer than 10 seconds/],
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
    ...ODD,
  ])('%s: the run ends as failed, says what, and the others are pulled', async (_, instead, says) => {
    bad.instead(instead)
    const run = await pull()
    expect([run.state, problemOf(run)]).toEqual(['failed', expect.stringMatching(says)])
    expect(run.pulled.filter(({ problem }) => problem === null)).toHaveLength(2)
    const { systems } = await world.ok<ConnectView>('GET', `${MONTH}/connect`)
    expect(systems.flatMap(({ name, notFresh }) => (notFresh ? [name] : []))).toEqual(['Hostile'])
    bad.instead(null)
    expect((await pull()).state).toBe('done')
  })

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
    [
      'a name that is shown up to the middle of a character',
      { party: { id: 'p', name: `${'n'.repeat(99)}\u{1F41D}` }, webAddress: 'javascript:alert(1)' },
      /webAddress/,
    ],
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
