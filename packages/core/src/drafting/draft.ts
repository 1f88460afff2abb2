import type { PostingRule } from '../baseline/postingRule.ts'
import type { Baseline, Certificate } from '../baseline/baseline.ts'
import type { Registration } from '../baseline/registering.ts'
import { indexBaseline, type BaselineIndex } from '../baseline/lookup.ts'
import { groupBy } from '../baseline/lookup.ts'
import { draftAgencies } from './agencies.ts'
import { codeDecisions } from './codeDecisions.ts'
import { itemDecisions, partyDecisions } from './itemDecisions.ts'
import { partsOf, type Choices, type Decision, type DraftedParts } from './decision.ts'
import { explains, type Reading } from './explain.ts'
import type { Given, Sale } from './given.ts'
import { ownDecisions, postingDecisions } from './houseDecisions.ts'
import type { Levying } from './levying.ts'
import { agencyDecisions, placeDecisions } from './placeDecisions.ts'
import { rateDecisions } from './rateDecisions.ts'
import { taxCodeOf } from './naming.ts'
import { codesOf, observe } from './observed.ts'
import { draftPlaces } from './places.ts'
import { draftRates } from './rates.ts'
import { readRegion } from './standards.ts'
import { treatmentsIn } from './treatments.ts'
import { waysDecisions } from './waysDecisions.ts'

/** A baseline as it can be read out of what systems hold, decision by decision. */
export interface Draft {
  readonly decisions: readonly Decision[]
  /** Whether a baseline comes to what a document's system charged, as if its agencies had registered the entity and its claimants had certificates. */
  explainedBy(baseline: Baseline): (sale: Sale) => boolean
}

/** Nobody agreed on anything yet. */
export const NOTHING_AGREED: Baseline = {
  homeAddress: null,
  agencies: [],
  jurisdictions: [],
  rateVersions: [],
  combinedRates: [],
  itemTaxCodes: [],
  items: [],
  codeRules: [],
  registrations: [],
  roundings: [],
  regionRules: [],
  parties: [],
  certificates: [],
  postingRules: [],
  thresholds: [],
  collecting: [],
  paymentMethods: [],
  locations: [],
  dimensions: [],
  defaults: { itemTaxCode: null, partiesTaxable: null, newItems: 'left-open' },
  lineRules: [],
}

/**
 * Drafts a baseline from what systems hold and charged (K15, K17). What several say alike is agreed by them, and not right for that; what
 * nobody can tell is open.
 */
export function draftBaseline(given: Given, choices: Choices = new Map()): Draft {
  const agencies = draftAgencies(given)
  const rates = draftRates(given, agencies)
  const codeOf = codesOf(given.holders)
  const observations = observe(given, rates, codeOf)
  const defaults = new Set(
    given.holders.flatMap(({ defaultItemTaxCode: code }) => (code === null ? [] : [taxCodeOf(code)])),
  )
  const regions = [...groupBy(observations, (o) => o.cell.region)]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([region, of]) => readRegion(region, of, defaults))
  const places = draftPlaces(given, regions)
  const codes = regions.flatMap((region) => treatmentsIn(region, places, given.currency))
  const levying: Levying = { given, agencies, rates, regions, places, codes, choices }
  const parties = partyDecisions(levying)
  const items = itemDecisions(levying)
  const reading: Reading = { agencies, itemOf: itemsBy(items, given), partyOf: partiesBy(parties) }
  const levies = [
    ...agencyDecisions(levying),
    ...placeDecisions(levying),
    ...rateDecisions(levying),
    ...codeDecisions(levying),
    ...items,
    ...parties,
  ]
  const drafted = baselineOf(partsOf(levies.filter((one) => !isSettled(one, given.known))), given.known)
  const ways = waysDecisions(levying, assumedIndex(drafted), reading)
  const all = [...levies, ...ways, ...ownDecisions(levying), ...postingDecisions(levying)]
  return {
    decisions: all.filter((one) => !isSettled(one, given.known)),
    explainedBy: (baseline) => {
      const index = assumedIndex(baseline)
      return (sale) => explains(sale, index, reading)
    },
  }
}

