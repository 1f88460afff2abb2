import type { Address, Baseline, Cover, Level } from '../baseline/baseline.ts'
import { groupBy } from '../baseline/lookup.ts'
import { placeOf } from '../determination/place.ts'
import type { Given } from './given.ts'
import { boundsWithin, countryOf, leviedIn, scopeOf, type Levied } from './levied.ts'
import { Codes } from './naming.ts'
import { cellOf } from './observed.ts'
import { partKey, type RateMet } from './rates.ts'
import type { RegionSeen } from './standards.ts'

/** A place as it is drafted: what is charged there, or nothing. */
export interface DraftedPlace {
  readonly code: string
  readonly name: string
  readonly level: Level
  readonly parent: string | null
  /** Null where nothing is charged: a country or region that only bounds what is within. */
  readonly levied: Levied | null
  readonly covers: readonly Cover[]
  /** The cells where it was seen; of a country or region all that it bounds. */
  readonly cells: readonly string[]
}

export interface Places {
  readonly all: readonly DraftedPlace[]
  /** The places that a rate is charged in, of a cell. */
  of(rate: RateMet, cell: string): readonly DraftedPlace[]
  /** The place that one component of a rate is charged in; undefined where its rate is nowhere the standard one. */
  ofPart(rate: RateMet, agency: string, name: string, cell: string): DraftedPlace | undefined
  readonly addresses: ReadonlyMap<string, Address>
}

/** Countries and regions out of addresses, and within them what is charged in some of their places. */
export function draftPlaces(given: Given, regions: readonly RegionSeen[]): Places {
  const addresses = new Map(
    given.sales
      .filter(({ document }) => document.purchase !== true)
      .map((sale) => {
        const cell = cellOf(sale)
        return [cell.key, cell.address] as const
      }),
  )
  const codes = new Codes()
  const frame = framesOf(addresses, codes, given.known)
  const all = [...frame]
  const levied = leviedIn(regions)
  for (const one of levied) {
    const known = knownPlace(one, given.known, addresses)
    const stands = all.findIndex(({ code }) => code === known)
    if (stands >= 0 && isAllOf(one)) {
      all[stands] = asCharged(all[stands] as DraftedPlace, one)
      continue
    }
    const at = placeWithin(one, all, regions, addresses)
    const bound = all.findIndex((place) => place.code === at.bound && place.levied === null)
    // What is charged in all of a country or region is that country's or region's own; a second such is a district of it.
    if (bound >= 0)
      all[bound] = { ...(all[bound] as DraftedPlace), name: one.name, levied: one, cells: one.cells }
    else
      all.push({
        code: codes.give(at.parent === null ? one.name : `${at.parent} ${one.name}`, known),
        name: nameOf(one, levied, at.covers),
        level: at.level,
        parent: at.parent,
        levied: one,
        covers: at.covers,
        cells: one.cells,
      })
  }
  const byUse = new Map(
    all.flatMap((place) =>
      (place.levied?.within ?? []).flatMap(({ rate, part }) =>
        place.cells.map((cell) => [`${rate.id} ${partKey(part.agency, part.name)} ${cell}`, place] as const),
      ),
    ),
  )
  const ofPart: Places['ofPart'] = (rate, agency, name, cell) =>
    byUse.get(`${rate.id} ${partKey(agency, name)} ${cell}`)
  return {
    all,
    addresses,
    ofPart,
    of: (rate, cell) =>
      (rate.leading.parts ?? []).flatMap((part) => ofPart(rate, part.agency, part.name, cell) ?? []),
  }
}

/** Whether it is all that its agency has of the rates it is in: then it is what the baseline knows of that agency there, under whatever percent. */
function isAllOf({ agency, within }: Levied): boolean {
  return within.every(({ rate }) => rate.leading.parts?.filter((part) => part.agency === agency).length === 1)
}

/** A place that the baseline knows, with what is charged of it. */
function asCharged(place: DraftedPlace, one: Levied): DraftedPlace {
  const levied = place.levied ? { ...place.levied, within: [...place.levied.within, ...one.within] } : one
  return {
    ...place,
    levied,
    cells: [...new Set([...(place.levied ? place.cells : []), ...one.cells])].sort(),
  }
}

