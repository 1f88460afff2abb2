import type { LinkKind, TaxRate } from '@axion/contract'
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
  type BaselineIndex,
  type Determination,
  type MinorUnits,
  type TaxDocument,
} from '@axion/core'
import type { Aligned } from './aligned.ts'
import { departingPercents } from './compare.ts'
import type { Departing } from './departing.ts'
import type { Held, HeldSystem } from './held.ts'

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

/** A system as it is held, and as it stands beside the baseline. */
export interface StakedSystem {
  readonly held: HeldSystem
  readonly aligned: Aligned
}

/** A system's rates that a document is taxed by: its own source's that it names, and the ledger's that stand for the baseline's. */
function concerned(staked: StakedDocument, { held, aligned }: StakedSystem): readonly Held<TaxRate>[] {
  if (held.row.role === 'ledger') return staked.rates.flatMap((rate) => aligned.ratesFor(rate))
  if (held.row.system_id !== staked.systemId) return []
  return [...staked.rateIds].flatMap((id) => aligned.rate(id) ?? [])
}

/** What of a document's tax each system's departures from the baseline put at stake. */
export function stakesOf(
  staked: StakedDocument,
  systems: readonly StakedSystem[],
  index: BaselineIndex,
  departing: Departing,
): Stake[] {
  const { document, determination } = staked
  if (!determination.complete) return []
  return [
    ...ownStakes(staked, index, departing),
    ...saleStakes(staked),
    ...systems.flatMap((system) => {
      const { held, aligned } = system
      const systemId = held.row.system_id
      const rates = concerned(staked, system).map(({ id }): Stake => ({
        findingKey: findingKey(systemId, 'combined-rate', id),
        amount: rateStake(staked, id, aligned, index),
      }))
      // Accounts are a ledger's alone: of other systems nothing is asked that their own documents do not name.
      const astray = held.row.role === 'ledger' ? aligned.astray(document.documentDate) : []
      const agencies = astray.map(({ id, agencyId }): Stake => ({
        findingKey: findingKey(systemId, 'agency', id),
        amount: stakeOfAgency(determination, agencyId),
      }))
      return [...rates, ...agencies, ...placeStake(staked, held, index)]
    }),
  ].filter((stake) => stake.amount !== 0n)
}

/** What a system's rate puts at stake by being another than the baseline's that it stands for; unless it stands for one, than the document's own. */
function rateStake(
  { document, determination, rates: [own] }: StakedDocument,
  id: string,
  aligned: Aligned,
  index: BaselineIndex,
): MinorUnits {
  const rate = index.combinedRate(aligned.rateOf(id) ?? own ?? null)
  const compared = rate ? aligned.compared(id, rate.id, document.supplyDate) : null
  if (!rate || !compared || compared.agrees) return 0n
  if (compared.flat) return stakeOfLostSplit(determination)
  const percents = departingPercents(compared)
  return stakeOfPercents(document, determination, { percents, itemTaxCode: rate.itemTaxCode }, index)
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
  departing: Departing,
): Stake[] {
  const lines = [...itemCodes].flatMap(([lineId, code]) => {
    const found = departing.item(systemId, code)
    return found ? [{ lineId, ...found }] : []
  })
  const byItem = [...groupBy(lines, (line) => line.objectId)].map(([objectId, of]): Stake => ({
    findingKey: findingKey(systemId, 'item', objectId),
    amount: stakeOfCodes(document, determination, new Map(of.map((line) => [line.lineId, line.code])), index),
  }))
  const exempted = departing.party(systemId, party)
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
