import { spawn, type ChildProcess } from 'node:child_process'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import type {
  BaselineInput,
  CloseView,
  Evidence,
  PostView,
  RemedyPreview,
  TieOutView,
  TriedRemedy,
} from '@axion/contract'
import { checkBridge } from '@axion/conformance'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { perform } from '../../src/jobs/perform.ts'
import { makeWorld, type World } from '../world.ts'
import { source, type Source } from './source.ts'

/**
 * A second business, from docs/bridge.md alone: value added tax with a reduced rate, books in a currency with three digits and sales in one
 * without, prices with tax inside at the counter and without it at the harbour, two billing systems whose ids are the same, and a
 * ledger in Python that takes amounts as given. All amounts here are worked out by hand.
 */
const TOKEN = 'a token for the second'
const MONTH = '/api/entities/sorrel/months/2026-09'
const FROM = { from: '2024-01-01', to: null }
let world: World
let python: ChildProcess
let counter: Source
let harbour: Source
let ledgerAddress = ''

const baseline: BaselineInput = {
  agencies: [{ code: 'KTA', name: 'Kavir Tax Authority' }],
  jurisdictions: [
    { code: 'XF', name: 'Kavir', level: 'country', parent: null, agency: 'KTA', covers: [{ country: 'XF' }] },
    {
      code: 'XF-CO',
      name: 'Coast',
      level: 'region',
      parent: 'XF',
      agency: null,
      covers: [{ country: 'XF', region: 'XF-CO' }],
    },
  ],
  rateVersions: [{ jurisdiction: 'XF', percent: '15.00', onTopOf: [], ...FROM }],
  combinedRates: [
    { code: 'STD', name: 'Kavir, standard', itemTaxCode: null, jurisdictions: ['XF'], ...FROM },
    { code: 'RED', name: 'Kavir, food', itemTaxCode: 'FOOD', jurisdictions: ['XF'], ...FROM },
  ],
  itemTaxCodes: [
    { code: 'WARE', name: 'Wares' },
    { code: 'FOOD', name: 'Food' },
  ],
  rules: [],
  items: [
    { code: 'TEA', name: 'Tea glass', itemTaxCode: 'WARE' },
    { code: 'BREAD', name: 'Flat bread', itemTaxCode: 'FOOD' },
  ],
  codeRules: [
    { jurisdiction: 'XF', itemTaxCode: 'WARE', treatment: 'standard', ...FROM },
    { jurisdiction: 'XF', itemTaxCode: 'FOOD', treatment: 'reduced', percent: '5.00', ...FROM },
  ],
  registrations: [{ agency: 'KTA', number: 'K-1', ...FROM }],
  roundings: [{ jurisdiction: 'XF', level: 'document', unit: 'component', tie: 'half-away', ...FROM }],
  postingRules: [
    { kind: 'receivable', agency: null, account: '1100', ...FROM },
    { kind: 'revenue', agency: null, account: '4000', ...FROM },
    { kind: 'shipping', agency: null, account: '4100', ...FROM },
    { kind: 'tax', agency: 'KTA', account: '2210', ...FROM },
  ],
}

const SETTINGS = {
  baseCurrency: 'KWD',
  currencies: ['KWD', 'JPY'],
  timeZone: 'Asia/Dubai',
  taxEnabled: true,
  computesTax: true,
  keepsDocumentNumbers: true,
  pairsCreditsItself: false,
  usesAccountNumbers: false,
  lockedThrough: null,
  defaultItemTaxCode: null,
}
const PLACE = { country: 'XF', region: 'XF-CO', city: 'Bandar', postalCode: null }

