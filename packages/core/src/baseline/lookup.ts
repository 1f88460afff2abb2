import type { Percent, Ratio } from '../money/decimal.ts'
import type {
  Agency,
  Baseline,
  Certificate,
  CodeRule,
  CombinedRate,
  DimensionValue,
  Item,
  Jurisdiction,
  Location,
  Party,
  RateVersion,
  RegionRounding,
  RegionRule,
} from './baseline.ts'
import type { Registration } from './registering.ts'
import { POSTING_SCOPES, type PostingKind, type PostingRule, type PostingScope } from './postingRule.ts'

import { covers, type DateRange, type IsoDate } from './dates.ts'

/** A baseline indexed once, then asked by key and date. Holds no state beyond its indexes. */
export interface BaselineIndex {
  readonly baseline: Baseline
  agency(id: string): Agency | undefined
  jurisdiction(id: string): Jurisdiction | undefined
  item(code: string): Item | undefined
  /** An item's code on a date; the one that holds last where no date is asked for. */
  itemTaxCodeOf(itemCode: string, date?: IsoDate): string | undefined
  rateOn(jurisdictionId: string, date: IsoDate): RateVersion | undefined
  levies(jurisdictionId: string): boolean
  /** The percent's versions of a jurisdiction, in any order. */
  ratesOf(jurisdictionId: string): readonly RateVersion[]
  /** The rule of the jurisdiction, or of the nearest one around it that may be inherited. */
  codeRule(id: string): CodeRule | undefined
  codeRuleOn(
    jurisdictionId: string,
    itemTaxCode: string,
    date: IsoDate,
    currency?: string,
  ): CodeRule | undefined
  registrationOn(agencyId: string, date: IsoDate): Registration | undefined
  roundingOn(jurisdictionId: string, date: IsoDate): RegionRounding | undefined
  regionRuleOn(jurisdictionId: string, date: IsoDate): RegionRule | undefined
  party(id: string): Party | undefined
  dimension(id: string): DimensionValue | undefined
  location(id: string): Location | undefined
  certificatesOf(partyId: string): readonly Certificate[]
  /** The rule of a kind of amount for an agency, or for one party, item, code, channel or method; with neither it is the default. */
  postingRule(
    kind: PostingKind,
    agencyId: string | null,
    only: { readonly by: PostingScope; readonly id: string } | null,
    date: IsoDate,
  ): PostingRule | undefined
  /** Whether any rule of the kind is for one of these alone. */
  isNarrowed(kind: PostingKind, by: PostingScope): boolean
  /** The default rule of a kind of amount, or an agency's. */
  postingRuleOn(kind: PostingKind, agencyId: string | null, date: IsoDate): PostingRule | undefined
  /** The strongest rule that is for one of these, else the default: by party, then item, then item tax code, then channel, then method. */
  postingRuleFor(kind: PostingKind, of: PostingCircumstances, date: IsoDate): PostingRule | undefined
  combinedRate(id: string | null): CombinedRate | undefined
  /** @param made jurisdictions, sorted, a line each */
  combinedRateMade(made: string, itemTaxCode: string | null, date: IsoDate): CombinedRate | undefined
  /** The combined rate made of exactly these jurisdictions on a date, for an item tax code where one has rates of its own. */
  combinedRateOf(
    jurisdictionIds: readonly string[],
    date: IsoDate,
    itemTaxCode?: string | null,
  ): CombinedRate | undefined
  componentsOn(rate: CombinedRate, date: IsoDate): readonly RateComponent[]
}

/** What an amount is of, as posting rules may be narrowed to it. */
export type PostingCircumstances = Readonly<Partial<Record<PostingScope, string | null>>>

/** One component of a combined rate on a date; the percent is null where no version covers the date. */
export interface RateComponent {
  readonly jurisdictionId: string
  readonly agencyId: string
  readonly percent: Percent | null
  /** Minor units of tax for one unit of quantity; null where the tax is a percent. */
  readonly perUnit: Ratio | null
  /** Of a tax per unit. */
  readonly currency: string | null
  readonly onTopOf: readonly string[]
}

/** A percent or a tax per unit that a rule sets is its jurisdiction's own. */
function isOwn(rule: CodeRule): boolean {
  return rule.treatment === 'reduced' || rule.treatment === 'per-unit'
}

