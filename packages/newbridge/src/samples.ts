import type { Resource, SystemRole } from '@axion/contract'

/** An object of a resource, as a bridge hands it out. */
export interface Sample {
  readonly id: string
  readonly value: object
}
type Samples = Partial<Record<Resource, readonly Sample[]>>

/** A made-up business in a made-up country: eight percent, five of them the state's and three the town's. */
const PLACE = { country: 'XA', region: 'XA-SM', city: 'Sampleton', postalCode: '10001' }
const BUYER = { id: 'party-1', name: 'Sample Buyer' }
const DAY = '2026-09-14'
const AT = '2026-09-14T15:04:00Z'

const agencies = (accounts: boolean): readonly Sample[] => [
  { id: 'state', value: { code: null, name: 'Sample State', liabilityAccountId: accounts ? '2201' : null } },
  {
    id: 'town',
    value: { code: null, name: 'Town of Sampleton', liabilityAccountId: accounts ? '2202' : null },
  },
]
const component = (agencyId: string, name: string, percent: string): object => ({
  ...{ agencyId, name, percent },
  ...{ perUnit: null, onTopOf: [], from: null, to: null },
})
const RATES: readonly Sample[] = [
  {
    id: 'rate-8',
    value: {
      code: 'SAMPLE-8',
      name: 'Sampleton',
      percent: '8',
      active: true,
      components: [component('state', 'Sample State', '5'), component('town', 'Town of Sampleton', '3')],
    },
  },
  { id: 'rate-0', value: { code: null, name: 'Exempt', percent: '0', active: true, components: null } },
]
const ITEMS: readonly Sample[] = [
  { id: 'item-1', value: { code: 'BOX', name: 'Box', kind: 'goods', taxable: true, itemTaxCode: null } },
]
const PARTIES: readonly Sample[] = [
  { id: BUYER.id, value: { name: BUYER.name, exemption: null, address: PLACE } },
  {
    id: 'party-2',
    value: {
      name: 'Sample Reseller',
      exemption: { reason: 'resale', certificate: 'S-1', from: '2026-01-01', to: null },
      address: null,
    },
  },
]
const METHODS: readonly Sample[] = [
  { id: 'cash', value: { code: null, name: 'Cash', kind: 'cash', maskedNumber: null, active: true } },
  { id: 'card', value: { code: null, name: 'Card', kind: 'card', maskedNumber: '****4417', active: true } },
]
const LOCATIONS: readonly Sample[] = [
  { id: 'shop', value: { code: null, name: 'Shop', timeZone: 'UTC', cutOff: '03:00', address: PLACE } },
]

interface Differing {
  readonly id: string
  readonly number: string
  readonly kind: string
  /** Of so much, at eight percent. */
  readonly net: string
  readonly taxes: readonly [all: string, state: string, town: string]
  readonly total: string
  readonly credits?: string
  readonly paid?: boolean
  readonly locationId?: string | null
  readonly soldAt?: string | null
}

const document = ({ id, number, kind, net, taxes, total, credits, ...own }: Differing): Sample => ({
  id,
  value: {
    ...{ number, kind, status: 'open', documentDate: DAY, supplyDate: DAY, paymentDate: null },
    ...{ currency: 'USD', exchangeRate: null, pricesIncludeTax: false },
    creditsDocumentId: credits ?? null,
    party: BUYER,
    shipTo: PLACE,
    shipFrom: null,
    lines: [
      {
        ...{ id: '1', kind: 'goods', itemCode: 'BOX', description: 'Box', quantity: '1', unitPrice: net },
        ...{ discount: '0.00', amount: net, taxRateId: 'rate-8' },
        creditsLineId: credits === undefined ? null : '1',
      },
    ],
    taxes: [
      {
        ...{ taxRateId: 'rate-8', base: net, tax: taxes[0] },
        components: [
          { agencyId: 'state', percent: '5', tax: taxes[1] },
          { agencyId: 'town', percent: '3', tax: taxes[2] },
        ],
      },
    ],
    tenders: own.paid ? [{ paymentMethodId: 'cash', amount: total }] : [],
    ...{ discount: '0.00', reimbursed: '0.00', total },
    ...{ soldAt: own.soldAt ?? null, locationId: own.locationId ?? null },
    ...{ channel: null, marketplace: null, enteredBy: null, webAddress: null },
  },
})

