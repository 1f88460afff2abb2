import { covers, daysFrom, type IsoDate } from '../baseline/dates.ts'
import { groupBy } from '../baseline/lookup.ts'
import { foldName } from '../crosswalk/folding.ts'
import { formatPercent } from '../money/decimal.ts'
import { isHeldBySeveral } from './agencies.ts'
import { chosenAmong, namesOf, standingOf, type Decision, type Doubt, type Option } from './decision.ts'
import type { Given } from './given.ts'
import { versionsOf, type Version } from './levied.ts'
import { salesOf, type Observation } from './observed.ts'
import type { Levying } from './levying.ts'
import type { DraftedPlace } from './places.ts'
import { counterpart, partKey, versionOn, type Component, type RateMet } from './rates.ts'
import { BEGINNING, rateOn, type RegionSeen } from './standards.ts'

export function agencyDecisions({ agencies, places, regions, choices }: Levying): Decision[] {
  return agencies.all.map((agency) => {
    const key = `agency:${agency.code}`
    const own = places.all.filter(({ levied: of }) => of?.agency === agency.code)
    const options: Option[] = [
      {
        key: 'one',
        holders: agency.held.map(({ holderId }) => holderId),
        parts: { agencies: [{ id: agency.code, code: agency.code, name: agency.name }] },
        links: agency.held.map(({ holderId, id }) => ({
          kind: 'agency',
          holderId,
          objectId: id,
          baselineId: agency.code,
        })),
      },
    ]
    return {
      key,
      about: 'agency',
      name: agency.name,
      called: namesOf(agency.held.map(({ name }) => name)),
      doubts: [...new Set(agency.doubts)],
      standing: agency.doubts.length > 0 ? 'open' : isHeldBySeveral(agency) ? 'agreed' : 'alone',
      options,
      chosen: chosenAmong(key, options, choices),
      needs: [],
      rests: salesAt(
        own.flatMap(({ cells }) => cells),
        regions,
      ),
      against: [],
    }
  })
}

/** Documents that were charged a tax in some cells. */
export function salesAt(cells: readonly string[], regions: readonly RegionSeen[]): string[] {
  const wanted = new Set(cells)
  return salesOf(
    regions.flatMap(({ observations }) =>
      observations.filter((o) => o.rate !== null && wanted.has(o.cell.key)),
    ),
  )
}

export function placeDecisions(levying: Levying): Decision[] {
  const { places, regions, choices } = levying
  const charged = regions.map((region) => ({
    region,
    byCell: groupBy(
      region.observations.filter((o) => o.rate !== null),
      (o) => o.cell.key,
    ),
  }))
  return places.all.map((place) => {
    const key = `place:${place.code}`
    const needs = [
      ...(place.parent === null ? [] : [`place:${place.parent}`]),
      ...(place.levied === null ? [] : [`agency:${place.levied.agency}`]),
    ]
    const { options, doubts } = place.levied === null ? framed(place) : levied(place, levying)
    const against = salesOf(charged.flatMap((one) => againstBounds(place, one)))
    const all: Doubt[] = [...doubts, ...(against.length > 0 ? (['documents-differ'] as const) : [])]
    return {
      key,
      about: 'place',
      name: place.name,
      called: [],
      doubts: all,
      standing: standingOf(all, isTold(place, regions) ? (options[0]?.holders ?? []) : []),
      options,
      chosen: chosenAmong(key, options, choices),
      needs,
      rests: salesAt(place.levied === null ? [] : place.cells, regions),
      against,
    }
  })
}

/** Whether each of its cells is told by more than one document: one alone may be the one that is wrong. */
function isTold({ levied: of, cells }: DraftedPlace, regions: readonly RegionSeen[]): boolean {
  return (
    of !== null &&
    cells.every((cell) =>
      regions.some(
        ({ observations, standard }) =>
          new Set(
            observations
              .filter((o) => o.cell.key === cell && o.rate !== null && standard.includes(o.code))
              .map(({ sale }) => sale.id),
          ).size > 1,
      ),
    )
  )
}

/** What a region's lines were charged, by cell. */
interface Charged {
  readonly region: RegionSeen
  readonly byCell: ReadonlyMap<string, readonly Observation[]>
}

/** What speaks against a place: another percent of it in one of its cells; or its tax charged outside of them, by no fewer documents than charged none. */
function againstBounds(place: DraftedPlace, { region, byCell }: Charged): Observation[] {
  if (place.levied === null) return []
  const cells = new Set(place.cells)
  const within = region.against.filter(
    (o) => cells.has(o.cell.key) && speaksAgainst(o.rate, place, region, o),
  )
  const beyond = [...byCell].flatMap(([cell, here]) => {
    const bears = (o: Observation): boolean => partOf(o.rate, place) !== undefined
    const bear = cells.has(cell) ? [] : here.filter(bears)
    const isAnothers = region.rates.get(cell)?.some(({ rate }) => partOf(rate, place) !== undefined) === true
    if (bear.length === 0 || isAnothers) return []
    const without = here.filter((o) => region.standard.includes(o.code) && !bears(o))
    return salesOf(bear).length < salesOf(without).length ? [] : bear
  })
  return [...within, ...beyond]
}

