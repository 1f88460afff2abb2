import type { LinkKind } from '@axion/contract'
import {
  absolute,
  sum,
  stakeOfAgency,
  stakeOfCodes,
  stakeOfExemption,
  stakeOfLostSplit,
  stakeOfPercents,
  stakeOfPlace,
  groupBy,
  remembered,
  type BaselineIndex,
  type Determination,
  type MinorUnits,
  type TaxDocument,
} from '@axion/core'
import { compareAgency, compareRate, departingPercents } from './compare.ts'
import type { Crosswalk } from './crosswalk.ts'
import { keyOf, type Departing } from './departing.ts'
import type { HeldSystem } from './held.ts'

export interface Stake {
  readonly findingKey: string
  readonly amount: MinorUnits
}

export function findingKey(systemId: string, kind: LinkKind, objectId: string): string {
  return `${systemId}|${kind}|${objectId}`
}

/** A document as the stakes need it: with the rates that its source put on it. */
export interface StakedDocument {
  readonly document: TaxDocument
  readonly determination: Determination
  readonly systemId: string
  readonly rateIds: ReadonlySet<string>
  /** The tax that the source charged. */
  readonly stated: MinorUnits
  /** The baseline's combined rates that it carries. */
  readonly rates: readonly string[]
  /** The party, and the items by line, as the source names them. */
  readonly party: string
  readonly itemCodes: ReadonlyMap<string, string>
  /** The outlet of a counter sale, as the source names it. */
  readonly locationId?: string | null
}

/** What a system's rates and agencies come to beside the baseline, on a date: documents ask for the same again and again. */
const COMPARED = new WeakMap<Crosswalk, Map<string, ReturnType<typeof compareRate>>>()
const ASTRAY = new WeakMap<
  Crosswalk,
  Map<string, readonly { readonly id: string; readonly agencyId: string }[]>
>()
const BY_RATE = new WeakMap<Crosswalk, Map<string, ReadonlyMap<string, HeldSystem['rates']>>>()

/** A system's rates that a document is taxed by: its own source's that it names, and the ledger's that stand for the baseline's. */
function concerned(staked: StakedDocument, held: HeldSystem, crosswalk: Crosswalk): HeldSystem['rates'] {
  if (held.row.role === 'ledger') {
    const byRate = remembered(BY_RATE, crosswalk, 'baseline', () =>
      groupBy(held.rates, ({ id }) => crosswalk.rateOf(id) ?? ''),
    )
    return staked.rates.flatMap((rate) => byRate.get(rate) ?? [])
  }
  if (held.row.system_id !== staked.systemId) return []
  const own = remembered(BY_RATE, crosswalk, 'own', () => groupBy(held.rates, ({ id }) => id))
  return [...staked.rateIds].flatMap((id) => own.get(id) ?? [])
}

/** What of a document's tax each system's departures from the baseline put at stake. */
export function stakesOf(
  staked: StakedDocument,
  systems: readonly { readonly held: HeldSystem; readonly crosswalk: Crosswalk }[],
  index: BaselineIndex,
  departing: Departing,
): Stake[] {
  const { document, determination } = staked
  if (!determination.complete) return []
  const date = document.supplyDate
  const [own] = staked.rates
  const ofSource = [...ownStakes(staked, index, departing), ...saleStakes(staked)]
  return [
    ...ofSource,
    ...systems.flatMap(({ held, crosswalk }) => {
      const systemId = held.row.system_id
      const rates = concerned(staked, held, crosswalk).map(({ id, value }): Stake => {
        const key = findingKey(systemId, 'combined-rate', id)
        const rate = index.combinedRate(crosswalk.rateOf(id) ?? own ?? null)
        if (!rate) return { findingKey: key, amount: 0n }
        const compared = remembered(COMPARED, crosswalk, `${id}|${rate.id}|${date}`, () =>
          compareRate(rate, value, { agencyOf: crosswalk.agencyOf, index, date }),
        )
        if (compared.flat) return { findingKey: key, amount: stakeOfLostSplit(determination) }
        return {
          findingKey: key,
          amount: compared.agrees
            ? 0n
            : stakeOfPercents(
                document,
                determination,
                { percents: departingPercents(compared), itemTaxCode: rate.itemTaxCode },
                index,
              ),
        }
      })
      const on = document.documentDate
      const departing = remembered(ASTRAY, crosswalk, on, () =>
        held.agencies.flatMap(({ id, value }) => {
          const agencyId = crosswalk.agencyOf(id)
          return agencyId === null || compareAgency(agencyId, value, { system: held, index, date: on }).agrees
            ? []
            : [{ id, agencyId }]
        }),
      )
      const agencies = departing.map(({ id, agencyId }): Stake => ({
        findingKey: findingKey(systemId, 'agency', id),
        amount: stakeOfAgency(determination, agencyId),
      }))
      return [...rates, ...agencies, ...placeStake(staked, held, index)]
    }),
  ].filter((stake) => stake.amount !== 0n)
}

/** The key of what sales to a party put at stake by its certificates: sold without tax and without one, or taxed in spite of one. */
export function salesKey(partyId: string, of: 'without' | 'in-spite'): string {
  return `sales|party|${partyId}|${of}`
}

/** Sales to a party that claims or proves an exemption, charged against what its certificates say. */
function saleStakes({ document, determination, stated }: StakedDocument): Stake[] {
  const party = document.partyId
  if (party === null || document.purchase === true) return []
  const expected = absolute(sum(determination.rows.map((row) => row.tax)))
  const charged = absolute(stated)
  const unproved = determination.findings.some(
    (finding) => finding.code === 'AXION_EXEMPTION_WITHOUT_CERTIFICATE',
  )
  const freed = determination.rows.some((row) => row.reason === 'certificate')
  return [
    ...(unproved && charged < expected
      ? [{ findingKey: salesKey(party, 'without'), amount: expected - charged }]
      : []),
    ...(freed && charged > expected
      ? [{ findingKey: salesKey(party, 'in-spite'), amount: charged - expected }]
      : []),
  ]
}

/** A counter sale taxed where its system has the outlet, and not where the baseline has it. */
function placeStake(
  { document, determination, systemId, locationId }: StakedDocument,
  held: HeldSystem,
  index: BaselineIndex,
): Stake[] {
  if (locationId == null || held.row.system_id !== systemId || document.outlet == null) return []
  const address = held.outletOf(locationId)
  return address
    ? [
        {
          findingKey: findingKey(systemId, 'location', locationId),
          amount: stakeOfPlace(document, determination, address, index),
        },
      ]
    : []
}

/** What its own source's items and parties put at stake. */
function ownStakes(
  { document, determination, systemId, party, itemCodes }: StakedDocument,
  index: BaselineIndex,
  { items, parties }: Departing,
): Stake[] {
  const lines =
    items.size === 0
      ? []
      : [...itemCodes].flatMap(([lineId, code]) => {
          const found = items.get(keyOf(systemId, code))
          return found ? [{ lineId, ...found }] : []
        })
  const byItem = [...groupBy(lines, (line) => line.objectId)].map(([objectId, of]): Stake => ({
    findingKey: findingKey(systemId, 'item', objectId),
    amount: stakeOfCodes(document, determination, new Map(of.map((line) => [line.lineId, line.code])), index),
  }))
  const exempted = parties.get(keyOf(systemId, party))
  return exempted
    ? [
        ...byItem,
        {
          findingKey: findingKey(systemId, 'party', exempted.objectId),
          amount: stakeOfExemption(document, determination, exempted.certificates, index),
        },
      ]
    : byItem
}
