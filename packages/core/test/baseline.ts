import type { Baseline, CodeRule, Jurisdiction, Level, TaxDocument } from '../src/index.ts'
import { parsePercent, ratio } from '../src/index.ts'

const SINCE = { from: '2020-01-01', to: null }
const jurisdiction = (
  id: string,
  level: Level,
  parentId: string | null,
  agencyId: string,
  cover: object,
): Jurisdiction => ({
  id,
  level,
  parentId,
  agencyId,
  name: id,
  covers: [{ country: 'XA', ...cover }],
})

/** A code's rule with nothing special about it, changed as asked. */
export const rule = (
  id: string,
  jurisdictionId: string,
  itemTaxCode: string,
  treatment: CodeRule['treatment'],
  changes: Partial<CodeRule> = {},
): CodeRule => ({
  id,
  jurisdictionId,
  itemTaxCode,
  treatment,
  percent: null,
  perUnit: null,
  threshold: null,
  cap: null,
  currency: null,
  recoverable: null,
  valid: SINCE,
  ...changes,
})

/** A small made-up country: one region with county, city and transit district; a second region where nobody is registered. */
export const baseline: Baseline = {
  homeAddress: { country: 'XA', region: 'XA-NO', city: 'Port', postalCode: '20000' },
  agencies: ['state', 'county', 'city', 'transit', 'elsewhere'].map((id) => ({ id, code: id, name: id })),
  jurisdictions: [
    jurisdiction('XA', 'country', null, 'state', {}),
    jurisdiction('north', 'region', 'XA', 'state', { region: 'XA-NO' }),
    jurisdiction('hollow', 'county', 'north', 'county', { region: 'XA-NO', postalCode: '10001' }),
    jurisdiction('port', 'city', 'hollow', 'city', { region: 'XA-NO', city: 'Port' }),
    jurisdiction('rail', 'district', 'north', 'transit', {
      region: 'XA-NO',
      postalCode: '10001',
      plus4: { from: '0000', to: '4999' },
    }),
    jurisdiction('south', 'region', 'XA', 'elsewhere', { region: 'XA-SO' }),
  ],
  rateVersions: [
    ['north', '5.5', '2020-01-01', null],
    ['hollow', '1.25', '2020-01-01', '2026-08-31'],
    ['hollow', '1.45', '2026-09-01', null],
    ['port', '2', '2020-01-01', null],
    ['rail', '0.5', '2020-01-01', null],
    ['south', '6', '2020-01-01', null],
  ].map(([jurisdictionId, percent, from, to], at) => ({
    id: `v${at}`,
    jurisdictionId: jurisdictionId as string,
    percent: parsePercent(percent as string),
    onTopOf: [],
    valid: { from: from as string, to: to as string | null },
  })),
  combinedRates: [
    {
      id: 'hollow-rail',
      code: 'HR',
      name: 'Hollow with rail',
      jurisdictionIds: ['north', 'hollow', 'rail'],
      itemTaxCode: null,
      valid: SINCE,
    },
    {
      id: 'state-only',
      code: 'ST',
      name: 'Rest of state',
      jurisdictionIds: ['north'],
      itemTaxCode: null,
      valid: SINCE,
    },
  ],
  itemTaxCodes: [
    { id: 'GOODS', name: 'Goods' },
    { id: 'FOOD', name: 'Food' },
  ],
  items: [{ id: 'H1', name: 'Hive', itemTaxCode: 'GOODS' }],
  codeRules: [
    rule('r1', 'north', 'GOODS', 'standard'),
    rule('r2', 'north', 'FOOD', 'exempt'),
    rule('r3', 'south', 'GOODS', 'standard'),
    rule('r4', 'port', 'FOOD', 'standard'),
    rule('r5', 'north', 'SHIP', 'follows-goods'),
  ],
  registrations: ['state', 'county', 'city', 'transit'].map((agencyId) => ({
    id: `reg-${agencyId}`,
    agencyId,
    number: '1',
    basis: null,
    frequency: null,
    valid: SINCE,
  })),
  roundings: [
    {
      id: 'round-north',
      jurisdictionId: 'north',
      place: { level: 'document', unit: 'component', tie: 'half-away' },
      valid: SINCE,
    },
    {
      id: 'round-south',
      jurisdictionId: 'south',
      place: { level: 'line', unit: 'combined', tie: 'half-away' },
      valid: SINCE,
    },
  ],
  regionRules: [
    {
      id: 'rule-north',
      jurisdictionId: 'north',
      originLevels: [],
      taxedBy: 'supply-date',
      taxedBeforeDiscount: false,
      exemptionReasons: ['resale', 'farm'],
      valid: SINCE,
    },
  ],
  parties: [
    { id: 'farm', name: 'A farm', claims: 'farm', catchAll: false, address: null },
    {
      id: 'shop',
      name: 'A shop',
      claims: 'resale',
      catchAll: false,
      address: { country: 'XA', region: 'XA-NO', city: 'Port', postalCode: '20000' },
    },
    { id: 'anybody', name: 'Walk-in', claims: 'resale', catchAll: true, address: null },
    { id: 'abbey', name: 'An abbey', claims: null, catchAll: false, address: null },
  ],
  certificates: [
    {
      id: 'c1',
      number: 'F-1',
      partyId: 'farm',
      reason: 'farm',
      regionIds: ['north'],
      valid: { from: '2026-01-01', to: '2026-08-31' },
    },
    {
      id: 'c2',
      number: 'R-1',
      partyId: 'shop',
      reason: 'resale',
      regionIds: ['north'],
      valid: { from: '2026-01-01', to: '2026-12-31' },
    },
    { id: 'c3', number: 'G-1', partyId: 'abbey', reason: 'worship', regionIds: ['north'], valid: SINCE },
  ],
  postingRules: [
    ['receivable', null, '1100'],
    ['revenue', null, '4000'],
    ['shipping', null, '4100'],
    ['tax', 'state', '2210'],
    ['tax', 'county', '2212'],
    ['tax', 'city', '2214'],
    ['tax', 'transit', '2216'],
  ].map(([kind, agencyId, account], at) => ({
    id: `p${at}`,
    kind: kind as 'tax',
    agencyId: agencyId as string | null,
    only: null,
    account: account as string,
    valid: SINCE,
  })),
  thresholds: [],
  collecting: [],
  paymentMethods: [],
  locations: [],
  dimensions: [],
  lineRules: [],
  defaults: { itemTaxCode: null, partiesTaxable: null, newItems: 'left-open' },
}

/** An invoice of 17 September 2026 to a postal code of the first region, changed as asked. */
export function invoice(
  nets: readonly [net: bigint, code: string | null][],
  changes: Partial<TaxDocument> = {},
): TaxDocument {
  return {
    id: 'd1',
    number: 'LA-1',
    kind: 'invoice',
    documentDate: '2026-09-17',
    supplyDate: '2026-09-17',
    paymentDate: null,
    currency: 'USD',
    exchange: null,
    partyId: null,
    shipTo: { country: 'XA', region: 'XA-NO', city: 'Hollow', postalCode: '10001-0042' },
    shipFrom: null,
    pricesIncludeTax: false,
    discount: 0n,
    reimbursed: 0n,
    original: null,
    lines: nets.map(([amount, itemTaxCode], at) => ({
      id: String(at + 1),
      kind: itemTaxCode === 'SHIP' ? 'shipping' : 'goods',
      itemTaxCode,
      quantity: ratio(1n),
      amount,
    })),
    ...changes,
  }
}