/** Whether a line's rate has another percent of the place's than the cell's own rate has, or none. */
function speaksAgainst(
  rate: RateMet | null,
  place: DraftedPlace,
  region: RegionSeen,
  { cell, date }: { readonly cell: { readonly key: string }; readonly date: IsoDate },
): boolean {
  const [theirs, right] = [partOf(rate, place), partOf(rateOn(region.rates.get(cell.key), date), place)]
  return (theirs && versionOn(theirs, date)?.percent) !== (right && versionOn(right, date)?.percent)
}

/** What a rate has of a place's tax. */
function partOf(rate: RateMet | null | undefined, { levied: of }: DraftedPlace): Component | undefined {
  return rate?.leading.parts?.find(
    (part) => part.agency === of?.agency && foldName(part.name) === foldName(of.name),
  )
}

function jurisdictionOf(place: DraftedPlace): NonNullable<Option['parts']['jurisdictions']>[number] {
  return {
    id: place.code,
    name: place.name,
    level: place.level,
    parentId: place.parent,
    agencyId: place.levied?.agency ?? null,
    covers: place.covers,
  }
}

function framed(place: DraftedPlace): { options: Option[]; doubts: Doubt[] } {
  return {
    options: [{ key: 'nothing', holders: [], links: [], parts: { jurisdictions: [jurisdictionOf(place)] } }],
    doubts: [],
  }
}

function levied(place: DraftedPlace, { given, places }: Levying): { options: Option[]; doubts: Doubt[] } {
  const { within } = place.levied as NonNullable<DraftedPlace['levied']>
  const since = given.seen.from
  const own = versionsOf(within, since)
  const onTopOf = [
    ...new Set(
      within.flatMap(({ rate, part }) =>
        part.onTopOf.flatMap((key) => {
          const other = rate.leading.parts?.find((one) => partKey(one.agency, one.name) === key)
          const cell = place.cells[0] ?? ''
          return (other && places.ofPart(rate, other.agency, other.name, cell)?.code) ?? []
        }),
      ),
    ),
  ]
  const said = [
    { holderId: within[0]?.rate.leading.holderId ?? '', versions: own },
    ...theirVersions(place, since),
  ]
  const options = [...groupBy(said, ({ versions }) => seenText(versions, given.seen))].map(
    ([key, of]): Option => ({
      key,
      holders: [...new Set(of.map(({ holderId }) => holderId))],
      links: [],
      parts: {
        jurisdictions: [jurisdictionOf(place)],
        rateVersions: longest(of.map(({ versions }) => versions)).map((version) => ({
          id: `${place.code}@${version.from}`,
          jurisdictionId: place.code,
          percent: version.percent,
          onTopOf,
          valid: { from: version.from, to: version.to },
        })),
      },
    }),
  )
  const later = within.filter(({ valid }) => valid.from > BEGINNING)
  return {
    options,
    doubts: [
      ...(options.length > 1 ? (['systems-differ'] as const) : []),
      // From which day on a rate that took another's turn counts is seen in documents alone.
      ...(later.some(({ part, valid }) => part.versions.some((v) => (v.from ?? BEGINNING) < valid.from))
        ? (['turns'] as const)
        : []),
      ...(within.some(({ part }) => part.versions.some((v) => v.perUnit !== null))
        ? (['by-unit'] as const)
        : []),
    ],
  }
}

/** What the other systems hold of the same component, in the same rates. */
function theirVersions(
  { levied: of }: DraftedPlace,
  since: IsoDate,
): { holderId: string; versions: Version[] }[] {
  return (of?.within ?? []).flatMap(({ rate, part, valid }) =>
    rate.members
      .filter((member) => member !== rate.leading)
      .flatMap((member) => {
        const theirs = counterpart(member, rate.leading, part)
        return theirs
          ? [{ holderId: member.holderId, versions: versionsOf([{ part: theirs, valid }], since) }]
          : []
      }),
  )
}

/** The percents of the days that were seen, each with its day. */
function seenText(versions: readonly Version[], { from, to }: Given['seen']): string {
  const days = [
    from,
    ...versions.flatMap((v) => [v.from, v.to !== null && v.to < to ? daysFrom(v.to, 1) : v.from]),
  ]
  const texts = [...new Set(days)]
    .filter((day) => covers({ from, to }, day))
    .sort()
    .map((day) => {
      const held = versions.find((v) => covers(v, day))
      return { day, percent: held ? formatPercent(held.percent) : '' }
    })
    .filter((one, at, all) => at === 0 || one.percent !== all[at - 1]?.percent)
  return texts.map(({ day, percent }, at) => (at === 0 ? percent : `${percent} from ${day}`)).join(', ')
}

function longest(all: readonly (readonly Version[])[]): readonly Version[] {
  return all.reduce((most, one) => (one.length > most.length ? one : most))
}
