import { findingOf, type Location, type Remedy } from '@axion/contract'
import { describe, placeOf, type Address, type BaselineIndex } from '@axion/core'
import { canonical } from '../../database/json.ts'
import type { Held, HeldSystem } from '../../setUp/held.ts'
import type { Found, KindOfSetUp } from './kind.ts'

/** Outlets and warehouses: where they are, by which clock their day ends, and which jurisdictions that puts their sales in. */
export const LOCATIONS: KindOfSetUp = {
  kind: 'locations',
  link: 'location',
  resource: 'locations',
  rows: ({ index }) =>
    index.baseline.locations.map(({ id, name, address, cutOff }) => ({
      id,
      name,
      group: id,
      detail: placesOf(index, address).join(', ') || 'nowhere',
      total: dayOf(cutOff),
    })),
  needs: () => false,
  matters: () => true,
  says: (held, objectId) =>
    locationOf(held, objectId) ? describe(locationOf(held, objectId)?.value.address as Address) : '',
  about: ({ index }, row) => {
    const address = index.baseline.locations.find((location) => location.id === row.id)?.address
    const { findings } = address ? placeOf(address, index.baseline.jurisdictions) : { findings: [] }
    return findings.length === 0 || !address
      ? []
      : [findingOf('AXION_LOCATION_NOWHERE', { name: row.name, address: describe(address) })]
  },
  compare: ({ index }, row, objectId, { held }) => {
    const ours = index.baseline.locations.find((location) => location.id === row.id)
    const theirs = locationOf(held, objectId)?.value
    if (!ours || !theirs) return { agrees: false, words: '', fields: [], found: [], remedies: [] }
    const fields = fieldsOf(index, ours, theirs)
    const found = differencesOf(fields, { name: row.name, system: held.row.name })
    return {
      agrees: found.length === 0,
      found,
      words: inWords(fields, [placesOf(index, ours.address), placesOf(index, theirs.address)]),
      remedies: found.length === 0 ? [] : remediesOf(held, objectId),
      fields: Object.values(fields),
    }
  },
}

type Place = Pick<Location, 'address' | 'cutOff' | 'timeZone'>
interface Field {
  readonly field: string
  readonly ours: string
  readonly theirs: string
  readonly agrees: boolean
}
type Fields = Readonly<Record<'address' | 'places' | 'day' | 'clock', Field>>

function fieldsOf(index: BaselineIndex, ours: Place, theirs: Place): Fields {
  const [here, there] = [placesOf(index, ours.address), placesOf(index, theirs.address)]
  return {
    address: {
      field: 'Address',
      ours: describe(ours.address),
      theirs: describe(theirs.address),
      agrees: canonical(theirs.address) === canonical(ours.address),
    },
    places: {
      field: 'Jurisdictions',
      ours: here.join(', ') || 'none',
      theirs: there.join(', ') || 'none',
      agrees: here.join() === there.join(),
    },
    day: {
      field: 'Its day ends',
      ours: dayOf(ours.cutOff),
      theirs: dayOf(theirs.cutOff),
      agrees: theirs.cutOff === ours.cutOff,
    },
    clock: {
      field: 'Time zone',
      ours: ours.timeZone,
      theirs: theirs.timeZone,
      agrees: theirs.timeZone === ours.timeZone,
    },
  }
}

/** What differs: an address matters by itself only where it does not decide the jurisdictions. */
function differencesOf(
  { address, places, day, clock }: Fields,
  facts: { readonly name: string; readonly system: string },
): Found[] {
  const sides = ({ ours, theirs }: Field) => ({ ...facts, ours, theirs })
  return [
    ...(places.agrees ? [] : [findingOf('AXION_LOCATION_JURISDICTION', sides(places))]),
    ...(places.agrees && !address.agrees ? [findingOf('AXION_LOCATION_ADDRESS', sides(address))] : []),
    ...(day.agrees && clock.agrees
      ? []
      : [
          findingOf('AXION_LOCATION_CUT_OFF', {
            ...facts,
            ours: `${day.ours} in ${clock.ours}`,
            theirs: `${day.theirs} in ${clock.theirs}`,
          }),
        ]),
  ]
}

/** The weightiest difference in a few words. */
function inWords(
  { address, places, day, clock }: Fields,
  [here, there]: readonly [readonly string[], readonly string[]],
): string {
  if (!places.agrees) return `in ${there.at(-1) ?? 'no place'}, not ${here.at(-1) ?? 'any'}`
  if (!day.agrees || !clock.agrees) return `${day.theirs}, not ${day.ours}`
  return address.agrees ? day.theirs : 'another address'
}

function remediesOf({ row }: HeldSystem, objectId: string): Remedy[] {
  const of = { align: 'locations', systemId: row.system_id, objectId } as const
  return [
    ...(row.about.takes.includes('locations') ? [{ kind: 'send', ...of } as const] : []),
    { kind: 'adopt', ...of },
  ]
}

function locationOf(held: HeldSystem, objectId: string): Held<Location> | undefined {
  return held.locations.find((location) => location.id === objectId)
}

function placesOf(index: BaselineIndex, address: Address): string[] {
  return placeOf(address, index.baseline.jurisdictions)
    .jurisdictions.filter((j) => index.levies(j.id))
    .map((j) => j.name)
}

function dayOf(cutOff: string | null): string {
  return cutOff ?? 'midnight'
}
