import type { BaselineInput } from '@axion/contract'
import { certificates, parties } from './baselineParties.ts'
import { CODES, ITEMS } from './goods.ts'
import { AGENCIES, CLOTHING_FROM, MACHINE_CAP, RATES, STANDARD } from './places.ts'
import { DEPARTMENTS, FAIR, METHODS, OUTLETS } from './house.ts'
import { money } from '../shared/exact.ts'

const FROM = { from: '2024-01-01', to: null }
const zip = (
  region: string,
  ...codes: readonly string[]
): { country: string; region: string; postalCode: string }[] =>
  codes.map((postalCode) => ({ country: 'XA', region, postalCode }))
const JURISDICTIONS: BaselineInput['jurisdictions'] = [
  {
    code: 'XA',
    name: 'Aldermark',
    level: 'country',
    parent: null,
    agency: null,
    covers: [{ country: 'XA' }],
  },
  {
    code: 'WN',
    name: 'State of Wendover',
    level: 'region',
    parent: 'XA',
    agency: 'WRO',
    covers: [{ country: 'XA', region: 'XA-WN' }],
  },
  {
    code: 'WN-HOLLIS',
    name: 'Hollis County',
    level: 'county',
    parent: 'WN',
    agency: 'HCT',
    covers: zip('XA-WN', '40217', '40231', '40240'),
  },
  {
    code: 'WN-LENNOX',
    name: 'City of Port Lennox',
    level: 'city',
    parent: 'WN-HOLLIS',
    agency: 'CPL',
    covers: [{ country: 'XA', region: 'XA-WN', city: 'Port Lennox' }],
  },
  {
    code: 'WN-BRANDT',
    name: 'Brandt Transit District',
    level: 'district',
    parent: 'WN',
    agency: 'BTD',
    covers: zip('XA-WN', '40217'),
  },
  {
    code: 'TK',
    name: 'State of Tamarack',
    level: 'region',
    parent: 'XA',
    agency: 'TDT',
    covers: [{ country: 'XA', region: 'XA-TK' }],
  },
  {
    code: 'TK-MERROW',
    name: 'Merrow County',
    level: 'county',
    parent: 'TK',
    agency: 'MCA',
    covers: zip('XA-TK', '52010', '52011'),
  },
  {
    code: 'PL',
    name: 'State of Palisade',
    level: 'region',
    parent: 'XA',
    agency: 'PTC',
    covers: [{ country: 'XA', region: 'XA-PL' }],
  },
  {
    code: 'BK',
    name: 'State of Brackenshire',
    level: 'region',
    parent: 'XA',
    agency: 'BRD',
    covers: [{ country: 'XA', region: 'XA-BK' }],
  },
  { code: 'XB', name: 'Norwick', level: 'country', parent: null, agency: 'NFT', covers: [{ country: 'XB' }] },
  {
    code: 'XB-SO',
    name: 'Solmar',
    level: 'region',
    parent: 'XB',
    agency: 'STO',
    covers: [{ country: 'XB', region: 'XB-SO' }],
  },
]
const UNTAXED: Readonly<Record<string, 'zero-rated' | 'out-of-scope'>> = {
  SEED: 'zero-rated',
  GIFT: 'out-of-scope',
}

type Rule = BaselineInput['codeRules'][number]
function rulesOf(jurisdiction: string): Rule[] {
  return CODES.map(([itemTaxCode]): Rule => {
    const rule = { jurisdiction, itemTaxCode, ...FROM }
    if (jurisdiction === 'BK' && itemTaxCode === 'TOOLS')
      return { ...rule, treatment: 'reduced', percent: '2.00' }
    if (jurisdiction === 'BK' && itemTaxCode === 'FUEL')
      return { ...rule, treatment: 'per-unit', perUnit: '0.12', currency: 'USD' }
    if (jurisdiction === 'BK' && itemTaxCode === 'SHIPPING') return { ...rule, treatment: 'follows-goods' }
    if (jurisdiction === 'BK' && itemTaxCode === 'CLOTHING')
      return {
        ...rule,
        treatment: 'standard',
        threshold: { limit: money(BigInt(CLOTHING_FROM)), taxes: 'whole' },
        currency: 'USD',
      }
    if (jurisdiction === 'BK' && itemTaxCode === 'MACHINE')
      return { ...rule, treatment: 'standard', cap: money(BigInt(MACHINE_CAP)), currency: 'USD' }
    return {
      ...rule,
      treatment: STANDARD[jurisdiction]?.includes(itemTaxCode)
        ? 'standard'
        : (UNTAXED[itemTaxCode] ?? 'exempt'),
    }
  })
}

