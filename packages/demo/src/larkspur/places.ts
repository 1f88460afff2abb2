import { millionths } from '../shared/exact.ts'
import type { Charge, Component, Item, Place, Rate } from '../shared/sale.ts'

/** The made-up countries XA and XB: regions where Larkspur is registered, and one where it is not. */
const place = (
  {
    city,
    region,
    postalCode,
  }: { readonly city: string; readonly region: string; readonly postalCode: string },
  rate: string | null,
  invoices: number,
): Place => ({ country: region.slice(0, 2), city, region, postalCode, rate, invoices })

export const FENWICK = place({ city: 'Fenwick Falls', region: 'XA-WN', postalCode: '40217' }, 'WN-FEN', 22)
export const LENNOX = place({ city: 'Port Lennox', region: 'XA-WN', postalCode: '40240' }, 'WN-PLX', 24)
export const ALDER = place({ city: 'Alder Cross', region: 'XA-WN', postalCode: '40231' }, 'WN-HOL', 18)
export const QUILLBY = place({ city: 'Quillby', region: 'XA-WN', postalCode: '41002' }, 'WN', 16)
export const STONEMERE = place({ city: 'Stonemere', region: 'XA-WN', postalCode: '41550' }, 'WN', 10)
export const MERROW = place({ city: 'Merrow', region: 'XA-TK', postalCode: '52010' }, 'TK-MER', 16)
export const OSIER = place({ city: 'Osier Bend', region: 'XA-TK', postalCode: '53004' }, 'TK', 20)
export const BRACKENFORD = place({ city: 'Brackenford', region: 'XA-BK', postalCode: '56010' }, 'BK', 10)
export const SOLMAR = place({ city: 'Solmar Haven', region: 'XB-SO', postalCode: 'S4001' }, 'XB-SO', 0)
export const CAIRNMOUTH = place({ city: 'Cairnmouth', region: 'XA-PL', postalCode: '61007' }, null, 8)
export const PLACES: readonly Place[] = [
  FENWICK,
  LENNOX,
  ALDER,
  QUILLBY,
  STONEMERE,
  MERROW,
  OSIER,
  BRACKENFORD,
  CAIRNMOUTH,
  SOLMAR,
]

const part = (
  jurisdiction: string,
  { agency, name, percent }: { readonly agency: string; readonly name: string; readonly percent: string },
  more: Partial<Component> = {},
): Component => ({ jurisdiction, agency, name, percent, ...more })
const WENDOVER = part('WN', { agency: 'WRO', name: 'Wendover', percent: '5.50' })
const HOLLIS = [
  part('WN-HOLLIS', { agency: 'HCT', name: 'Hollis County', percent: '1.25' }, { to: '2026-08-31' }),
  part('WN-HOLLIS', { agency: 'HCT', name: 'Hollis County', percent: '1.45' }, { from: '2026-09-01' }),
]
const BRANDT = part('WN-BRANDT', { agency: 'BTD', name: 'Brandt Transit', percent: '0.50' })
const CITY = part('WN-LENNOX', { agency: 'CPL', name: 'Port Lennox city', percent: '2.00' })
/** Tamarack rises in November: whoever has no second version is not ready for it. */
const TAMARACK = [
  part('TK', { agency: 'TDT', name: 'Tamarack', percent: '6.00' }, { to: '2026-10-31' }),
  part('TK', { agency: 'TDT', name: 'Tamarack', percent: '6.25' }, { from: '2026-11-01' }),
]
const COUNTY = part('TK-MERROW', { agency: 'MCA', name: 'Merrow County', percent: '0.75' })
const BRACKEN = [
  part('BK', { agency: 'BRD', name: 'Brackenshire', percent: '4.25' }, { to: '2026-09-15' }),
  part('BK', { agency: 'BRD', name: 'Brackenshire', percent: '4.50' }, { from: '2026-09-16' }),
]

export const RATES: readonly Rate[] = [
  { code: 'WN-FEN', name: 'Fenwick Falls, Wendover', components: [WENDOVER, ...HOLLIS, BRANDT] },
  { code: 'WN-PLX', name: 'Port Lennox, Wendover', components: [WENDOVER, ...HOLLIS, CITY] },
  { code: 'WN-HOL', name: 'Hollis County, rest', components: [WENDOVER, ...HOLLIS] },
  { code: 'WN', name: 'Wendover, rest of state', components: [WENDOVER] },
  { code: 'TK-MER', name: 'Merrow County, Tamarack', components: [...TAMARACK, COUNTY] },
  { code: 'TK', name: 'Tamarack, rest of state', components: TAMARACK },
  { code: 'BK', name: 'Brackenshire', components: BRACKEN },
  {
    code: 'BK-TOOLS',
    name: 'Brackenshire, hand tools',
    components: [part('BK', { agency: 'BRD', name: 'Brackenshire', percent: '2.00' })],
    itemTaxCode: 'TOOLS',
  },
  {
    code: 'BK-FUEL',
    name: 'Brackenshire, smoker fuel',
    components: [part('BK', { agency: 'BRD', name: 'Brackenshire', percent: '0' }, { perUnit: '0.12' })],
    itemTaxCode: 'FUEL',
  },
  {
    code: 'XB-SO',
    name: 'Norwick with Solmar',
    components: [
      part('XB', { agency: 'NFT', name: 'Norwick federal', percent: '5.00' }),
      part('XB-SO', { agency: 'STO', name: 'Solmar', percent: '8.00' }, { onTopOf: [0] }),
    ],
  },
]

