import { LEVELS, type Address, type Jurisdiction, type RegionRule } from '../baseline/baseline.ts'
import type { IsoDate } from '../baseline/dates.ts'
import type { BaselineIndex } from '../baseline/lookup.ts'
import type { Finding } from '../faults.ts'
import type { TaxDocument } from './document.ts'
import { placeOf } from './place.ts'

export interface Sourced {
  /** From country down to districts. */
  readonly jurisdictions: readonly Jurisdiction[]
  readonly region: Jurisdiction | undefined
  readonly rule: RegionRule | undefined
  readonly findings: readonly Finding[]
}

/**
 * The jurisdictions that may tax a document (K3, step 1): the destination's region gives the sourcing rule. Levels that go by
 * the origin do so for sales within the region; without a ship-from, destination applies. A counter sale is taxed where its outlet is.
 */
export function sourcedTo(document: TaxDocument, index: BaselineIndex): Sourced {
  const { jurisdictions: all } = index.baseline
  const destination = placeOf(document.outlet ?? document.shipTo, all)
  const region = regionOf(destination.jurisdictions)
  const rule = region && index.regionRuleOn(region.id, document.supplyDate)
  if (!rule || rule.originLevels.length === 0 || document.shipFrom === null || document.outlet != null)
    return { ...destination, region, rule }
  const origin = placeOf(document.shipFrom, all)
  if (regionOf(origin.jurisdictions)?.id !== region?.id) return { ...destination, region, rule }
  const byOrigin = (j: Jurisdiction): boolean => rule.originLevels.includes(j.level)
  const jurisdictions = [
    ...destination.jurisdictions.filter((j) => !byOrigin(j)),
    ...origin.jurisdictions.filter(byOrigin),
  ].sort((a, b) => LEVELS.indexOf(a.level) - LEVELS.indexOf(b.level))
  return { jurisdictions, region, rule, findings: [...destination.findings, ...origin.findings] }
}

/** The jurisdictions, region and rule of an address by itself. */
export function sourcedAt(address: Address, date: IsoDate, index: BaselineIndex): Sourced {
  const place = placeOf(address, index.baseline.jurisdictions)
  const region = regionOf(place.jurisdictions)
  return { ...place, region, rule: region && index.regionRuleOn(region.id, date) }
}

export function regionOf(jurisdictions: readonly Jurisdiction[]): Jurisdiction | undefined {
  return jurisdictions.find((j) => j.level === 'region')
}
