import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import type { BaselineInput } from '@axion/contract'
import { SETTINGS, source, type Source } from './source.ts'

/**
 * A second business, from docs/bridge.md alone: value added tax with a reduced rate, books in a currency with three digits and sales in one
 * without, prices with tax inside at the counter and without it at the harbour, two billing systems whose ids are the same, and a
 * ledger in Python that takes amounts as given. All amounts here are worked out by hand.
 */
export const TOKEN = 'a token for the second'
const FROM = { from: '2024-01-01', to: null }

export const baseline: BaselineInput = {
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
  // As many write that it never ends.
  rateVersions: [{ jurisdiction: 'XF', percent: '15.00', onTopOf: [], from: '2024-01-01', to: '9999-12-31' }],
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

const OWN = { ...SETTINGS, baseCurrency: 'KWD', currencies: ['KWD', 'JPY'], timeZone: 'Asia/Dubai' }
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

/** The business as it is founded through the API. */
export const SORREL = {
  id: 'sorrel',
  name: 'Sorrel & Thyme',
  country: 'XF',
  currency: 'KWD',
  timeZone: 'Asia/Dubai',
  locale: 'en-GB',
}

/** Its systems, running. */
export interface Business {
  readonly ledger: string
  readonly counter: Source
  readonly harbour: Source
  /** How each is connected. */
  readonly systems: readonly (readonly [
    id: string,
    how: { readonly role: string; readonly name: string; readonly address: string; readonly token: string },
  ])[]
  /** Somebody at the harbour puts the one wrong charge right. */
  correct(): void
  close(): Promise<void>
}

/** @param ports of the ledger and the two billing systems; any where they are nil */
export async function startBusiness(ports: readonly [number, number, number] = [0, 0, 0]): Promise<Business> {
  const python = spawn(
    'python3',
    [
      join(import.meta.dirname, '../../../standins/python/ledger_bridge.py'),
      ...['--port', String(ports[0]), '--token', TOKEN, '--base', 'KWD'],
    ],
    { stdio: ['ignore', 'pipe', 'inherit'] },
  )
  const line = await new Promise<string>((told) =>
    createInterface({ input: python.stdout as NonNullable<typeof python.stdout> }).once('line', told),
  )
  const ledger = `http://127.0.0.1:${line.split(' ').at(-1) ?? ''}`
  const counter = await source('Sorrel, counter', OWN, TOKEN, ports[1])
  const harbour = await source('Sorrel, harbour', { ...OWN, defaultItemTaxCode: 'WARE' }, TOKEN, ports[2])
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
          { agencyId: 'k', name: 'Kavir', percent, perUnit: null, onTopOf: [], from: null, to: '9999-12-31' },
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
  const system = (role: string, name: string, address: string) => ({ role, name, address, token: TOKEN })
  return {
    ledger,
    counter,
    harbour,
    systems: [
      ['ledger', system('ledger', 'Books', ledger)],
      ['counter', system('billing', 'Counter', counter.address)],
      ['harbour', system('billing', 'Harbour', harbour.address)],
    ],
    correct: () =>
      harbour.put(
        'documents',
        'd2',
        document('HB-2', [{ item: 'TEA', amount: '10' }], [['std', '10', '1.500']], '11.500', {
          pricesIncludeTax: false,
        }),
      ),
    close: async () => {
      python.kill()
      await Promise.all([counter.close(), harbour.close()])
    },
  }
}
