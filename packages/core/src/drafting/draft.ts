import type { Baseline, Certificate, Registration } from '../baseline/baseline.ts'
import { indexBaseline, type BaselineIndex } from '../baseline/lookup.ts'
import { groupBy } from '../baseline/lookup.ts'
import { draftAgencies } from './agencies.ts'
import { codeDecisions, itemDecisions, partyDecisions } from './codeDecisions.ts'
import { partsOf, type Choices, type Decision, type Parts } from './decision.ts'
import { explains, type Reading } from './explain.ts'
import type { Given, Sale } from './given.ts'
import { ownDecisions, postingDecisions } from './houseDecisions.ts'
import { agencyDecisions, placeDecisions, rateDecisions, type Levying } from './levyDecisions.ts'
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

const NOTHING: Baseline = {
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
  const defaults = new Set(given.holders.flatMap(({ defaultItemTaxCode }) => defaultItemTaxCode ?? []))
  const regions = [...groupBy(observations, (o) => o.cell.region)]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([region, of]) => readRegion(region, of, defaults))
  const places = draftPlaces(given, regions)
  const codes = regions.flatMap((region) => treatmentsIn(region, places))
  const levying: Levying = { given, agencies, rates, regions, places, codes, choices }
  const parties = partyDecisions(levying)
  const reading: Reading = { agencies, codeOf, partyOf: partiesBy(parties) }
  const levies = [
    ...agencyDecisions(levying),
    ...placeDecisions(levying),
    ...rateDecisions(levying),
    ...codeDecisions(levying),
    ...itemDecisions(levying),
    ...parties,
  ]
  const ways = waysDecisions(levying, assumedIndex(baselineOf(partsOf(levies))), reading)
  return {
    decisions: [...levies, ...ways, ...ownDecisions(levying), ...postingDecisions(levying)],
    explainedBy: (baseline) => {
      const index = assumedIndex(baseline)
      return (sale) => explains(sale, index, reading)
    },
  }
}

/** The baseline that parts come to by themselves. */
export function baselineOf(parts: Parts, onto: Baseline = NOTHING): Baseline {
  return {
    ...onto,
    ...Object.fromEntries(
      Object.entries(parts).map(([name, rows]) => [
        name,
        [...(onto[name as keyof Parts] as readonly unknown[]), ...(rows as readonly unknown[])],
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

function partiesBy(decisions: readonly Decision[]): Reading['partyOf'] {
  const links = new Map(
    decisions.flatMap(({ options }) =>
      (options[0]?.links ?? []).map(
        (link) => [`${link.holderId}/${link.objectId}`, link.baselineId] as const,
      ),
    ),
  )
  return (holderId, id) => links.get(`${holderId}/${id}`) ?? id
}
