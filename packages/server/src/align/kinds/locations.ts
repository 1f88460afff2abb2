import { findingOf, type Location } from '@axion/contract'
import { describe, placeOf, type Address, type BaselineIndex } from '@axion/core'
import { canonical } from '../../database/connection.ts'
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
    const facts = { name: row.name, system: held.row.name }
    const [here, there] = [placesOf(index, ours.address), placesOf(index, theirs.address)]
    const sameDay = theirs.cutOff === ours.cutOff && theirs.timeZone === ours.timeZone
    const sameAddress = canonical(theirs.address) === canonical(ours.address)
    const found: Found[] = [
      ...(here.join() === there.join()
        ? []
        : [
            findingOf('AXION_LOCATION_JURISDICTION', {
              ...facts,
              ours: here.join(', ') || 'none',
              theirs: there.join(', ') || 'none',
            }),
          ]),
      ...(here.join() === there.join() && !sameAddress
        ? [
            findingOf('AXION_LOCATION_ADDRESS', {
              ...facts,
              ours: describe(ours.address),
              theirs: describe(theirs.address),
            }),
          ]
        : []),
      ...(sameDay
        ? []
        : [
            findingOf('AXION_LOCATION_CUT_OFF', {
              ...facts,
              ours: `${dayOf(ours.cutOff)} in ${ours.timeZone}`,
              theirs: `${dayOf(theirs.cutOff)} in ${theirs.timeZone}`,
            }),
          ]),
    ]
    return {
      agrees: found.length === 0,
      found,
      words:
        here.join() !== there.join()
          ? `in ${there.at(-1) ?? 'no place'}, not ${here.at(-1) ?? 'any'}`
          : !sameDay
            ? `${dayOf(theirs.cutOff)}, not ${dayOf(ours.cutOff)}`
            : !sameAddress
              ? 'another address'
              : dayOf(theirs.cutOff),
      remedies:
        found.length === 0
          ? []
          : [
              ...(held.row.about.takes.includes('locations')
                ? [{ kind: 'send', align: 'locations', systemId: held.row.system_id, objectId } as const]
                : []),
              { kind: 'adopt', align: 'locations', systemId: held.row.system_id, objectId },
            ],
      fields: [
        {
          field: 'Address',
          ours: describe(ours.address),
          theirs: describe(theirs.address),
          agrees: sameAddress,
        },
        {
          field: 'Jurisdictions',
          ours: here.join(', ') || 'none',
          theirs: there.join(', ') || 'none',
          agrees: here.join() === there.join(),
        },
        {
          field: 'Its day ends',
          ours: dayOf(ours.cutOff),
          theirs: dayOf(theirs.cutOff),
          agrees: theirs.cutOff === ours.cutOff,
        },
        {
          field: 'Time zone',
          ours: ours.timeZone,
          theirs: theirs.timeZone,
          agrees: theirs.timeZone === ours.timeZone,
        },
      ],
    }
  },
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
