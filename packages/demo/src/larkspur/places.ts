/** The made-up country XA: two regions where Larkspur is registered, and one where it is not. */

export interface Place {
  readonly city: string
  readonly region: string
  readonly postalCode: string
  /** The combined rate that applies there; null where Larkspur is not registered. */
  readonly rate: string | null
  /** Item tax codes that the region does not tax. */
  readonly exempt: readonly string[]
  readonly invoices: number
}

const WENDOVER_EXEMPT = ['FOOD', 'SERVICE']
const TAMARACK_EXEMPT = ['FOOD', 'SHIPPING']

export const PLACES: readonly Place[] = [
  { city: 'Fenwick Falls', region: 'XA-WN', postalCode: '40217', rate: 'WN-FEN', exempt: WENDOVER_EXEMPT, invoices: 22 },
  { city: 'Port Lennox', region: 'XA-WN', postalCode: '40240', rate: 'WN-PLX', exempt: WENDOVER_EXEMPT, invoices: 24 },
  { city: 'Alder Cross', region: 'XA-WN', postalCode: '40231', rate: 'WN-HOL', exempt: WENDOVER_EXEMPT, invoices: 18 },
  { city: 'Quillby', region: 'XA-WN', postalCode: '41002', rate: 'WN', exempt: WENDOVER_EXEMPT, invoices: 18 },
  { city: 'Stonemere', region: 'XA-WN', postalCode: '41550', rate: 'WN', exempt: WENDOVER_EXEMPT, invoices: 12 },
  { city: 'Merrow', region: 'XA-TK', postalCode: '52010', rate: 'TK-MER', exempt: TAMARACK_EXEMPT, invoices: 16 },
  { city: 'Osier Bend', region: 'XA-TK', postalCode: '53004', rate: 'TK', exempt: TAMARACK_EXEMPT, invoices: 30 },
  { city: 'Cairnmouth', region: 'XA-PL', postalCode: '61007', rate: null, exempt: ['FOOD', 'SERVICE'], invoices: 10 },
]

export interface Component {
  readonly jurisdiction: string
  readonly agency: string
  readonly name: string
  readonly percent: string
}
const part = (jurisdiction: string, agency: string, name: string, percent: string): Component => ({ jurisdiction, agency, name, percent })
const WENDOVER = part('WN', 'WRO', 'Wendover', '5.50')
const HOLLIS = part('WN-HOLLIS', 'HCT', 'Hollis County', '1.45')
const BRANDT = part('WN-BRANDT', 'BTD', 'Brandt Transit', '0.50')
const LENNOX = part('WN-LENNOX', 'CPL', 'Port Lennox city', '2.00')
const TAMARACK = part('TK', 'TDT', 'Tamarack', '6.00')
const MERROW = part('TK-MERROW', 'MCA', 'Merrow County', '0.75')

export interface Rate {
  readonly code: string
  readonly name: string
  readonly components: readonly Component[]
}

export const RATES: readonly Rate[] = [
  { code: 'WN-FEN', name: 'Fenwick Falls, Wendover', components: [WENDOVER, HOLLIS, BRANDT] },
  { code: 'WN-PLX', name: 'Port Lennox, Wendover', components: [WENDOVER, HOLLIS, LENNOX] },
  { code: 'WN-HOL', name: 'Hollis County, rest', components: [WENDOVER, HOLLIS] },
  { code: 'WN', name: 'Wendover, rest of state', components: [WENDOVER] },
  { code: 'TK-MER', name: 'Merrow County, Tamarack', components: [TAMARACK, MERROW] },
  { code: 'TK', name: 'Tamarack, rest of state', components: [TAMARACK] },
]

export interface AgencyRow {
  readonly code: string
  readonly name: string
  readonly account: string
  readonly accountName: string
}

export const AGENCIES: readonly AgencyRow[] = [
  { code: 'WRO', name: 'Wendover Revenue Office', account: '2210', accountName: 'Sales tax, Wendover' },
  { code: 'HCT', name: 'Hollis County Treasurer', account: '2212', accountName: 'Hollis County tax' },
  { code: 'CPL', name: 'City of Port Lennox', account: '2214', accountName: 'Port Lennox city tax' },
  { code: 'BTD', name: 'Brandt Transit District', account: '2216', accountName: 'Brandt transit tax' },
  { code: 'TDT', name: 'Tamarack Department of Taxation', account: '2220', accountName: 'Sales tax, Tamarack' },
  { code: 'MCA', name: 'Merrow County Assessor', account: '2222', accountName: 'Merrow County tax' },
]

/** The percents of a rate, added exactly: two places are enough for these. */
export function totalPercent({ components }: Rate): string {
  const hundredths = components.reduce((sum, c) => sum + BigInt(c.percent.replace('.', '')), 0n).toString().padStart(3, '0')
  return `${hundredths.slice(0, -2)}.${hundredths.slice(-2)}`
}
