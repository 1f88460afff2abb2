import type { BaselineInput } from '@axion/contract'
import { ITEMS } from './goods.ts'
import { AGENCIES, RATES } from './places.ts'

const FROM = { from: '2024-01-01', to: null }
const JURISDICTIONS: BaselineInput['jurisdictions'] = [
  { code: 'XA', name: 'Aldermark', level: 'country', parent: null, agency: null, covers: [{ country: 'XA' }] },
  { code: 'WN', name: 'State of Wendover', level: 'region', parent: 'XA', agency: 'WRO', covers: [{ country: 'XA', region: 'XA-WN' }] },
  { code: 'WN-HOLLIS', name: 'Hollis County', level: 'county', parent: 'WN', agency: 'HCT', covers: ['40217', '40231', '40240'].map((postalCode) => ({ country: 'XA', region: 'XA-WN', postalCode })) },
  { code: 'WN-LENNOX', name: 'City of Port Lennox', level: 'city', parent: 'WN-HOLLIS', agency: 'CPL', covers: [{ country: 'XA', region: 'XA-WN', city: 'Port Lennox' }] },
  { code: 'WN-BRANDT', name: 'Brandt Transit District', level: 'district', parent: 'WN', agency: 'BTD', covers: [{ country: 'XA', region: 'XA-WN', postalCode: '40217' }] },
  { code: 'TK', name: 'State of Tamarack', level: 'region', parent: 'XA', agency: 'TDT', covers: [{ country: 'XA', region: 'XA-TK' }] },
  { code: 'TK-MERROW', name: 'Merrow County', level: 'county', parent: 'TK', agency: 'MCA', covers: ['52010', '52011'].map((postalCode) => ({ country: 'XA', region: 'XA-TK', postalCode })) },
  { code: 'PL', name: 'State of Palisade', level: 'region', parent: 'XA', agency: 'PTC', covers: [{ country: 'XA', region: 'XA-PL' }] },
]
const TAXED: Readonly<Record<string, readonly string[]>> = { WN: ['GOODS', 'SHIPPING'], TK: ['GOODS', 'SERVICE'], PL: ['GOODS', 'SHIPPING'] }
const CODES = [['GOODS', 'Hives, tools and equipment'], ['FOOD', 'Food for people'], ['SERVICE', 'Inspections and other services'], ['SHIPPING', 'Shipping']] as const

/** What Larkspur's accountant has agreed to be true, with links to no system yet. */
export function baseline(): BaselineInput {
  const components = new Map(RATES.flatMap((rate) => rate.components.map((c) => [c.jurisdiction, c.percent] as const)))
  return {
    agencies: [...AGENCIES.map(({ code, name }) => ({ code, name })), { code: 'PTC', name: 'Palisade Tax Commission' }],
    jurisdictions: JURISDICTIONS,
    rateVersions: [
      ...[...components].filter(([code]) => code !== 'WN-HOLLIS').map(([jurisdiction, percent]) => ({ jurisdiction, percent, ...FROM })),
      { jurisdiction: 'WN-HOLLIS', percent: '1.25', from: '2024-01-01', to: '2026-08-31' },
      { jurisdiction: 'WN-HOLLIS', percent: '1.45', from: '2026-09-01', to: null },
      { jurisdiction: 'PL', percent: '5.00', ...FROM },
    ],
    combinedRates: RATES.map(({ code, name, components: parts }) => ({ code, name, jurisdictions: parts.map((c) => c.jurisdiction), ...FROM })),
    itemTaxCodes: CODES.map(([code, name]) => ({ code, name })),
    items: ITEMS.map(({ code, name, taxCode }) => ({ code, name, itemTaxCode: taxCode })),
    codeRules: Object.entries(TAXED).flatMap(([jurisdiction, taxed]) =>
      CODES.map(([itemTaxCode]) => ({ jurisdiction, itemTaxCode, treatment: taxed.includes(itemTaxCode) ? ('standard' as const) : ('exempt' as const), ...FROM })),
    ),
    registrations: AGENCIES.map(({ code }, at) => ({ agency: code, number: `${code}-${40117 + at * 311}`, ...FROM })),
    roundings: ['WN', 'TK', 'PL'].map((jurisdiction) => ({ jurisdiction, level: 'document', unit: 'component', tie: 'half-away', ...FROM })),
    postingRules: [
      { kind: 'receivable', agency: null, account: '1100', ...FROM },
      { kind: 'revenue', agency: null, account: '4000', ...FROM },
      { kind: 'shipping', agency: null, account: '4100', ...FROM },
      ...AGENCIES.map(({ code, account }) => ({ kind: 'tax' as const, agency: code, account, ...FROM })),
    ],
  }
}
