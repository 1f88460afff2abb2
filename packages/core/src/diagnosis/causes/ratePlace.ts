import type { Address, Jurisdiction } from '../../baseline/baseline.ts'
import { sourcedAt, type Sourced } from '../../determination/sourcing.ts'
import { assuming, type Cause, type Recomputable } from './cause.ts'

export const RATE_PLACES = ['origin', 'destination', 'outlet', 'party', 'entity'] as const
export type RatePlace = (typeof RATE_PLACES)[number]

/** The rates of another place. */
export interface OtherPlace {
  readonly kind: 'rate-place'
  readonly place: RatePlace
  /** With that place's certificates, discount and rounding as well. */
  readonly whole: boolean
}

export const ratePlace: Cause<OtherPlace, { readonly place: RatePlace }> = {
  kind: 'rate-place',
  rank: () => 13,
  key: (a) => [a.place],
  candidates: () =>
    RATE_PLACES.flatMap((place) =>
      [false, true].map((whole) => ({ kind: 'rate-place', place, whole }) as const),
    ),
  apply: (a, on, of) => {
    const place = sourcedFrom(a.place, of)
    return place && assuming(on, a.whole ? { place } : { jurisdictions: place.jurisdictions })
  },
  facts: ({ place }) => ({ place }),
  says: (f) => `${f.system} used the rates of ${PLACE[f.place]}.`,
}

const PLACE: Readonly<Record<RatePlace, string>> = {
  origin: 'where it was shipped from',
  destination: 'where it was shipped to',
  outlet: 'the outlet that sold it',
  party: 'the customer’s own address',
  entity: 'where the entity is at home',
}

function sourcedFrom(place: RatePlace, { document, determination, index }: Recomputable): Sourced | null {
  const party = document.partyId === null ? undefined : index.party(document.partyId)
  const rated = document.original?.document ?? document
  const address: Address | null = {
    origin: rated.shipFrom,
    destination: rated.shipTo,
    outlet: rated.outlet ?? null,
    party: party?.address ?? null,
    entity: index.baseline.homeAddress,
  }[place]
  if (!address) return null
  const sourced = sourcedAt(address, rated.supplyDate, index)
  const same = sameJurisdictions(sourced.jurisdictions, determination.jurisdictions)
  return sourced.findings.length > 0 || same ? null : sourced
}

function sameJurisdictions(a: readonly Jurisdiction[], b: readonly Jurisdiction[]): boolean {
  return a.length === b.length && a.every(({ id }, at) => id === b[at]?.id)
}
