import type { ConnectView, PostView, TieOutView } from '@axion/contract'
import { baseline } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { freePort } from '../../../scripts/lib/home.mjs'
import { makeWorld, MONTH, type World } from './world.ts'

let world: World
beforeAll(async () => void (world = await makeWorld()))
afterAll(() => world.close())

/** Puts a changed copy of a stored object into a stand-in, as a careless bridge would hand it out. */
async function spoil(
  system: 'ledger' | 'billing',
  resource: string,
  change: (value: Record<string, unknown>) => object,
  id = 'spoilt',
): Promise<void> {
  const sql = system === 'ledger' ? world.ledgerSql : world.billingSql
  const [row] = await sql<{ value: Record<string, unknown> }>(
    `select value from object where resource = $1 and not removed order by sequence limit 1`,
    [resource],
  )
  await sql(
    `insert into object (resource, id, sequence, revision, value) values ($1, $2, nextval('change_sequence'), 1, $3)
    on conflict (resource, id) do update set sequence = excluded.sequence, revision = object.revision + 1, value = excluded.value`,
    [resource, id, JSON.stringify(change(row?.value ?? {}))],
  )
}
const findings = async (): Promise<string[]> =>
  (await world.ok<ConnectView>('GET', `${MONTH}/connect`)).systems.flatMap((s) =>
    s.findings.map((f) => f.says),
  )

describe('a bad object is a finding that names it, and spoils no other', () => {
  type Row = [string, 'ledger' | 'billing', string, (value: Record<string, unknown>) => object, RegExp]
  test.each<Row>([
    [
      'an unknown currency',
      'billing',
      'documents',
      (v) => ({ ...v, number: 'BAD-1', currency: 'XQQ' }),
      /BAD-1.*currency is no ISO 4217 currency/,
    ],
    [
      'a date that is none',
      'billing',
      'documents',
      (v) => ({ ...v, number: 'BAD-1', documentDate: '2026-02-30' }),
      /BAD-1.*documentDate/,
    ],
    [
      'an amount with too many digits',
      'billing',
      'documents',
      (v) => ({ ...v, number: 'BAD-1', total: '10.005' }),
      /BAD-1.*"10.005" is no amount in USD/,
    ],
    [
      'amounts that do not add up',
      'billing',
      'documents',
      (v) => ({ ...v, number: 'BAD-1', total: '1.00' }),
      /BAD-1.*do not add up/,
    ],
    [
      'a document without lines',
      'billing',
      'documents',
      (v) => ({ ...v, number: 'BAD-1', lines: [] }),
      /BAD-1.*lines/,
    ],
    [
      'a rate over 100 %',
      'ledger',
      'tax-rates',
      (v) => ({ ...v, name: 'Steep', percent: '120' }),
      /Steep.*percent/,
    ],
    ['an agency without a name', 'ledger', 'agencies', () => ({ code: null }), /agencies spoilt.*name/],
    ['nothing at all', 'ledger', 'accounts', () => [], /accounts spoilt/],
  ])('%s', async (_, system, resource, change, says) => {
    await spoil(system, resource, change)
    const pulled = await world.run('/pulls', { systemIds: null })
    expect(pulled.state).toBe('done')
    // What is still unreadable is read again, and counted again.
    expect(pulled.pulled.flatMap((p) => p.counts).reduce((n, c) => n + c.unreadable, 0)).toBe(
      (await findings()).length,
    )
    expect((await findings()).join('\n')).toMatch(says)
    const documents = Object.values((await world.ok<PostView>('GET', `${MONTH}/post`)).counts).reduce(
      (n, c) => n + (c ?? 0),
      0,
    )
    expect(documents).toBe(144)
  })

  it('is settled when the object is mended', async () => {
    for (const [system, resource] of [
      ['billing', 'documents'],
      ['ledger', 'tax-rates'],
      ['ledger', 'agencies'],
      ['ledger', 'accounts'],
    ] as const) {
      const sql = system === 'ledger' ? world.ledgerSql : world.billingSql
      await sql(
        `update object set removed = true, value = null, sequence = nextval('change_sequence') where id = 'spoilt' and resource = $1`,
        [resource],
      )
    }
    await world.run('/pulls', { systemIds: null })
    expect(await findings()).toEqual([])
  })
})

describe('a bridge that is not as it should be spoils only its own part', () => {
  const pointTo = async (address: string): Promise<void> => {
    await world.services.database.transaction(async (trx) => {
      await trx.raw(`select set_config('axion.entity', 'larkspur', true)`)
      await trx('system').where({ system_id: 'billing' }).update({ address })
    })
  }
  it('says that it is down, and pulls the others', async () => {
    const port = await freePort()
    world.services.settings.AXION_BRIDGES.push(`http://127.0.0.1:${port}/`)
    await pointTo(`http://127.0.0.1:${port}/bridge`)
    const pulled = await world.run('/pulls', { systemIds: null })
    expect(pulled.pulled.map((p) => p.problem?.says ?? null)).toEqual([
      null,
      'Billing does not answer at its address: nobody listens there.',
    ])
    await pointTo(`${world.standins}/billing/bridge`)
  })

  test.each([
    ['another version of the contract', { contract: '9' }, /speaks version 9/],
    ['another shape', { contract: '1', role: 'billing' }, /answered \/about in another shape/],
    ['no JSON at all', 'hello', /answered \/about in another shape/],
  ])('names %s', async (_, about, says) => {
    const { createServer } = await import('node:http')
    const port = await freePort()
    const server = createServer(
      (_request, response) =>
        void response
          .setHeader('content-type', 'application/json')
          .end(typeof about === 'string' ? about : JSON.stringify(about)),
    )
    await new Promise<void>((listening) => void server.listen(port, '127.0.0.1', listening))
    world.services.settings.AXION_BRIDGES.push(`http://127.0.0.1:${port}/`)
    await pointTo(`http://127.0.0.1:${port}/bridge`)
    const pulled = await world.run('/pulls', { systemIds: ['billing'] })
    expect(pulled.pulled[0]?.problem?.says).toMatch(says)
    await pointTo(`${world.standins}/billing/bridge`)
    await new Promise((closed) => server.close(closed))
  })
})

describe('what the baseline lacks is a finding, not a guess', () => {
  it('leaves a document open whose item has no code, and proves none of it', async () => {
    await world.ok('PUT', `${MONTH}/baseline`, {
      ...baseline(),
      items: baseline().items.filter((i) => i.code !== 'SMOKER'),
    })
    const { rows, causes } = await world.ok<TieOutView>('GET', `${MONTH}/tie-out?limit=1000`)
    expect(rows.length).toBeGreaterThan(0)
    expect(causes.every((c) => c.facts.kind === 'missing')).toBe(true)
    await world.run('/post/rehearsal')
    const remarks = (await world.ok<PostView>('GET', `${MONTH}/post?warned=yes`)).rows.flatMap((r) =>
      r.remarks.map((m) => m.code),
    )
    expect(remarks).toContain('AXION_NO_ITEM_TAX_CODE')
  })
})