/** Item tax codes that a region taxes at its standard rate; the rest it does not tax. Brackenshire has rules of its own. */
export const STANDARD: Readonly<Record<string, readonly string[]>> = {
  WN: ['GOODS', 'TOOLS', 'CLOTHING', 'MACHINE', 'FUEL', 'SHIPPING'],
  TK: ['GOODS', 'TOOLS', 'CLOTHING', 'MACHINE', 'FUEL', 'SERVICE'],
  PL: ['GOODS', 'TOOLS', 'CLOTHING', 'MACHINE', 'FUEL', 'SHIPPING'],
  BK: ['GOODS', 'CLOTHING', 'MACHINE'],
  XB: ['GOODS', 'TOOLS', 'CLOTHING', 'MACHINE', 'FUEL', 'SHIPPING', 'SERVICE'],
}
export const CLOTHING_FROM = 11000
export const MACHINE_CAP = 40000

/** How a line is rightly charged at a place. Shipping that follows its goods is worked out with the whole document. */
export function rightly(
  { region, country, rate }: Place,
  { taxCode, price }: Item,
  quantity: number,
): Charge {
  const state = country === 'XB' ? 'XB' : region.slice(3)
  if (rate === null) return { rate: null }
  if (state === 'BK' && taxCode === 'TOOLS') return { rate: 'BK-TOOLS' }
  if (state === 'BK' && taxCode === 'FUEL') return { rate: 'BK-FUEL' }
  if (state === 'BK' && taxCode === 'CLOTHING' && price < CLOTHING_FROM) return { rate: null }
  if (state === 'BK' && taxCode === 'MACHINE' && price > MACHINE_CAP)
    return { rate, taxable: BigInt(MACHINE_CAP * quantity) }
  return STANDARD[state]?.includes(taxCode) ? { rate } : { rate: null }
}

/** A rate as somebody has it who was not told of November. */
export function asOfOctober(rate: Rate): Rate {
  return {
    ...rate,
    components: rate.components
      .filter((c) => c.from !== '2026-11-01')
      .map(({ to, ...c }) => (to === '2026-10-31' || to === undefined ? c : { ...c, to })),
  }
}

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
  {
    code: 'TDT',
    name: 'Tamarack Department of Taxation',
    account: '2220',
    accountName: 'Sales tax, Tamarack',
  },
  { code: 'MCA', name: 'Merrow County Assessor', account: '2222', accountName: 'Merrow County tax' },
  {
    code: 'BRD',
    name: 'Brackenshire Revenue Department',
    account: '2230',
    accountName: 'Sales tax, Brackenshire',
  },
  { code: 'NFT', name: 'Norwick Federal Treasury', account: '2240', accountName: 'Norwick federal tax' },
  { code: 'STO', name: 'Solmar Tax Office', account: '2242', accountName: 'Solmar tax' },
]

/** A hundred per cent, in millionths. */
const HUNDRED = 100n * 1_000_000n

/** What the components of a rate come to on a date, exactly; one on top of others takes its percent of their tax, too. */
export function totalPercent({ components }: Pick<Rate, 'components'>, date = '2026-09-30'): string {
  const own = components.map((c) => (holds(c, date) ? millionths(c.percent) : 0n))
  const total = components.reduce((sum, c, at) => {
    const below = (c.onTopOf ?? []).reduce((under, place) => under + (own[place] ?? 0n), 0n)
    return sum + (own[at] ?? 0n) + ((own[at] ?? 0n) * below) / HUNDRED
  }, 0n)
  return `${total / 1_000_000n}.${(total % 1_000_000n).toString().padStart(6, '0').slice(0, 2)}`
}

export function holds({ from, to }: Pick<Component, 'from' | 'to'>, date: string): boolean {
  return (from === undefined || date >= from) && (to === undefined || date <= to)
}

export function rateOf(code: string): Rate {
  const found = RATES.find((r) => r.code === code)
  if (!found) throw new Error(`no rate ${code}`)
  return found
}