/** One document, and half of it taken back. */
function pair(
  first: string,
  back: string,
  own: Pick<Differing, 'paid' | 'locationId' | 'soldAt'> = {},
): readonly Sample[] {
  const whole = { net: '100.00', taxes: ['8.00', '5.00', '3.00'], total: '108.00' } as const
  const half = { net: '50.00', taxes: ['4.00', '2.50', '1.50'], total: '54.00' } as const
  return [
    document({ id: 'doc-1', number: 'S-1', kind: first, ...whole, ...own }),
    document({ id: 'doc-2', number: 'S-2', kind: back, credits: 'doc-1', ...half, ...own }),
  ]
}

const journalLine = (
  accountId: string,
  debit: string,
  credit: string,
  agencyId: string | null = null,
): object => ({
  ...{ accountId, description: '', debit, credit, agencyId },
  taxRateId: agencyId === null ? null : 'rate-8',
  base: agencyId === null ? null : '100.00',
  ...{ baseDebit: null, baseCredit: null },
})

const committed = (id: string, number: string, kind: string): Sample => ({
  id,
  value: {
    ...{ number, kind, documentId: null, status: 'committed', documentDate: DAY },
    ...{ currency: 'USD', exchangeRate: null, webAddress: null },
    taxes: [
      {
        ...{ taxRateId: 'rate-8', base: '100.00', tax: '8.00' },
        components: [
          { agencyId: 'state', percent: '5', tax: '5.00' },
          { agencyId: 'town', percent: '3', tax: '3.00' },
        ],
      },
    ],
  },
})

const SELLING = { agencies: agencies(false), 'tax-rates': RATES, items: ITEMS }

const SAMPLES: Readonly<Record<SystemRole, Samples>> = {
  ledger: {
    accounts: [
      ['1100', 'Receivables', 'receivable'],
      ['2201', 'Sample State tax', 'current-liability'],
      ['2202', 'Town of Sampleton tax', 'current-liability'],
      ['4000', 'Sales', 'income'],
    ].map(([number = '', name, type]) => ({ id: number, value: { number, name, type } })),
    agencies: agencies(true),
    'tax-rates': RATES,
    'journal-entries': [
      {
        id: 'entry-1',
        value: {
          ...{ number: '1', bookingId: null, externalId: null, bookingRevision: null, postingDate: DAY },
          ...{ currency: 'USD', baseCurrency: 'USD', memo: 'S-1 Sample Buyer', voided: false },
          ...{ changedBy: 'sample', changedAt: AT, webAddress: null },
          lines: [
            journalLine('1100', '108.00', '0.00'),
            journalLine('4000', '0.00', '100.00'),
            journalLine('2201', '0.00', '5.00', 'state'),
            journalLine('2202', '0.00', '3.00', 'town'),
          ],
        },
      },
    ],
  },
  billing: { ...SELLING, parties: PARTIES, documents: pair('invoice', 'credit-note') },
  pos: {
    ...SELLING,
    'payment-methods': METHODS,
    locations: LOCATIONS,
    documents: pair('receipt', 'refund', { paid: true, locationId: 'shop', soldAt: AT }),
  },
  commerce: {
    ...SELLING,
    parties: PARTIES,
    'payment-methods': METHODS,
    locations: LOCATIONS,
    documents: pair('order', 'return', { paid: true }),
  },
  purchasing: {
    agencies: agencies(false),
    'tax-rates': RATES,
    parties: PARTIES,
    'payment-methods': METHODS,
    documents: pair('bill', 'supplier-credit'),
  },
  payments: {
    'payment-methods': METHODS,
    settlements: [
      ['charge-1', 'charge', '108.00', '3.10', 'payout-1'],
      ['payout-1', 'payout', '-104.90', '0.00', null],
    ].map(([id, kind, amount, fee, payoutId]) => ({
      id: id ?? '',
      value: {
        ...{ number: id, kind, at: AT, paymentMethodId: kind === 'charge' ? 'card' : null },
        ...{ currency: 'USD', amount, fee, documentNumber: null, payoutId },
      },
    })),
  },
  'tax-service': {
    agencies: agencies(false),
    'tax-rates': RATES,
    committed: [committed('kept-1', 'S-1', 'invoice'), committed('kept-2', 'S-2', 'credit-note')],
  },
  bank: {
    'bank-lines': [
      {
        id: 'line-1',
        value: {
          ...{ number: '1', account: '****2210', bookedOn: '2026-09-16', currency: 'USD', amount: '104.90' },
          ...{ text: 'Payout', counterparty: 'Sample Processor' },
        },
      },
    ],
  },
}

/** What a new bridge of a role holds until it reads a system: every resource that its role offers at least. */
export function samplesOf(role: SystemRole): Samples {
  return SAMPLES[role]
}
