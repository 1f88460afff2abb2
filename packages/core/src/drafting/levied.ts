import type { Address, Cover, Level } from '../baseline/baseline.ts'
import { covers, daysFrom, type DateRange, type IsoDate } from '../baseline/dates.ts'
import { groupBy } from '../baseline/lookup.ts'
import { foldName } from '../crosswalk/folding.ts'
import type { Percent } from '../money/decimal.ts'
import type { ComponentHeld } from './given.ts'
import { partKey, versionOn, type Component, type RateMet } from './rates.ts'
import type { CellRate, RegionSeen } from './standards.ts'

/** A component where it is charged: the same one of all the rates of a region that hold it. */
export interface Levied {
  /** The country, or the region of one, in which it bears one name. */
  readonly scope: { readonly country: string; readonly region: string | null }
  readonly agency: string
  readonly name: string
  /** Rates that hold it, with their component, and the days on which each of them is its cells' rate. */
  readonly within: readonly { readonly rate: RateMet; readonly part: Component; readonly valid: DateRange }[]
  readonly cells: readonly string[]
}

/** A part of a rate in a cell on its days. */
interface Use {
  readonly cell: string
  readonly region: string
  readonly rate: RateMet
  readonly part: Component
  readonly valid: DateRange
}

/** The components that are charged anywhere, each where it is charged. */
export function leviedIn(regions: readonly RegionSeen[]): Levied[] {
  const uses = regions.flatMap((region) =>
    [...region.rates].flatMap(([cell, rates]) =>
      rates.flatMap(({ rate, valid }: CellRate) =>
        (rate.leading.parts ?? []).map((part): Use => ({ cell, region: region.region, rate, part, valid })),
      ),
    ),
  )
  return [...groupBy(uses, ({ part }) => partKey(part.agency, part.name)).values()].flatMap((of) =>
    apart(of, regions),
  )
}

/** What bears the same name stands for one thing in a whole country, else for one in each region; and in each of those for one of each percent. */
function apart(of: readonly Use[], regions: readonly RegionSeen[]): Levied[] {
  const country = countryOf(of[0]?.region ?? '')
  const wanted = regions.filter(({ region }) => countryOf(region) === country)
  const everywhere =
    wanted.length > 1 &&
    wanted.every(
      ({ region, rates }) =>
        rates.size > 0 &&
        [...rates.keys()].every((cell) => of.some((use) => use.region === region && use.cell === cell)),
    )
  const scopes = groupBy(of, ({ region }) => (everywhere ? countryOf(region) : region))
  return [...scopes].flatMap(([scope, own]) =>
    byPercents(own).map((same): Levied => {
      const [first] = same as [Use]
      return {
        scope: scopeOf(scope),
        agency: first.part.agency,
        name: first.part.name,
        within: [...new Map(same.map((use) => [`${use.rate.id} ${use.valid.from}`, use])).values()],
        cells: [...new Set(same.map(({ cell }) => cell))].sort(),
      }
    }),
  )
}

/** Uses that may be of one thing: on every day that two have in common, they have one percent. Those of one cell are of one thing. */
function byPercents(uses: readonly Use[]): Use[][] {
  const groups: Use[][] = []
  for (const [, here] of groupBy(uses, ({ cell }) => cell)) {
    const group = groups.find((other) => other.every((a) => here.every((b) => samePercents(a, b))))
    if (group) group.push(...here)
    else groups.push([...here])
  }
  return groups
}

function samePercents(a: Use, b: Use): boolean {
  if (a.part === b.part) return true
  const from = a.valid.from > b.valid.from ? a.valid.from : b.valid.from
  const to = [a.valid.to, b.valid.to].filter((day) => day !== null).sort()[0] ?? null
  if (to !== null && to < from) return true
  return daysOf([a.part, b.part], { from, to }).every(
    (day) => versionOn(a.part, day)?.percent === versionOn(b.part, day)?.percent,
  )
}

/** The days within a span on which a version of any of these begins or has just ended, and its first. */
function daysOf(parts: readonly Component[], { from, to }: DateRange): IsoDate[] {
  const days = parts.flatMap(({ versions }) =>
    versions.flatMap((v) => [v.from, v.to && v.to < '9999-12-31' ? daysFrom(v.to, 1) : null]),
  )
  return [from, ...days.filter((day): day is IsoDate => day !== null && covers({ from, to }, day))]
}

/** A percent, or a tax for each unit, over its days. */
export interface Version {
  readonly percent: Percent
  readonly from: IsoDate
  readonly to: IsoDate | null
}

/** A component's percents over time; those of rates that took turns cut where one follows the other. */
export function versionsOf(
  within: readonly { readonly part: Component; readonly valid: DateRange }[],
  since: IsoDate,
): Version[] {
  const all = within.flatMap(({ part, valid }) =>
    part.versions.flatMap((version: ComponentHeld): Version[] => {
      const from = [version.from ?? since, valid.from].sort().at(-1) ?? since
      const to = [version.to, valid.to].filter((day) => day !== null).sort()[0] ?? null
      return to !== null && to < from ? [] : [{ percent: version.percent, from, to }]
    }),
  )
  const sorted = [...all].sort((a, b) => (a.from === b.from ? 0 : a.from < b.from ? -1 : 1))
  const kept: Version[] = []
  for (const version of sorted) {
    const last = kept.at(-1)
    if (last && (last.to === null || last.to >= version.from)) {
      // Of the same days one is kept: the one that reaches further.
      if (
        last.percent === version.percent &&
        last.to !== null &&
        (version.to === null || version.to > last.to)
      )
        kept[kept.length - 1] = { ...last, to: version.to }
    } else kept.push(version)
  }
  return kept
}

/** A region's key as its country and region. */
export function scopeOf(key: string): Levied['scope'] {
  const [country = '', region = ''] = key.split('|')
  return { country, region: region === '' ? null : region }
}

export function countryOf(region: string): string {
  return scopeOf(region).country
}

/** The level and bounds of what is charged in some cells of a region and not in others. */
export function boundsWithin(
  cells: readonly string[],
  all: ReadonlyMap<string, Address>,
): { readonly level: Level; readonly covers: readonly Cover[] } {
  const own = new Set(cells)
  const cityOf = (cell: string): string => foldName(all.get(cell)?.city ?? '')
  const cities = groupBy([...all.keys()], cityOf)
  const whole = [...cities].filter(([city, of]) => city !== '' && of.every((cell) => own.has(cell)))
  const inWhole = new Set(whole.flatMap(([, of]) => of))
  const covers = [
    ...whole.map(([, of]) => coverOf(all.get(of[0] ?? ''), 'city')),
    ...cells.filter((cell) => !inWhole.has(cell)).map((cell) => coverOf(all.get(cell), 'postalCode')),
  ]
  const touched = new Set(cells.map(cityOf))
  return { level: touched.size > 1 ? 'county' : inWhole.size > 0 ? 'city' : 'district', covers }
}

function coverOf(address: Address | undefined, by: 'city' | 'postalCode'): Cover {
  const { country = '', region = null, city = null, postalCode = null } = address ?? {}
  return {
    country,
    ...(region === null ? {} : { region }),
    ...(city === null ? {} : { city }),
    ...(by === 'postalCode' && postalCode !== null ? { postalCode } : {}),
  }
}