interface Sold {
  readonly item: 'TEA' | 'BREAD'
  readonly amount: string
  readonly rate?: string
  readonly credits?: string
}
/** A document as the page has it: what it sold, and the taxes that it states, rate by rate. */
function document(
  number: string,
  lines: readonly Sold[],
  taxes: readonly (readonly [rate: string, base: string, tax: string])[],
  total: string,
  changes: object = {},
): object {
  return {
    number,
    kind: 'invoice',
    status: 'open',
    documentDate: '2026-09-10',
    supplyDate: '2026-09-10',
    paymentDate: null,
    currency: 'KWD',
    exchangeRate: null,
    pricesIncludeTax: true,
    creditsDocumentId: null,
    party: { id: 'p1', name: 'Bandar Stores' },
    shipTo: PLACE,
    shipFrom: null,
    lines: lines.map(({ item, amount, rate, credits }, at) => ({
      id: String(at + 1),
      kind: 'goods',
      itemCode: item,
      description: item,
      quantity: '1',
      unitPrice: amount,
      discount: '0',
      amount,
      taxRateId: rate ?? (item === 'TEA' ? 'std' : 'red'),
      creditsLineId: credits ?? null,
    })),
    discount: '0',
    reimbursed: '0',
    taxes: taxes.map(([taxRateId, base, tax]) => ({
      taxRateId,
      base,
      tax,
      components: [{ agencyId: 'k', percent: taxRateId === 'std' ? '15' : '5', tax }],
    })),
    total,
    webAddress: null,
    ...changes,
  }
}

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
  python = spawn(
    'python3',
    [
      join(import.meta.dirname, '../../../standins/python/ledger_bridge.py'),
      ...['--port', '0', '--token', TOKEN, '--base', 'KWD'],
    ],
    { stdio: ['ignore', 'pipe', 'inherit'] },
  )
  const line = await new Promise<string>((told) =>
    createInterface({ input: python.stdout as NonNullable<typeof python.stdout> }).once('line', told),
  )
  ledgerAddress = `http://127.0.0.1:${line.split(' ').at(-1) ?? ''}`
  counter = await source('Sorrel, counter', SETTINGS, TOKEN)
  harbour = await source('Sorrel, harbour', { ...SETTINGS, defaultItemTaxCode: 'WARE' }, TOKEN)
  for (const system of [counter, harbour]) {
    system.put('agencies', 'k', { code: null, name: 'Kavir Tax Authority', liabilityAccountId: null })
    for (const [id, name, percent] of [
      ['std', 'Kavir, standard', '15'],
      ['red', 'Kavir, food', '5'],
    ] as const)
      system.put('tax-rates', id, {
        code: null,
        name,
        percent,
        active: true,
        components: [
          { agencyId: 'k', name: 'Kavir', percent, perUnit: null, onTopOf: [], from: null, to: null },
        ],
      })
    system.put('items', 'i1', {
      code: 'TEA',
      name: 'Tea glass',
      kind: 'goods',
      taxable: true,
      itemTaxCode: 'WARE',
    })
    system.put('items', 'i2', {
      code: 'BREAD',
      name: 'Flat bread',
      kind: 'goods',
      taxable: true,
      itemTaxCode: 'FOOD',
    })
    system.put('parties', 'p1', { name: 'Bandar Stores', exemption: null, address: PLACE })
  }
  // 11.500 is 10.000 and 1.500; 2.100 is 2.000 and 0.100.
  counter.put(
    'documents',
    'd1',
    document(
      'CB-1',
      [
        { item: 'TEA', amount: '11.5' },
        { item: 'BREAD', amount: '2.100' },
      ],
      [
        ['std', '10.000', '1.500'],
        ['red', '2', '0.1'],
      ],
      '13.6',
    ),
  )
  // 1.000 / 1.15 is 0.8696.
  counter.put(
    'documents',
    'd2',
    document('CB-2', [{ item: 'TEA', amount: '1' }], [['std', '0.870', '0.130']], '1.000'),
  )
  counter.put(
    'documents',
    'd3',
    document('CC-3', [{ item: 'TEA', amount: '1', credits: '1' }], [['std', '0.870', '0.130']], '1.000', {
      kind: 'credit-note',
      creditsDocumentId: 'd2',
    }),
  )
  // 1150 JPY is 1000 and 150; 333 / 1.05 is 317.14. 166 at 0.00205 is 0.3403.
  counter.put(
    'documents',
    'd4',
    document(
      'CB-4',
      [
        { item: 'TEA', amount: '1150' },
        { item: 'BREAD', amount: '333' },
      ],
      [
        ['std', '1000', '150'],
        ['red', '317', '16'],
      ],
      '1483',
      { currency: 'JPY', exchangeRate: '0.00205' },
    ),
  )
  const plain = { pricesIncludeTax: false }
  // 7.777 × 15 % is 1.16655.
  harbour.put(
    'documents',
    'd1',
    document('HB-1', [{ item: 'TEA', amount: '7.777' }], [['std', '7.777', '1.167']], '8.944', plain),
  )
  harbour.put(
    'documents',
    'd2',
    document('HB-2', [{ item: 'TEA', amount: '10', rate: 'red' }], [['red', '10', '0.500']], '10.500', plain),
  )
  // 777 × 15 % is 116.55; 117 at 0.002 is 0.234.
  harbour.put(
    'documents',
    'd3',
    document('HB-3', [{ item: 'TEA', amount: '777' }], [['std', '777', '117']], '894', {
      ...plain,
      currency: 'JPY',
      exchangeRate: '0.002',
    }),
  )
  world = await makeWorld({ bridges: [ledgerAddress, counter.address, harbour.address] })
  await call('POST', '/api/entities', {
    id: 'sorrel',
    name: 'Sorrel & Thyme',
    country: 'XF',
    currency: 'KWD',
    timeZone: 'Asia/Dubai',
    locale: 'en-GB',
  })
  await call('PUT', `${MONTH}/baseline`, baseline)
  for (const [id, role, name, address] of [
    ['ledger', 'ledger', 'Books', ledgerAddress],
    ['counter', 'billing', 'Counter', counter.address],
    ['harbour', 'billing', 'Harbour', harbour.address],
  ] as const)
    await call('PUT', `/api/entities/sorrel/systems/${id}`, { role, name, address, token: TOKEN })
})
afterAll(async () => {
  python.kill()
  await Promise.all([counter.close(), harbour.close()])
  await world.close()
})

const tieOut = (query = ''): Promise<TieOutView> => call('GET', `${MONTH}/tie-out${query}`)

describe('a second business, from the page alone', () => {
  it('has bridges that keep to the page', async () => {
    for (const address of [counter.address, harbour.address])
      expect((await checkBridge(address, TOKEN, false)).filter((result) => result.state === 'fails')).toEqual(
        [],
      )
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
    harbour.put(
      'documents',
      'd2',
      document('HB-2', [{ item: 'TEA', amount: '10' }], [['std', '10', '1.500']], '11.500', {
        pricesIncludeTax: false,
      }),
    )
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
