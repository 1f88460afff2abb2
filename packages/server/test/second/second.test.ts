import { checkBridge } from '@axion/conformance'
import type {
  CloseView,
  Evidence,
  GridView,
  PostView,
  RemedyPreview,
  TieOutView,
  TriedRemedy,
} from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { perform } from '../../src/runs/perform.ts'
import { makeWorld, type World } from '../world.ts'
import { baseline, SORREL, startBusiness, TOKEN, type Business } from './business.ts'

const MONTH = '/api/entities/sorrel/months/2026-09'
let world: World
let business: Business

const call = async <T>(method: 'GET' | 'POST' | 'PUT', path: string, body?: object): Promise<T> => {
  const answer = await world.as('administrator', method, path, body)
  if (answer.statusCode >= 300) throw new Error(`${method} ${path}: ${answer.statusCode} ${answer.body}`)
  return answer.json()
}
async function run(
  path: string,
  body: object = {},
): Promise<{ state: string; failed: number; problems: unknown }> {
  const { run: id } = await call<{ run: string }>('POST', MONTH + path, body)
  for (let slice = 0; slice < 20; slice++) {
    await perform(world.services, { entityId: 'sorrel', runId: id })
    const seen = await call<{ state: string; failed: number; problems: unknown }>(
      'GET',
      `/api/entities/sorrel/runs/${id}`,
    )
    if (!['queued', 'running'].includes(seen.state)) return seen
  }
  throw new Error('the run does not end')
}

beforeAll(async () => {
  business = await startBusiness()
  world = await makeWorld({
    bridges: business.systems.map(([, { address }]) => address),
  })
  await call('POST', '/api/entities', SORREL)
  await call('PUT', `${MONTH}/baseline`, baseline)
  for (const [id, how] of business.systems) await call('PUT', `/api/entities/sorrel/systems/${id}`, how)
})
afterAll(async () => {
  await business.close()
  await world.close()
})

const tieOut = (query = ''): Promise<TieOutView> => call('GET', `${MONTH}/tie-out${query}`)

describe('a second business, from the page alone', () => {
  it('has bridges that keep to the page', async () => {
    for (const { address } of [business.counter, business.harbour])
      expect(
        (await checkBridge(address, TOKEN, { write: false })).filter((result) => result.state === 'fails'),
      ).toEqual([])
  })

  it('is pulled, linked, rehearsed and posted without a remark but for what is wrong', async () => {
    expect(await run('/pulls', { systemIds: null })).toMatchObject({ state: 'done', problems: [] })
    await call('POST', `${MONTH}/links/clear`, { kinds: ['agencies', 'rates', 'codes', 'items'] })
    await call('PUT', `${MONTH}/links`, {
      systemId: 'ledger',
      kind: 'agency',
      objectId: 'gSTATE',
      baselineId: 'KTA',
    })
    await run('/post/rehearsal')
    const rehearsed = await call<PostView>('GET', `${MONTH}/post`)
    expect(rehearsed.counts).toEqual({ rehearsed: 7 })
    expect(
      rehearsed.rows
        .filter((row) => row.remarks.length > 0)
        .map((row) => [row.number, row.remarks.map((r) => r.code)]),
    ).toEqual([['HB-2', ['AXION_STATED_NOT_EXPECTED']]])
    expect(rehearsed.rows.map((row) => [row.number, row.tax, row.total, row.foreign])).toEqual([
      ['CB-1', '1.600', '13.600', null],
      ['CB-2', '0.130', '1.000', null],
      ['CB-4', '0.340', '3.040', { currency: 'JPY', total: '1483' }],
      ['CC-3', '-0.130', '-1.000', null],
      ['HB-1', '1.167', '8.944', null],
      ['HB-2', '0.500', '10.500', null],
      ['HB-3', '0.234', '1.788', { currency: 'JPY', total: '894' }],
    ])
    expect(await run('/post/runs', { states: ['rehearsed'] })).toMatchObject({ state: 'done', failed: 0 })
    await run('/pulls', { systemIds: null })
  })

  it('is proved to the last unit but for the one that was charged at another rate', async () => {
    const view = await tieOut('?show=all')
    expect([view.expected, view.unproved, view.unprovedNet, view.documents, view.proved]).toEqual([
      '4.841',
      '1.000',
      '0.000',
      1,
      6,
    ])
    expect(
      view.rows.filter((row) => !row.proved).map((row) => [row.number, row.stated, row.expected, row.booked]),
    ).toEqual([['HB-2', '0.500', '1.500', '0.500']])
    expect(view.causes.map(({ facts }) => facts)).toEqual([
      { kind: 'named-rate', system: 'Harbour', rate: 'Kavir, food', enteredBy: null },
    ])
    const rates = await call<GridView>('GET', `${MONTH}/align/rates`)
    expect(rates.rows.filter((row) => !row.extra).map((row) => [row.id, row.documents])).toEqual([
      ['STD', 7],
      ['RED', 2],
    ])
    const { rows } = await call<CloseView>('GET', `${MONTH}/close`)
    expect(
      rows.map((row) => [row.agencyName, row.account, row.stated, row.expected, row.booked, row.balance]),
    ).toEqual([['Kavir Tax Authority', '2210', '3.841', '4.841', '3.841', '3.841']])
  })

  it('shows both currencies in the evidence of a sale in the other one', async () => {
    const unit = (await tieOut('?show=all&search=CB-4')).rows[0]?.unit ?? ''
    const open = encodeURIComponent(
      new URLSearchParams({ of: 'tax', voice: 'booked', agency: 'KTA', unit }).toString(),
    )
    const chain = await call<Extract<Evidence, { kind: 'chain' }>>('GET', `${MONTH}/evidence?open=${open}`)
    expect([chain.amount, chain.currency, chain.chainCurrency, chain.breaksAt]).toEqual([
      '0.340',
      'KWD',
      'JPY',
      null,
    ])
    expect(chain.chain.map((link) => link.amount)).toEqual(['166', '166', '166', '166', expect.anything()])
    expect(chain.chain.map((link) => [link.inBase, link.gapInBase])).toEqual([
      ['0.340', null],
      ...Array.from({ length: 4 }, () => ['0.340', '0.000']),
    ])
  })

  it('is whole once the charge is right at its source, and booked again', async () => {
    business.correct()
    await run('/pulls', { systemIds: null })
    const [cause] = (await tieOut()).causes
    const tried = await call<TriedRemedy[]>(
      'GET',
      `${MONTH}/mend/tried?cause=${encodeURIComponent(cause?.key ?? '')}`,
    )
    expect(tried[0]).toMatchObject({ leaves: 0 })
    const { revision } = await call<RemedyPreview>('POST', `${MONTH}/mend/preview`, {
      remedy: tried[0]?.remedy,
    })
    expect(await run('/mend', { remedy: tried[0]?.remedy, revision })).toMatchObject({
      state: 'done',
      failed: 0,
    })
    expect(await tieOut()).toMatchObject({ unproved: '0.000', documents: 0, proved: 7, expected: '4.841' })
  })
})
