/** The score's made-up country, as plain data: what is right about each of its regions, places, codes and buyers. */

export type Treatment = 'standard' | 'exempt' | 'follows'
export interface Component {
  readonly jurisdiction: string
  readonly agency: string
  /** Percents, each from a date on, the oldest first. */
  readonly percents: readonly (readonly [from: string, percent: string])[]
}
export interface Region {
  readonly id: string
  readonly shipping: Treatment
  readonly taxedBeforeDiscount: boolean
}
export interface Place {
  readonly id: string
  readonly region: string
  readonly postalCode: string
  readonly components: readonly Component[]
}

const state = (jurisdiction: string, percent: string): Component => ({
  jurisdiction,
  agency: `A-${jurisdiction}`,
  percents: [['2020-01-01', percent]],
})
const moved = (jurisdiction: string, before: string, after: string): Component => ({
  jurisdiction,
  agency: `A-${jurisdiction}`,
  percents: [
    ['2020-01-01', before],
    ['2026-09-01', after],
  ],
})

export const REGIONS: readonly Region[] = [
  { id: 'NE', shipping: 'follows', taxedBeforeDiscount: false },
  { id: 'SW', shipping: 'standard', taxedBeforeDiscount: true },
  { id: 'MI', shipping: 'exempt', taxedBeforeDiscount: false },
]
export const PLACES: readonly Place[] = [
  {
    id: 'NE-1',
    region: 'NE',
    postalCode: '11001',
    components: [state('NE', '5.5'), moved('NE-C', '1.25', '1.45'), state('NE-D', '0.5')],
  },
  {
    id: 'NE-2',
    region: 'NE',
    postalCode: '11002',
    components: [state('NE', '5.5'), moved('NE-C', '1.25', '1.45')],
  },
  { id: 'NE-3', region: 'NE', postalCode: '11003', components: [state('NE', '5.5')] },
  {
    id: 'SW-1',
    region: 'SW',
    postalCode: '22001',
    components: [moved('SW', '6', '6.25'), state('SW-C', '0.875')],
  },
  { id: 'SW-2', region: 'SW', postalCode: '22002', components: [moved('SW', '6', '6.25')] },
  {
    id: 'MI-1',
    region: 'MI',
    postalCode: '33001',
    components: [state('MI', '4.225'), state('MI-C', '2.13'), moved('MI-T', '1', '1.1')],
  },
  {
    id: 'MI-2',
    region: 'MI',
    postalCode: '33002',
    components: [state('MI', '4.225'), state('MI-D', '0.75')],
  },
]
/** Where the entity is at home, and ships from. */
export const HOME = 'NE-2'
export const CODES: Readonly<Record<string, Treatment>> = { GOODS: 'standard', FOOD: 'exempt' }
export const CURRENCIES: Readonly<Record<string, { readonly digits: number; readonly rate: string }>> = {
  USD: { digits: 2, rate: '1' },
  EUR: { digits: 2, rate: '1.0837' },
  JPY: { digits: 0, rate: '0.00671' },
  KWD: { digits: 3, rate: '3.2519' },
}
export const BASE = 'USD'

/** Every component of the country once. */
export const COMPONENTS: readonly Component[] = [
  ...new Map(PLACES.flatMap((p) => p.components).map((c) => [c.jurisdiction, c])).values(),
]
export const AGENCIES: readonly string[] = [...new Set(COMPONENTS.map((c) => c.agency))]
export const accountOf = (agency: string): string => String(2200 + AGENCIES.indexOf(agency))
export function placeOf(id: string): Place {
  const found = PLACES.find((p) => p.id === id)
  if (!found) throw new Error(`no place ${id}`)
  return found
}
export function percentOn({ percents }: Component, date: string): string {
  return percents.filter(([from]) => from <= date).at(-1)?.[1] ?? '0'
}