/** What Larkspur's accountant has agreed to be true, with links to no system yet. */
export function baseline(): BaselineInput {
  return {
    homeAddress: { country: 'XA', region: 'XA-WN', city: 'Quillby', postalCode: '41002' },
    defaults: { itemTaxCode: 'GOODS', partiesTaxable: true },
    agencies: [
      ...AGENCIES.map(({ code, name }) => ({ code, name })),
      { code: 'PTC', name: 'Palisade Tax Commission' },
    ],
    jurisdictions: JURISDICTIONS,
    rateVersions: rateVersions(),
    combinedRates: RATES.map(({ code, name, components, itemTaxCode = null }) => ({
      code,
      name,
      itemTaxCode,
      jurisdictions: [...new Set(components.map((c) => c.jurisdiction))],
      ...FROM,
    })),
    itemTaxCodes: CODES.map(([code, name]) => ({ code, name })),
    items: ITEMS.map(({ code, name, taxCode }) => ({ code, name, itemTaxCode: taxCode })),
    codeRules: ['WN', 'TK', 'PL', 'BK', 'XB'].flatMap(rulesOf),
    registrations: AGENCIES.map(({ code }, at) => ({
      agency: code,
      number: `${code}-${40117 + at * 311}`,
      basis: 'accrual',
      frequency: at < 6 ? 'month' : 'quarter',
      ...FROM,
    })),
    thresholds: [
      { jurisdiction: 'PL', sales: '100000.00', transactions: 200, currency: 'USD', ...FROM },
      { jurisdiction: 'BK', sales: '50000.00', transactions: null, currency: 'USD', ...FROM },
    ],
    collecting: [
      ...['WN', 'TK', 'BK', 'XB', 'XB-SO'].map((jurisdiction) => ({
        jurisdiction,
        answer: 'we' as const,
        why: null,
        ...FROM,
      })),
      { jurisdiction: 'PL', answer: 'nobody' as const, why: 'below the threshold', ...FROM },
    ],
    paymentMethods: METHODS.map(([code, name, kind]) => ({ code, name, kind })),
    locations: locations(),
    dimensions: DEPARTMENTS.map(([code, name]) => ({ dimension: 'Department', code, name })),
    roundings: ['WN', 'TK', 'PL', 'BK', 'XB-SO'].map((jurisdiction) => ({
      jurisdiction,
      level: 'document',
      unit: 'component',
      tie: 'half-away',
      ...FROM,
    })),
    regionRules: ['WN', 'TK', 'BK'].map((jurisdiction) => ({
      jurisdiction,
      originLevels: [],
      taxedBy: 'supply-date',
      taxedBeforeDiscount: false,
      exemptionReasons: ['farm-use', 'resale'],
      ...FROM,
    })),
    parties: parties(),
    certificates: certificates(),
    postingRules: postingRules(),
  }
}

/** Outlets with their clocks, and the fair. */
function locations(): NonNullable<BaselineInput['locations']> {
  return [
    ...OUTLETS.map(({ code, name, place: { country, region, city, postalCode }, cutOff }) => ({
      code,
      name,
      timeZone: 'America/Chicago',
      cutOff,
      address: { country, region, city, postalCode },
    })),
    {
      code: FAIR.code,
      name: FAIR.name,
      timeZone: 'America/Chicago',
      cutOff: null,
      address: {
        country: FAIR.place.country,
        region: null,
        city: FAIR.place.city,
        postalCode: FAIR.place.postalCode,
      },
    },
  ]
}

/** Where each kind of amount goes, each agency’s tax, and each way of payment. */
function postingRules(): BaselineInput['postingRules'] {
  return [
    ...(
      Object.entries({
        receivable: '1100',
        reimbursement: '1150',
        revenue: '4000',
        shipping: '4100',
        payout: '1000',
        fee: '6100',
        'marketplace-tax': '2300',
        'cash-difference': '6900',
        payable: '2100',
        expense: '5100',
        'cost-of-sales': '5000',
        inventory: '1300',
      }) as ['receivable', string][]
    ).map(([kind, account]) => ({ kind, agency: null, account, ...FROM })),
    ...AGENCIES.map(({ code, account }) => ({ kind: 'tax' as const, agency: code, account, ...FROM })),
    // Palisade's tax, should there ever be any, was put down for Wendover's account.
    { kind: 'tax' as const, agency: 'PTC', account: '2210', ...FROM },
    ...METHODS.map(([id, , , account]) => ({
      kind: 'clearing' as const,
      agency: null,
      account,
      only: { by: 'method' as const, id },
      ...FROM,
    })),
  ]
}

/** The percents of all components, each once. */
function rateVersions(): BaselineInput['rateVersions'] {
  const parts = RATES.filter((rate) => rate.itemTaxCode === undefined).flatMap((rate) => rate.components)
  const versions = new Map(parts.map((c) => [`${c.jurisdiction}@${c.from ?? ''}`, c]))
  return [
    ...[...versions.values()].map((c) => ({
      jurisdiction: c.jurisdiction,
      percent: c.percent,
      from: c.from ?? FROM.from,
      to: c.to ?? null,
      onTopOf: c.onTopOf === undefined ? [] : ['XB'],
    })),
    { jurisdiction: 'PL', percent: '5.00', ...FROM },
  ]
}
