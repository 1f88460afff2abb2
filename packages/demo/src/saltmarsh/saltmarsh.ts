import type { BaselineInput } from '@axion/contract'
import { documentOf } from '../shared/documents.ts'
import { drawing } from '../shared/draw.ts'
import { makeSale, type Rightly } from '../shared/makeSale.ts'
import { heldRate } from '../shared/systems.ts'
import type { Item, Place, Rate, SystemData } from '../shared/sale.ts'

/** Saltmarsh Chandlery, a small seller of rope and paint in one region, with one thing wrong in its ledger. */
const FROM = { from: '2024-01-01', to: null }
const RATES: readonly Rate[] = [
  { code: 'GB', name: 'Gullbay, Estuary', components: [{ jurisdiction: 'EY', agency: 'EYR', name: 'Estuary', percent: '5.75' }, { jurisdiction: 'EY-GB', agency: 'GBH', name: 'Gullbay Harbour', percent: '0.40' }] },
  { code: 'EY', name: 'Estuary, rest', components: [{ jurisdiction: 'EY', agency: 'EYR', name: 'Estuary', percent: '5.75' }] },
]
const AGENCIES = [['EYR', 'Estuary Revenue', '2310', 'Estuary sales tax'], ['GBH', 'Gullbay Harbour Board', '2312', 'Harbour levy']] as const
const PLACES: readonly Place[] = [['Gullbay', '71003', 'GB', 18], ['Marram', '71200', 'EY', 8]].map(([city, postalCode, rate, invoices]) =>
  ({ country: 'XA', region: 'XA-EY', city: String(city), postalCode: String(postalCode), rate: String(rate), invoices: Number(invoices) }))
const item = (code: string, name: string, price: number, most: number): Item => ({ code, name, price, most, kind: 'goods', taxCode: 'GOODS' })
const ITEMS: readonly Item[] = [item('ROPE-12', 'Mooring rope, 12 mm', 340, 60), item('PAINT-B', 'Bottom paint, 2.5 l', 7890, 6), item('SHACKLE', 'Galvanised shackle', 565, 40), item('LAMP', 'Anchor lamp', 12450, 3)]
const NAMES: readonly string[] = ['Gullbay Ferry Company', 'Dunlin & Sons', 'Pilot House', 'Marram Sailing School', 'The Oyster Sheds']
const rightly: Rightly = ({ rate }) => ({ rate })
const BASE = { company: { id: 'saltmarsh', name: 'Saltmarsh Chandlery' }, baseCurrency: 'USD', currencies: ['USD'], timeZone: 'America/New_York' }

export function saltmarshBaseline(): BaselineInput {
  return {
    agencies: AGENCIES.map(([code, name]) => ({ code, name })),
    jurisdictions: [
      { code: 'XA', name: 'Aldermark', level: 'country', parent: null, agency: null, covers: [{ country: 'XA' }] },
      { code: 'EY', name: 'State of Estuary', level: 'region', parent: 'XA', agency: 'EYR', covers: [{ country: 'XA', region: 'XA-EY' }] },
      { code: 'EY-GB', name: 'Gullbay Harbour', level: 'district', parent: 'EY', agency: 'GBH', covers: [{ country: 'XA', region: 'XA-EY', postalCode: '71003' }] },
    ],
    rateVersions: (RATES[0] as Rate).components.map((c) => ({ jurisdiction: c.jurisdiction, percent: c.percent, ...FROM })),
    combinedRates: RATES.map(({ code, name, components }) => ({ code, name, jurisdictions: components.map((c) => c.jurisdiction), ...FROM })),
    itemTaxCodes: [{ code: 'GOODS', name: 'Goods' }],
    items: ITEMS.map(({ code, name, taxCode }) => ({ code, name, itemTaxCode: taxCode })),
    codeRules: [{ jurisdiction: 'EY', itemTaxCode: 'GOODS', treatment: 'standard', ...FROM }],
    registrations: AGENCIES.map(([agency], at) => ({ agency, number: `${agency}-${7001 + at}`, ...FROM })),
    roundings: [{ jurisdiction: 'EY', level: 'document', unit: 'component', tie: 'half-away', ...FROM }],
    postingRules: [
      ...(Object.entries({ receivable: '1200', revenue: '4000', shipping: '4000' }) as ['receivable', string][]).map(([kind, account]) => ({ kind, agency: null, account, ...FROM })),
      ...AGENCIES.map(([agency, , account]) => ({ kind: 'tax' as const, agency, account, ...FROM })),
    ],
  }
}

export function saltmarshLedger(): SystemData {
  const accounts = [['1200', 'Trade debtors', 'receivable'], ['4000', 'Sales', 'income'], ['2390', 'Accruals', 'current-liability'], ...AGENCIES.map(([, , number, name]) => [number, name, 'current-liability'])]
  return {
    settings: { ...BASE, keepsDocumentNumbers: true, lockedThrough: '2026-08-31', taxComputation: 'by-rate' },
    objects: [
      ...accounts.map(([number, name, type]) => ({ resource: 'accounts', id: `acct_${number}`, value: { number, name, type } })),
      // The harbour levy is sent to accruals.
      ...AGENCIES.map(([code, name, account]) => ({ resource: 'agencies', id: `agency_${code}`, value: { code, name, liabilityAccountId: `acct_${code === 'GBH' ? '2390' : account}` } })),
      ...RATES.map((rate) => ({ resource: 'tax-rates', ...heldRate(`tax_${rate.code}`, rate, (code) => `agency_${code}`, { code: true }) })),
    ],
  }
}

export function saltmarshBilling(seed: number, webAddress: string): SystemData {
  const draw = drawing(seed)
  const sales = PLACES.flatMap((place) => Array.from({ length: place.invoices }, () => {
    const name = NAMES[draw(0, NAMES.length - 1)] ?? ''
    const wanted = Array.from({ length: draw(1, 3) }, () => ITEMS[draw(0, ITEMS.length - 1)] as Item).map((sold) => ({ item: sold, quantity: draw(1, sold.most) }))
    return makeSale(rightly, { date: `2026-09-${String(draw(1, 30)).padStart(2, '0')}`, place, customer: { id: `cus_${name.replace(/[^A-Za-z]/g, '').toLowerCase()}`, name }, wanted })
  })).sort((a, b) => (a.date < b.date ? -1 : a.date > b.date ? 1 : 0))
  return {
    settings: { ...BASE, defaultItemTaxCode: 'GOODS' },
    objects: [
      ...AGENCIES.map(([code, name]) => ({ resource: 'agencies', id: `auth_${code}`, value: { code, name, liabilityAccountId: null } })),
      ...RATES.map((rate) => ({ resource: 'tax-rates', ...heldRate(`rate_${rate.code}`, rate, (code) => `auth_${code}`, { code: false }) })),
      ...ITEMS.map(({ code, name, kind, taxCode }) => ({ resource: 'items', id: `item_${code}`, value: { code, name, kind, taxable: true, itemTaxCode: taxCode } })),
      ...[...new Map(sales.map(({ customer }) => [customer.id, customer.name]))].map(([id, name]) => ({ resource: 'parties', id, value: { name, address: null, exemption: null } })),
      ...sales.map((sale, at) => ({ resource: 'documents', id: `inv_${1001 + at}`, value: documentOf(`SC-${1001 + at}`, sale, null, webAddress) })),
    ],
  }
}