/** Whether the baseline has what a decision is about. */
function isSettled({ options, about, name }: Decision, known: Baseline): boolean {
  const parts = options[0]?.parts ?? {}
  const has = (of: keyof DraftedParts, isIt: (one: never, other: never) => boolean): boolean =>
    ((parts[of] ?? []) as readonly never[]).some((one) =>
      (known[of] as readonly never[]).some((other) => isIt(one, other)),
    )
  const sameId = (one: { readonly id: string }, other: { readonly id: string }): boolean =>
    one.id === other.id
  const samePlace = (
    one: { readonly jurisdictionId: string },
    other: { readonly jurisdictionId: string },
  ): boolean => one.jurisdictionId === other.jurisdictionId
  switch (about) {
    case 'rounding':
      return has('roundings', samePlace)
    case 'region':
      return has('regionRules', samePlace)
    case 'posting':
      return has(
        'postingRules',
        (one: PostingRule, other: PostingRule) =>
          one.kind === other.kind && one.agencyId === other.agencyId && other.only === null,
      )
    case 'rate':
      return options.length === 0
        ? known.combinedRates.some((rate) => rate.name === name)
        : has('combinedRates', sameId)
    case 'agency':
    case 'place':
    case 'code':
    case 'item':
    case 'party':
    case 'method':
    case 'location':
      return has(PART_OF[about], sameId)
  }
}

const PART_OF = {
  agency: 'agencies',
  place: 'jurisdictions',
  code: 'itemTaxCodes',
  item: 'items',
  party: 'parties',
  method: 'paymentMethods',
  location: 'locations',
} as const

/** The baseline that parts come to by themselves, or beside another. */
export function baselineOf(parts: DraftedParts, onto: Baseline = NOTHING_AGREED): Baseline {
  return {
    ...onto,
    ...Object.fromEntries(
      Object.entries(parts).map(([name, rows]) => [
        name,
        [...(onto[name as keyof DraftedParts] as readonly unknown[]), ...(rows as readonly unknown[])],
      ]),
    ),
  }
}

/** As if each agency had registered the entity, and everybody who claims an exemption had shown a certificate: numbers and dates are asked, and not drafted. */
function assumedIndex(baseline: Baseline): BaselineIndex {
  const valid = { from: '0001-01-01', to: null }
  const known = new Set(baseline.registrations.map(({ agencyId }) => agencyId))
  const shown = new Set(baseline.certificates.map(({ partyId }) => partyId))
  return indexBaseline({
    ...baseline,
    registrations: [
      ...baseline.registrations,
      ...baseline.agencies
        .filter(({ id }) => !known.has(id))
        .map(({ id }): Registration => ({
          id,
          agencyId: id,
          number: '',
          basis: null,
          frequency: null,
          valid,
        })),
    ],
    certificates: [
      ...baseline.certificates,
      ...baseline.parties.flatMap((party): Certificate[] =>
        party.claims === null || shown.has(party.id)
          ? []
          : [
              {
                id: party.id,
                number: '',
                partyId: party.id,
                reason: party.claims,
                regionIds: baseline.jurisdictions.map(({ id }) => id),
                valid,
              },
            ],
      ),
    ],
  })
}

/** By the codes that documents name items with. */
function itemsBy(decisions: readonly Decision[], { holders }: Given): Reading['itemOf'] {
  const standsFor = linkedBy(decisions)
  const codes = new Map(
    holders.flatMap(({ id, items }) =>
      items.map((item) => [`${id}/${item.code}`, standsFor(id, item.id) ?? item.code] as const),
    ),
  )
  return (holderId, itemCode) => codes.get(`${holderId}/${itemCode}`) ?? itemCode
}

function partiesBy(decisions: readonly Decision[]): Reading['partyOf'] {
  const standsFor = linkedBy(decisions)
  return (holderId, id) => standsFor(holderId, id) ?? id
}

/** What a system's object stands for by the links of decisions of one kind; the same by every answer. */
function linkedBy(decisions: readonly Decision[]): (holderId: string, id: string) => string | undefined {
  const links = new Map(
    decisions.flatMap(({ options }) =>
      (options[0]?.links ?? []).map(
        (link) => [`${link.holderId}/${link.objectId}`, link.baselineId] as const,
      ),
    ),
  )
  return (holderId, id) => links.get(`${holderId}/${id}`)
}
