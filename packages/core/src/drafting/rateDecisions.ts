import type { IsoDate } from '../baseline/dates.ts'
import { foldName } from '../crosswalk/folding.ts'
import { chosenAmong, namesOf, standingOf, type Decision, type Doubt, type Option } from './decision.ts'
import type { Levying } from './levying.ts'
import { Codes, namedIn } from './naming.ts'
import type { DraftedPlace, Places } from './places.ts'
import { salesOf } from './observed.ts'
import { counterpart, isNil, type RateMet, type RateThing } from './rates.ts'

/** The combined rates, each with what it is made of; one that holds where nobody sold anything yet is made of known places, or of none. */
export function rateDecisions({
  given,
  rates,
  regions,
  places,
  codes: treated,
  choices,
}: Levying): Decision[] {
  const codes = new Codes()
  const made = new Map<string, Made>()
  for (const { rates: cells } of regions)
    for (const [cell, held] of cells)
      for (const { rate } of held) note(made, rate, places.of(rate, cell), null)
  for (const { code, ownRates, region } of treated)
    for (const [cell, rate] of ownRates) {
      const standard = regions.find((one) => one.region === region)?.rates.get(cell)
      const under = standard?.at(-1)?.rate
      if (under) note(made, rate, reducedPlaces(rate, under, cell, places), code)
    }
  for (const rate of rates.all)
    // What taxes nothing holds everywhere, and is no rate of any place.
    if (!isNil(rate.leading, given.seen.to) && ![...made.values()].some(({ rates: of }) => of.includes(rate)))
      note(made, rate, elsewhere(rate, places), null)
  const taken = new Set<string>()
  return [...made.values()].flatMap((one): Decision[] => {
    const members = one.rates
      .flatMap(({ members: of }) => of)
      .filter(({ holderId, id }) => !taken.has(`${holderId}/${id}`))
    members.forEach(({ holderId, id }) => taken.add(`${holderId}/${id}`))
    const active = members.filter(({ rate }) => rate.active)
    if (active.length === 0 && one.places.length === 0) return []
    const own = one.places
      .map((place) => place.code)
      .sort()
      .join('\n')
    const agreed = [
      ...members.map(({ holderId, id }) => given.linked('combined-rate', holderId, id)),
      // What is made of the same places is the same rate, whatever it is called.
      given.known.combinedRates.find(
        (rate) => rate.itemTaxCode === one.itemTaxCode && [...rate.jurisdictionIds].sort().join('\n') === own,
      )?.id ?? null,
      ...members.map((member) => namedIn(given.known.combinedRates, member.name)),
    ]
    const name = one.rates[0]?.leading.name.trim() ?? ''
    const code = codes.give(name, ...agreed, ...members.map((member) => member.code))
    const key = `rate:${code}`
    const [options, doubts] = optionsOf({ code, name, made: one, members, since: given.seen.from })
    return [
      {
        key,
        about: 'rate',
        name,
        called: namesOf(members.map((member) => member.name)),
        doubts,
        standing: standingOf(doubts, options[0]?.holders ?? []),
        options,
        chosen: chosenAmong(key, options, choices),
        needs: [
          ...one.places.map((place) => `place:${place.code}`),
          ...(one.itemTaxCode === null ? [] : [`code:${one.itemTaxCode}`]),
        ],
        rests: salesOf(
          regions.flatMap(({ observations }) =>
            observations.filter((o) => o.rate !== null && one.rates.includes(o.rate)),
          ),
        ),
        against: [],
      },
    ]
  })
}

interface Made {
  readonly places: readonly DraftedPlace[]
  readonly itemTaxCode: string | null
  readonly rates: RateMet[]
}

function note(
  made: Map<string, Made>,
  rate: RateMet,
  places: readonly DraftedPlace[],
  itemTaxCode: string | null,
): void {
  const key =
    places.length === 0
      ? `?${rate.id}`
      : `${places
          .map(({ code }) => code)
          .sort()
          .join('\n')}|${itemTaxCode ?? ''}`
  const known = made.get(key)
  if (!known) made.set(key, { places, itemTaxCode, rates: [rate] })
  else if (!known.rates.includes(rate)) known.rates.push(rate)
}

/** The places of a rate that stands in for another: those whose agencies it names. */
function reducedPlaces(rate: RateMet, under: RateMet, cell: string, places: Places): DraftedPlace[] {
  const own = new Set((rate.leading.parts ?? []).map(({ agency }) => agency))
  return places.of(under, cell).filter(({ levied: of }) => of !== null && own.has(of.agency))
}

/** A rate that no document bears: its components are those of other rates, or nobody knows where it holds. */
function elsewhere(rate: RateMet, places: Places): DraftedPlace[] {
  const found = (rate.leading.parts ?? []).map((part) => {
    const like = places.all.filter(
      ({ levied: of }) =>
        of?.agency === part.agency &&
        foldName(of.name) === foldName(part.name) &&
        of.within.some(({ part: known }) => known.versions.at(-1)?.percent === part.versions.at(-1)?.percent),
    )
    return like.length === 1 ? like[0] : undefined
  })
  return found.every((place) => place !== undefined) ? found : []
}

function optionsOf({
  code,
  name,
  made,
  members,
  since,
}: {
  readonly code: string
  readonly name: string
  readonly made: Made
  readonly members: readonly RateThing[]
  readonly since: IsoDate
}): [Option[], Doubt[]] {
  if (made.places.length === 0) return [[], ['no-place']]
  const leading = made.rates[0]?.leading
  const differ = members.some(
    (member) =>
      member.parts !== null &&
      leading?.parts != null &&
      (member.parts.length !== leading.parts.length ||
        leading.parts.some((part) => counterpart(member, leading, part) === undefined)),
  )
  const doubts: Doubt[] = [
    ...new Set([
      ...made.rates.flatMap((rate) => rate.doubts),
      ...(differ ? (['other-components'] as const) : []),
    ]),
  ]
  return [
    [
      {
        key: 'made',
        holders: members.filter(({ parts }) => parts !== null).map(({ holderId }) => holderId),
        parts: {
          combinedRates: [
            {
              id: code,
              code,
              name,
              jurisdictionIds: made.places.map((place) => place.code),
              itemTaxCode: made.itemTaxCode,
              valid: { from: since, to: null },
            },
          ],
        },
        links: members.map(({ holderId, id }) => ({
          kind: 'combined-rate' as const,
          holderId,
          objectId: id,
          baselineId: code,
        })),
      },
    ],
    doubts,
  ]
}
