import { foldCity } from '../determination/place.ts'
import type { CombinedRate, Cover, Jurisdiction } from './baseline.ts'
import { overlap } from './dates.ts'
import { groupBy } from './lookup.ts'

/** Two of a kind that are the same in something where only one may be. */
export interface Overlap {
  readonly ids: readonly string[]
  readonly what: string
}

/**
 * Jurisdictions of one level that cover the same addresses equally narrowly: of an address there nobody could say in which it lies (K3).
 * Districts stack, and what is narrower in one than in the other is decided by that.
 */
export function overlappingPlaces(jurisdictions: readonly Jurisdiction[]): Overlap[] {
  const covers = jurisdictions
    .filter(({ level }) => level !== 'district')
    .flatMap((j) => j.covers.map((cover) => ({ id: j.id, level: j.level, cover })))
  const near = groupBy(covers, ({ level, cover }) => JSON.stringify([level, ...decidingOf(cover)]))
  return [...near.values()].flatMap((some) => {
    const clashing = some.filter((one) =>
      some.some((other) => other.id !== one.id && meet(one.cover, other.cover)),
    )
    const [first] = clashing
    return first
      ? [{ ids: [...new Set(clashing.map(({ id }) => id))].sort(), what: placeText(first.cover) }]
      : []
  })
}

/** How narrow a cover is, and by what. */
function decidingOf({ country, region, city, postalCode, plus4 }: Cover): readonly string[] {
  if (postalCode !== undefined) return [country, plus4 === undefined ? 'postal code' : '+4', postalCode]
  if (city !== undefined) return [country, 'city', foldCity(city)]
  return region === undefined ? [country] : [country, 'region', region]
}

/** Whether covers that are equally narrow have an address in common. */
function meet(a: Cover, b: Cover): boolean {
  return (
    isEither(a.region, b.region) &&
    isEither(a.city && foldCity(a.city), b.city && foldCity(b.city)) &&
    (a.plus4 === undefined ||
      b.plus4 === undefined ||
      (a.plus4.from <= b.plus4.to && b.plus4.from <= a.plus4.to))
  )
}

/** What one leaves open, the other may say. */
function isEither(a: string | undefined, b: string | undefined): boolean {
  return a === undefined || b === undefined || a === b
}

/** A place as one line, narrowest first. */
function placeText({ country, region, city, postalCode, plus4 }: Cover): string {
  const narrowest = plus4 ? `${postalCode ?? ''} ${plus4.from} to ${plus4.to}` : postalCode
  return [narrowest, city, region, country].filter((part) => part !== undefined).join(', ')
}

/** Rates of the same places on some of the same days: two of them, and nobody could say which is meant. */
export function sameRates(rates: readonly CombinedRate[]): Overlap[] {
  const alike = groupBy(rates, ({ jurisdictionIds, itemTaxCode }) =>
    JSON.stringify([[...jurisdictionIds].sort(), itemTaxCode]),
  )
  return [...alike.values()].flatMap((same) => {
    const twice = same.filter((one) =>
      same.some((other) => other.id !== one.id && overlap(one.valid, other.valid)),
    )
    const [first] = twice
    return first
      ? [
          {
            ids: [...new Set(twice.map(({ id }) => id))].sort(),
            what: [...first.jurisdictionIds].sort().join(', '),
          },
        ]
      : []
  })
}