/** What is looked up in the baseline itself, each by its key; all else that an index is asked follows from these. */
export type Lookups = Omit<
  BaselineIndex,
  'itemTaxCodeOf' | 'postingRuleOn' | 'postingRuleFor' | 'combinedRateOf' | 'componentsOn'
>

/** The objects by their id, and what stands under one. */
type Objects = Pick<
  Lookups,
  | 'agency'
  | 'jurisdiction'
  | 'item'
  | 'codeRule'
  | 'party'
  | 'dimension'
  | 'location'
  | 'certificatesOf'
  | 'combinedRate'
  | 'combinedRateMade'
>
/** What holds in a jurisdiction on a date, some of it inherited from those around it. */
type Regional = Pick<
  Lookups,
  'rateOn' | 'levies' | 'ratesOf' | 'codeRuleOn' | 'registrationOn' | 'roundingOn' | 'regionRuleOn'
>
type Postings = Pick<Lookups, 'postingRule' | 'isNarrowed'>

export function indexBaseline(baseline: Baseline): BaselineIndex {
  const objects = objectsOf(baseline)
  return answeredBy({ baseline, ...objects, ...regionalOf(baseline, objects), ...postingsOf(baseline) })
}

/** An index whose every answer comes from these look-ups. */
export function answeredBy(lookups: Lookups): BaselineIndex {
  return { ...lookups, ...codesBy(lookups), ...postingsBy(lookups), ...combinedBy(lookups) }
}

function objectsOf(baseline: Baseline): Objects {
  const agencies = byId(baseline.agencies)
  const jurisdictions = byId(baseline.jurisdictions)
  const items = byId(baseline.items)
  const codeRules = byId(baseline.codeRules)
  const combinedRates = byId(baseline.combinedRates)
  const parties = byId(baseline.parties)
  const dimensions = byId(baseline.dimensions)
  const locations = byId(baseline.locations)
  const certificates = groupBy(baseline.certificates, (c) => c.partyId)
  const made = groupBy(baseline.combinedRates, (r) =>
    key(jurisdictionSet(r.jurisdictionIds), r.itemTaxCode ?? ''),
  )
  return {
    agency: (id) => agencies.get(id),
    jurisdiction: (id) => jurisdictions.get(id),
    item: (code) => items.get(code),
    codeRule: (id) => codeRules.get(id),
    party: (id) => parties.get(id),
    dimension: (id) => dimensions.get(id),
    location: (id) => locations.get(id),
    certificatesOf: (partyId) => certificates.get(partyId) ?? [],
    combinedRate: (id) => (id === null ? undefined : combinedRates.get(id)),
    combinedRateMade: (of, code, date) => onDate(made.get(key(of, code ?? '')), date),
  }
}

function codesBy({ item }: Lookups): Pick<BaselineIndex, 'itemTaxCodeOf'> {
  return {
    itemTaxCodeOf: (itemCode, date) => {
      const found = item(itemCode)
      return date === undefined || !found?.codes ? found?.itemTaxCode : onDate(found.codes, date)?.itemTaxCode
    },
  }
}

function regionalOf(baseline: Baseline, { jurisdiction }: Objects): Regional {
  const rates = groupBy(baseline.rateVersions, (v) => v.jurisdictionId)
  const rules = groupBy(baseline.codeRules, (r) => key(r.jurisdictionId, r.itemTaxCode))
  const registrations = groupBy(baseline.registrations, (r) => r.agencyId)
  const roundings = groupBy(baseline.roundings, (r) => r.jurisdictionId)
  const regionRules = groupBy(baseline.regionRules, (r) => r.jurisdictionId)
  const ownTaxes = new Set(baseline.codeRules.filter(isOwn).map((rule) => rule.jurisdictionId))
  const upwards = <T>(from: string, find: (jurisdictionId: string) => T | undefined): T | undefined => {
    for (let at = jurisdiction(from); at; at = at.parentId === null ? undefined : jurisdiction(at.parentId)) {
      const found = find(at.id)
      if (found) return found
    }
    return undefined
  }
  return {
    rateOn: (id, date) => onDate(rates.get(id), date),
    levies: (id) => rates.has(id) || ownTaxes.has(id),
    ratesOf: (id) => rates.get(id) ?? [],
    codeRuleOn: (id, code, date, currency) =>
      upwards(id, (at) => {
        const dated = (rules.get(key(at, code)) ?? []).filter((r) => covers(r.valid, date))
        // Limits may be set in several currencies: the document's own decides.
        const rule = dated.find((r) => r.currency === null || r.currency === currency) ?? dated[0]
        return at !== id && rule && isOwn(rule) ? undefined : rule
      }),
    registrationOn: (agencyId, date) => onDate(registrations.get(agencyId), date),
    roundingOn: (id, date) => upwards(id, (at) => onDate(roundings.get(at), date)),
    regionRuleOn: (id, date) => upwards(id, (at) => onDate(regionRules.get(at), date)),
  }
}