/** Each country, and each region of it, before anything is charged there. */
function framesOf(addresses: ReadonlyMap<string, Address>, codes: Codes, known: Baseline): DraftedPlace[] {
  const bounds = (country: string, region: string | undefined): string | null =>
    known.jurisdictions.find(
      ({ level, covers }) =>
        level === (region === undefined ? 'country' : 'region') &&
        covers.some(
          (cover) =>
            cover.country === country &&
            cover.region === region &&
            cover.city === undefined &&
            cover.postalCode === undefined,
        ),
    )?.id ?? null
  const byCountry = groupBy(addresses, ([, { country }]) => country)
  return [...byCountry].sort().flatMap(([country, cells]): DraftedPlace[] => {
    const regions = [...groupBy(cells, ([, { region }]) => region ?? '')]
      .filter(([region]) => region !== '')
      .sort()
    const own = codes.give(country, bounds(country, undefined), country)
    return [
      {
        ...{ code: own, name: country, level: 'country', parent: null, levied: null },
        covers: [{ country }],
        cells: cells.map(([cell]) => cell),
      },
      ...regions.map(([region, of]): DraftedPlace => ({
        ...{
          code: codes.give(region, bounds(country, region), region),
          name: region,
          level: 'region',
          parent: own,
          levied: null,
        },
        covers: [{ country, region }],
        cells: of.map(([cell]) => cell),
      })),
    ]
  })
}

/** The country, or the region of one, as it is drafted. */
export function frameOf(
  places: readonly DraftedPlace[],
  { country, region }: Levied['scope'],
): DraftedPlace | undefined {
  return places.find(
    ({ level, covers: [cover] }) =>
      cover?.country === country &&
      (region === null ? level === 'country' : level === 'region' && cover.region === region),
  )
}

/** The place of the baseline that the same agency collects in, where it stands for these cells; null where there is none, or several. */
function knownPlace(
  { agency, cells }: Levied,
  { jurisdictions }: Baseline,
  addresses: ReadonlyMap<string, Address>,
): string | null {
  const within = cells.flatMap((cell) => addresses.get(cell) ?? [])
  const found = jurisdictions.filter(
    (one) =>
      one.agencyId === agency && within.some((address) => placeOf(address, [one]).jurisdictions.length > 0),
  )
  return found.length === 1 ? (found[0]?.id ?? null) : null
}

interface Bounded {
  /** The country or region whose own it may be. */
  readonly bound: string | null
  readonly level: Level
  readonly parent: string | null
  readonly covers: readonly Cover[]
}

function placeWithin(
  { scope, cells }: Levied,
  places: readonly DraftedPlace[],
  regions: readonly RegionSeen[],
  addresses: ReadonlyMap<string, Address>,
): Bounded {
  const { country, region } = scope
  const frame = frameOf(places, scope)
  const known = regions
    .filter(
      (one) =>
        countryOf(one.region) === country && (region === null || scopeOf(one.region).region === region),
    )
    .flatMap(({ rates }) => [...rates.keys()])
  if (frame && known.every((cell) => cells.includes(cell)))
    return { bound: frame.code, level: 'district', parent: frame.code, covers: frame.covers }
  const within = new Map(
    known.flatMap((cell) => (addresses.has(cell) ? [[cell, addresses.get(cell) as Address]] : [])),
  )
  const bounds = boundsWithin(cells, within)
  const stands = places.some(
    (other) =>
      other.level === bounds.level && other.levied?.cells.some((cell) => cells.includes(cell)) === true,
  )
  return {
    bound: null,
    parent: frame?.code ?? null,
    covers: bounds.covers,
    level: stands ? 'district' : bounds.level,
  }
}

/** What it is called, with its city where others bear the same name. */
function nameOf(one: Levied, all: readonly Levied[], covers: readonly Cover[]): string {
  const alike = all.filter(({ name, agency }) => name === one.name && agency === one.agency)
  const city = covers[0]?.city ?? covers[0]?.postalCode
  return alike.length > 1 && city !== undefined ? `${one.name}, ${city}` : one.name
}
