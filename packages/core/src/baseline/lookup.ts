import type { Percent } from '../money/decimal.ts'
import type {
  Agency,
  Baseline,
  CodeRule,
  CombinedRate,
  Jurisdiction,
  PostingKind,
  PostingRule,
  RateVersion,
  Registration,
  RegionRounding,
} from './baseline.ts'
import { covers, type DateRange, type IsoDate } from './dates.ts'

/** A baseline indexed once, then asked by key and date. Holds no state beyond its indexes. */
export interface BaselineIndex {
  readonly baseline: Baseline
  agency(id: string): Agency | undefined
  jurisdiction(id: string): Jurisdiction | undefined
  itemTaxCodeOf(itemCode: string): string | undefined
  rateOn(jurisdictionId: string, date: IsoDate): RateVersion | undefined
  levies(jurisdictionId: string): boolean
  /** The rule of the jurisdiction, or of the nearest one around it. */
  codeRuleOn(jurisdictionId: string, itemTaxCode: string, date: IsoDate): CodeRule | undefined
  registrationOn(agencyId: string, date: IsoDate): Registration | undefined
  roundingOn(jurisdictionId: string, date: IsoDate): RegionRounding | undefined
  postingRuleOn(kind: PostingKind, agencyId: string | null, date: IsoDate): PostingRule | undefined
  /** The combined rate made of exactly these jurisdictions on a date. */
  combinedRateOf(jurisdictionIds: readonly string[], date: IsoDate): CombinedRate | undefined
  componentsOn(rate: CombinedRate, date: IsoDate): readonly RateComponent[]
}

/** One component of a combined rate on a date; the percent is null where no version covers the date. */
export interface RateComponent {
  readonly jurisdictionId: string
  readonly agencyId: string
  readonly percent: Percent | null
}

export function indexBaseline(baseline: Baseline): BaselineIndex {
  const agencies = byId(baseline.agencies)
  const jurisdictions = byId(baseline.jurisdictions)
  const items = byId(baseline.items)
  const rates = groupBy(baseline.rateVersions, (v) => v.jurisdictionId)
  const rules = groupBy(baseline.codeRules, (r) => key(r.jurisdictionId, r.itemTaxCode))
  const registrations = groupBy(baseline.registrations, (r) => r.agencyId)
  const roundings = groupBy(baseline.roundings, (r) => r.jurisdictionId)
  const postings = groupBy(baseline.postingRules, (r) => key(r.kind, r.agencyId ?? ''))
  const combined = groupBy(baseline.combinedRates, (r) => jurisdictionSet(r.jurisdictionIds))

  const upwards = <T>(from: string, find: (jurisdictionId: string) => T | undefined): T | undefined => {
    for (let at = jurisdictions.get(from); at; at = at.parentId === null ? undefined : jurisdictions.get(at.parentId)) {
      const found = find(at.id)
      if (found) return found
    }
    return undefined
  }
  const rateOn = (id: string, date: IsoDate): RateVersion | undefined => onDate(rates.get(id), date)

  return {
    baseline,
    agency: (id) => agencies.get(id),
    jurisdiction: (id) => jurisdictions.get(id),
    itemTaxCodeOf: (itemCode) => items.get(itemCode)?.itemTaxCode,
    rateOn,
    levies: (id) => rates.has(id),
    codeRuleOn: (id, code, date) => upwards(id, (at) => onDate(rules.get(key(at, code)), date)),
    registrationOn: (agencyId, date) => onDate(registrations.get(agencyId), date),
    roundingOn: (id, date) => upwards(id, (at) => onDate(roundings.get(at), date)),
    postingRuleOn: (kind, agencyId, date) => onDate(postings.get(key(kind, agencyId ?? '')), date),
    combinedRateOf: (ids, date) => onDate(combined.get(jurisdictionSet(ids)), date),
    componentsOn: (rate, date) =>
      rate.jurisdictionIds.map((jurisdictionId) => ({
        jurisdictionId,
        agencyId: jurisdictions.get(jurisdictionId)?.agencyId ?? '',
        percent: rateOn(jurisdictionId, date)?.percent ?? null,
      })),
  }
}

function jurisdictionSet(ids: readonly string[]): string {
  return [...ids].sort().join('\n')
}

function key(...parts: readonly string[]): string {
  return parts.join('\n')
}

function byId<T extends { readonly id: string }>(rows: readonly T[]): ReadonlyMap<string, T> {
  return new Map(rows.map((row) => [row.id, row]))
}

/** Groups rows by a text key, keeping their order. */
export function groupBy<T>(rows: Iterable<T>, keyOf: (row: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>()
  for (const row of rows) {
    const group = groups.get(keyOf(row))
    if (group) group.push(row)
    else groups.set(keyOf(row), [row])
  }
  return groups
}

function onDate<T extends { readonly valid: DateRange }>(versions: readonly T[] | undefined, date: IsoDate): T | undefined {
  return versions?.find((version) => covers(version.valid, date))
}