function postingsOf(baseline: Baseline): Postings {
  const postings = groupBy(baseline.postingRules, (r) =>
    key(r.kind, r.agencyId ?? '', ...(r.only === null ? [] : [r.only.by, r.only.id])),
  )
  const narrowed = new Set(
    baseline.postingRules.flatMap((r) => (r.only === null ? [] : [key(r.kind, r.only.by)])),
  )
  return {
    postingRule: (kind, agencyId, only, date) =>
      onDate(postings.get(key(kind, agencyId ?? '', ...(only === null ? [] : [only.by, only.id]))), date),
    isNarrowed: (kind, by) => narrowed.has(key(kind, by)),
  }
}

function postingsBy({
  postingRule,
  isNarrowed,
}: Lookups): Pick<BaselineIndex, 'postingRuleOn' | 'postingRuleFor'> {
  return {
    postingRuleOn: (kind, agencyId, date) => postingRule(kind, agencyId, null, date),
    postingRuleFor: (kind, of, date) => {
      for (const by of POSTING_SCOPES) {
        const id = of[by]
        const rule =
          id == null || !isNarrowed(kind, by) ? undefined : postingRule(kind, null, { by, id }, date)
        if (rule) return rule
      }
      return postingRule(kind, null, null, date)
    },
  }
}

function combinedBy({
  jurisdiction,
  rateOn,
  codeRuleOn,
  combinedRateMade,
}: Lookups): Pick<BaselineIndex, 'combinedRateOf' | 'componentsOn'> {
  const componentOn = (jurisdictionId: string, code: string | null, date: IsoDate): RateComponent => {
    const own = code === null ? undefined : codeRuleOn(jurisdictionId, code, date)
    const version = rateOn(jurisdictionId, date)
    const perUnit = own?.treatment === 'per-unit' ? own : null
    return {
      jurisdictionId,
      agencyId: jurisdiction(jurisdictionId)?.agencyId ?? '',
      percent: own?.treatment === 'reduced' ? own.percent : perUnit ? 0n : (version?.percent ?? null),
      perUnit: perUnit?.perUnit ?? null,
      currency: perUnit?.currency ?? null,
      onTopOf: version?.onTopOf ?? [],
    }
  }
  return {
    combinedRateOf: (ids, date, code = null) => {
      const made = jurisdictionSet(ids)
      return (
        (code === null ? undefined : combinedRateMade(made, code, date)) ?? combinedRateMade(made, null, date)
      )
    },
    componentsOn: ({ jurisdictionIds, itemTaxCode }, date) =>
      jurisdictionIds.map((id) => componentOn(id, itemTaxCode, date)),
  }
}

function jurisdictionSet(ids: readonly string[]): string {
  return [...ids].sort().join('\n')
}

function key(first: string, ...parts: readonly string[]): string {
  let text = first
  for (const part of parts) text += `\n${part}`
  return text
}

function byId<T extends { readonly id: string }>(rows: readonly T[]): ReadonlyMap<string, T> {
  return new Map(rows.map((row) => [row.id, row]))
}

/** Groups rows by a text key, keeping their order. */
export function groupBy<T>(rows: Iterable<T>, keyOf: (row: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>()
  for (const row of rows) {
    const key = keyOf(row)
    const group = groups.get(key)
    if (group) group.push(row)
    else groups.set(key, [row])
  }
  return groups
}

function onDate<T extends { readonly valid: DateRange }>(
  versions: readonly T[] | undefined,
  date: IsoDate,
): T | undefined {
  return versions?.find((version) => covers(version.valid, date))
}
