import type { RegionRule, RoundingPlace } from '../baseline/baseline.ts'
import type { BaselineIndex } from '../baseline/lookup.ts'
import { otherPlaces } from '../diagnosis/causes/rounding.ts'
import type { Assumed } from '../determination/determination.ts'
import { chosenAmong, standingOf, type Decision, type Doubt, type Option } from './decision.ts'
import { explains, type Reading } from './explain.ts'
import type { Sale } from './given.ts'
import type { Levying } from './levying.ts'
import { claimants } from './observed.ts'
import type { DraftedPlace } from './places.ts'

/** So many documents of a region are tried under every way; all are tried under the one that is drafted. */
const MOST_TRIED = 200

const USUAL: RoundingPlace = { level: 'document', unit: 'combined', tie: 'half-away' }
const ALL_PLACES: readonly RoundingPlace[] = [USUAL, ...otherPlaces(USUAL)]

/** How each region rounds, and what it takes its rates and discounts by, as its documents show. */
export function waysDecisions(levying: Levying, index: BaselineIndex, reading: Reading): Decision[] {
  const { given, places, choices } = levying
  return places.all
    .filter(
      ({ level, parent, code }) =>
        level === 'region' ||
        (level === 'country' &&
          parent === null &&
          !places.all.some((p) => p.parent === code && p.level === 'region')),
    )
    .flatMap((place): Decision[] => {
      const [cover] = place.covers
      const own = given.sales.filter(({ document }) => {
        const { country, region } = document.outlet ?? document.shipTo
        return (
          document.purchase !== true &&
          country === cover?.country &&
          (cover.region === undefined || region === cover.region)
        )
      })
      const taxed = own.filter(
        ({ taxes, document }) => document.kind === 'invoice' && taxes.some(({ tax }) => tax !== 0n),
      )
      const tried = taxed.slice(-MOST_TRIED)
      const count: Count = (assumed, leastWanted = 0) => {
        let missed = 0
        for (const sale of tried)
          if (!explains(sale, index, reading, assumed) && ++missed > tried.length - leastWanted) return -1
        return tried.length - missed
      }
      // Where nothing is charged, nothing shows how, and nothing comes of it.
      return taxed.length === 0
        ? []
        : [rounding(place, { levying, tried, count }), regionRule(place, own, { levying, count, choices })]
    })
}

/** How many documents are explained under an assumption; less than nil as soon as fewer than are wanted can be. */
type Count = (assumed: Assumed, leastWanted?: number) => number

function rounding(
  place: DraftedPlace,
  {
    levying: { given, choices },
    tried,
    count,
  }: {
    readonly levying: Levying
    readonly tried: readonly Sale[]
    readonly count: Count
  },
): Decision {
  const key = `rounding:${place.code}`
  const stated = given.holders.flatMap(({ id, rounding: says, isLedger }) =>
    says === null || isLedger ? [] : [{ id, text: textOf(says), place: says }],
  )
  const ways = new Map(
    [...ALL_PLACES, ...stated.map(({ place: says }) => says)].map((way) => [textOf(way), way]),
  )
  let most = 0
  const counted = [...ways.values()].map((way) => {
    const explained = count({ rounding: way }, most)
    most = Math.max(most, explained)
    return { way, explained }
  })
  const fitting = counted.filter(({ explained }) => explained === most)
  const says = (way: RoundingPlace): string[] =>
    stated.filter(({ text }) => text === textOf(way)).map(({ id }) => id)
  const options = [...fitting]
    .sort((a, b) => says(b.way).length - says(a.way).length)
    .map(({ way }): Option => ({
      key: textOf(way),
      holders: says(way),
      links: [],
      parts: {
        roundings: [
          {
            id: `${place.code}@${given.seen.from}`,
            jurisdictionId: place.code,
            place: way,
            valid: { from: given.seen.from, to: null },
          },
        ],
      },
    }))
  const doubts: Doubt[] = [
    ...(most === 0
      ? (['explains-nothing'] as const)
      : options.length > 1 && (options[0]?.holders.length ?? 0) === 0
        ? (['fit-equally'] as const)
        : []),
    ...(stated.length > 0 && !stated.some(({ text }) => options.some((o) => o.key === text))
      ? (['documents-differ'] as const)
      : []),
  ]
  return {
    ...{
      key,
      about: 'rounding',
      name: place.name,
      called: [],
      doubts,
      standing: standingOf(doubts, options[0]?.holders ?? []),
    },
    ...{ options, chosen: chosenAmong(key, options, choices), needs: [`place:${place.code}`] },
    ...{ rests: tried.map(({ id }) => id), against: [] },
  }
}

function textOf({ level, unit, tie }: RoundingPlace): string {
  return `${level} ${unit} ${tie}`
}

/** By which date and from which end a region taxes: where no document tells, by the destination and the day of supply, as most do. */
function regionRule(
  place: DraftedPlace,
  own: readonly Sale[],
  {
    levying: { given },
    count,
    choices,
  }: {
    readonly levying: Levying
    readonly count: Count
    readonly choices: Levying['choices']
  },
): Decision {
  const key = `region:${place.code}`
  const exempt = claimants(given.holders)
  const claims = new Map(
    given.holders.flatMap(({ parties }) => parties.map((party) => [party.id, party.claims] as const)),
  )
  const reasons = own
    .filter(
      ({ document, taxes }) => exempt.has(document.partyId ?? '') && taxes.every(({ tax }) => tax === 0n),
    )
    .flatMap(({ document }) => claims.get(document.partyId ?? '') ?? [])
  const discounted = own.some(({ document }) => document.discount !== 0n && document.kind === 'invoice')
  const before = discounted ? count({ taxedBeforeDiscount: true }) : 0
  const after = discounted ? count({ taxedBeforeDiscount: false }) : 0
  const rule = (taxedBeforeDiscount: boolean): RegionRule => ({
    id: `${place.code}@${given.seen.from}`,
    jurisdictionId: place.code,
    originLevels: [],
    taxedBy: 'supply-date',
    taxedBeforeDiscount,
    exemptionReasons: [...new Set(reasons)].sort(),
    valid: { from: given.seen.from, to: null },
  })
  const option = (isBefore: boolean): Option => ({
    key: isBefore ? 'before-discount' : 'after-discount',
    holders: [],
    links: [],
    parts: { regionRules: [rule(isBefore)] },
  })
  const options = before > after ? [option(true), option(false)] : [option(false), option(true)]
  const doubts: Doubt[] = discounted && before === after ? ['fit-equally'] : []
  return {
    ...{
      key,
      about: 'region',
      name: place.name,
      called: [],
      doubts,
      standing: standingOf(doubts, []),
      options,
    },
    ...{
      chosen: chosenAmong(key, options, choices),
      needs: [`place:${place.code}`],
      rests: own.map(({ id }) => id),
      against: [],
    },
  }
}
