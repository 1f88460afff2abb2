import type { Draw } from '../shared/draw.ts'

/** A land of no map: what is right in it, as plain data. Every seed draws another. */
export interface Levy {
  readonly id: string
  readonly agency: string
  readonly name: string
  /** Percents in millionths, the oldest first, each from a day on. */
  readonly percents: readonly (readonly [from: string | null, percent: bigint])[]
}

export interface Agency {
  readonly code: string
  readonly name: string
  readonly account: string
}

export type Rounding = `${'line' | 'document'} ${'component' | 'combined'}`

/** What a code means in a region: the standard rates, none, a percent of the region's own, or none below a price. */
export type Rule =
  | { readonly is: 'standard' | 'exempt' | 'follows-goods' }
  | { readonly is: 'reduced'; readonly percents: Levy['percents']; readonly locals: 'as-standard' | 'none' }
  | { readonly is: 'threshold'; readonly limit: bigint }

export interface Region {
  readonly code: string
  readonly registered: boolean
  readonly rounding: Rounding
  readonly rules: Readonly<Record<string, Rule>>
}

export interface Place {
  readonly region: Region
  readonly city: string
  readonly postalCode: string
  /** The region's own first; none where it is not registered. */
  readonly levies: readonly Levy[]
}

export interface Land {
  readonly agencies: readonly Agency[]
  readonly regions: readonly Region[]
  readonly places: readonly Place[]
}

export const COUNTRY = 'XQ'
/** The day on which one county's percent changes. */
export const CHANGES_ON = '2026-09-16'
const REGIONS = ['XQ-AR', 'XQ-BE', 'XQ-CO', 'XQ-DU'] as const
const NAMES = ['Arden', 'Belmere', 'Corrow', 'Dunmark'] as const
const FIRST = [
  'Ash',
  'Birch',
  'Cold',
  'Dray',
  'Elder',
  'Fallow',
  'Gorse',
  'Hazel',
  'Iron',
  'Juniper',
  'Kestrel',
  'Lark',
] as const
const LAST = ['ford', 'wick', 'haven', 'stead', 'bridge', 'mouth'] as const

export function landOf(draw: Draw): Land {
  const agencies: Agency[] = []
  const places: Place[] = []
  const agency = (code: string, name: string): string => {
    agencies.push({ code, name, account: String(2200 + agencies.length * 2) })
    return code
  }
  const quarter = (from: number, to: number): bigint => BigInt(draw(from, to)) * 250_000n
  const regions = REGIONS.map((code, at): Region => {
    const name = NAMES[at] ?? ''
    const region: Region = {
      code,
      registered: at < 3,
      rounding: pick(draw, ['line component', 'line combined', 'document component', 'document combined']),
      rules: rulesOf(draw, at),
    }
    const own: Levy = {
      id: code,
      agency: at < 3 ? agency(`${code.slice(3)}RD`, `${name} Revenue Department`) : '',
      name,
      percents: [[null, quarter(16, 28)]],
    }
    for (let county = 0; county < 2; county++) {
      const title = `${FIRST[at * 3 + county] ?? ''} County`
      const holder = at < 3 ? agency(`${code.slice(3)}C${county + 1}`, `${title} Treasurer`) : ''
      const before = quarter(2, 6)
      const changes = at === 0 && county === 0
      const countyLevy: Levy = {
        id: `${code}-${county}`,
        agency: holder,
        name: title,
        percents: changes
          ? [
              [null, before],
              [CHANGES_ON, before + 250_000n],
            ]
          : [[null, before]],
      }
      const cities = draw(2, 4)
      for (let city = 0; city < cities; city++) {
        const called = `${FIRST[(at * 5 + county * 4 + city) % FIRST.length] ?? ''}${LAST[(at + county * 2 + city) % LAST.length] ?? ''} ${['North', 'South'][county] ?? ''}`
        const levy: Levy | null =
          at < 3 && draw(0, 2) === 0
            ? {
                id: `${code}-${county}-${city}`,
                agency: agency(`${code.slice(3)}M${county}${city}`, `City of ${called}`),
                name: `${called} city`,
                percents: [[null, quarter(1, 4)]],
              }
            : null
        const codes = draw(1, 3)
        for (let post = 0; post < codes; post++)
          places.push({
            region,
            city: called,
            postalCode: String(10000 * (at + 1) + county * 1000 + city * 100 + post),
            levies: region.registered ? [own, countyLevy, ...(levy ? [levy] : [])] : [],
          })
      }
    }
    return region
  })
  return { agencies, regions, places }
}

/** The codes of what is sold; standard where a region says nothing else. */
export const CODES = ['GENERAL', 'FOOD', 'MEDICAL', 'CLOTHING', 'SERVICE', 'FREIGHT'] as const

function rulesOf(draw: Draw, at: number): Region['rules'] {
  return {
    GENERAL: { is: 'standard' },
    FOOD: pick(draw, [
      { is: 'exempt' },
      { is: 'standard' },
      { is: 'reduced', percents: [[null, 2_000_000n]], locals: 'as-standard' },
      {
        is: 'reduced',
        percents: [
          [null, 1_500_000n],
          [CHANGES_ON, 1_750_000n],
        ],
        locals: 'none',
      },
    ]),
    MEDICAL: { is: 'exempt' },
    CLOTHING: at === 1 ? { is: 'threshold', limit: 11_000n } : { is: 'standard' },
    SERVICE: pick(draw, [{ is: 'exempt' }, { is: 'standard' }]),
    FREIGHT: pick(draw, [{ is: 'exempt' }, { is: 'standard' }, { is: 'follows-goods' }]),
  }
}

export function pick<T>(draw: Draw, all: readonly T[]): T {
  return all[draw(0, all.length - 1)] as T
}

/** The percent on a day, in millionths. */
export function percentOn({ percents }: Pick<Levy, 'percents'>, day: string): bigint {
  return [...percents].reverse().find(([from]) => from === null || from <= day)?.[1] ?? 0n
}
