import type { CodeTreatment, Threshold } from '../baseline/baseline.ts'
import type { IsoDate } from '../baseline/dates.ts'
import { groupBy } from '../baseline/lookup.ts'
import type { MinorUnits } from '../money/currency.ts'
import type { Percent, Ratio } from '../money/decimal.ts'
import { scopeOf } from './levied.ts'
import { capOf, excessOf, thresholdOf, type Between } from './limits.ts'
import type { Observation } from './observed.ts'
import { frameOf, type DraftedPlace, type Places } from './places.ts'
import { counterpart, type Component, type RateMet } from './rates.ts'
import { rateOn, usualRate, type RegionSeen } from './standards.ts'

/** What an item tax code means for tax in one place. */
export interface DraftedRule {
  readonly place: string
  readonly treatment: CodeTreatment
  readonly percent: Percent | null
  readonly perUnit: Ratio | null
  readonly threshold: Threshold | null
  readonly cap: MinorUnits | null
  /** The days on which it holds; null for all that are seen. */
  readonly valid: { readonly from: IsoDate | null; readonly to: IsoDate | null } | null
}

/** How a region treats an item tax code, as its sales show. */
export interface CodeSeen {
  readonly code: string
  readonly region: string
  readonly kind: 'goods' | 'shipping'
  /** One that is the region's, and those that places within have of their own. */
  readonly rules: readonly DraftedRule[]
  /** The rate that it is charged in place of the standard one, by cell; empty where it has none of its own. */
  readonly ownRates: ReadonlyMap<string, RateMet>
  readonly lines: readonly Observation[]
  /** Lines that were charged otherwise. */
  readonly against: readonly Observation[]
  /** Between which prices of one article tax begins, where nothing says more exactly. */
  readonly limitBetween: Between | null
}

/** What was charged on a line: nothing, its cell's standard rate, or another. */
type Charged = 'nothing' | 'standard' | 'other'

const BARE = { percent: null, perUnit: null, threshold: null, cap: null, valid: null } as const

/** @param currency of the books: limits are read from prices in it alone */
export function treatmentsIn(seen: RegionSeen, places: Places, currency: string): CodeSeen[] {
  const place = frameOf(places.all, scopeOf(seen.region))
  if (!place) return []
  return [...groupBy(seen.observations, (o) => o.code)].sort().map(([code, lines]): CodeSeen => {
    const kind = lines.every((o) => o.kind === 'shipping') ? 'shipping' : 'goods'
    const base = {
      code,
      region: seen.region,
      kind,
      lines,
      ownRates: new Map<string, RateMet>(),
      limitBetween: null,
    } as const
    const charged = (o: Observation): Charged =>
      o.rate === null
        ? 'nothing'
        : rateOn(seen.rates.get(o.cell.key), o.date)?.id === o.rate.id
          ? 'standard'
          : 'other'
    const of = groupBy(lines, charged)
    const [standard, nothing, other] = (['standard', 'nothing', 'other'] as const).map(
      (one) => of.get(one) ?? [],
    )
    const rule = (treatment: CodeTreatment, more: Partial<DraftedRule> = {}): DraftedRule => ({
      place: place.code,
      treatment,
      ...BARE,
      ...more,
    })
    if (!standard || !nothing || !other) return { ...base, rules: [], against: [] }
    if (seen.rates.size === 0 && other.length === 0)
      return { ...base, rules: [rule('standard')], against: [] }
    if (kind === 'shipping') {
      const { treatment, against } = shippingOf(lines, seen)
      return { ...base, rules: [rule(treatment)], against }
    }
    if (other.length > standard.length && other.length >= nothing.length)
      return ownRates({ ...base, rules: [], against: [...standard, ...nothing] }, other, {
        seen,
        places,
        place,
      })
    const plain = ({ sale: { document } }: Observation): boolean =>
      document.currency === currency && !document.pricesIncludeTax && document.discount === 0n
    const dear = standard.filter(plain)
    const limited = thresholdOf(dear, nothing.filter(plain))
    if (limited)
      return {
        ...base,
        rules: [rule('standard', { threshold: limited.threshold, cap: capOf(dear) })],
        against: [...limited.against, ...other],
        limitBetween: limited.between,
      }
    if (standard.length > nothing.length)
      return {
        ...base,
        rules: [rule('standard', { ...excessOf(dear) })],
        against: [...nothing, ...other],
      }
    const treatment = nothing.every((o) => o.namesNil) ? 'zero-rated' : 'exempt'
    return { ...base, rules: [rule(treatment)], against: [...standard, ...other] }
  })
}

/**
 * A code with a rate of its own: what each place that charges otherwise charges of it, or does not. Where two cells, or two documents of one,
 * have it otherwise in one place, the later ones speak against it; so does what was sold where nobody knows the standard rate.
 */
function ownRates(
  base: CodeSeen,
  other: readonly Observation[],
  {
    seen,
    places,
    place: region,
  }: { readonly seen: RegionSeen; readonly places: Places; readonly place: DraftedPlace },
): CodeSeen {
  const rates = new Map<string, RateMet>()
  const rules = new Map<string, readonly DraftedRule[]>()
  const against: Observation[] = []
  for (const [cell, of] of groupBy(other, (o) => o.cell.key)) {
    const rate = usualRate(of)
    const standard = seen.rates.get(cell)?.at(-1)?.rate
    const here = standard ? chargedInstead(rate, standard, { cell, places }) : []
    const conflicts = here.some(
      ([code, own]) => rules.has(code) && textOf(rules.get(code) ?? []) !== textOf(own),
    )
    against.push(...(standard === undefined || conflicts ? of : of.filter((o) => o.rate?.id !== rate.id)))
    if (standard === undefined || conflicts) continue
    rates.set(cell, rate)
    for (const [code, own] of here) rules.set(code, own)
  }
  fillIn(rules, region, { seen, places })
  // What the region itself says holds where nobody within says otherwise.
  if (rates.size > 0 && !rules.has(region.code))
    rules.set(region.code, [{ place: region.code, treatment: 'standard', ...BARE }])
  return {
    ...base,
    rules: [...rules.values()].flat(),
    ownRates: rates,
    against: [...base.against, ...against],
  }
}

/** What a rate charges in each place of the standard one in its stead. */
function chargedInstead(
  rate: RateMet,
  standard: RateMet,
  { cell, places }: { readonly cell: string; readonly places: Places },
): (readonly [string, readonly DraftedRule[]])[] {
  return (standard.leading.parts ?? []).flatMap((part) => {
    const place = places.ofPart(standard, part.agency, part.name, cell)
    if (!place) return []
    const theirs = counterpart(rate.leading, standard.leading, part)
    return [[place.code, rulesOf(place.code, part, theirs)] as const]
  })
}

function rulesOf(place: string, part: Component, theirs: Component | undefined): DraftedRule[] {
  if (theirs === undefined) return [{ place, ...BARE, treatment: 'exempt' }]
  if (versionsText(theirs) === versionsText(part)) return [{ place, ...BARE, treatment: 'standard' }]
  return theirs.versions.map(({ percent, perUnit, from, to }) => ({
    place,
    ...BARE,
    ...(perUnit === null
      ? { treatment: 'reduced' as const, percent }
      : { treatment: 'per-unit' as const, perUnit }),
    valid: theirs.versions.length === 1 ? null : { from, to },
  }))
}

/** A component's percents with their days, as one text. */
function versionsText({ versions }: Component): string {
  return versions
    .map(({ percent, perUnit, from, to }) => `${percent} ${perUnit?.numerator} ${from} ${to}`)
    .join()
}

function textOf(rules: readonly DraftedRule[]): string {
  return rules
    .map(
      ({ treatment, percent, perUnit, valid }) =>
        `${treatment} ${percent} ${perUnit?.numerator} ${valid?.from}`,
    )
    .join()
}

/** Where none of it was sold yet, what all others within the region do is what is done, where there are several. */
function fillIn(
  rules: Map<string, readonly DraftedRule[]>,
  region: DraftedPlace,
  { seen, places }: { readonly seen: RegionSeen; readonly places: Places },
): void {
  const locals = [...rules].filter(([code]) => code !== region.code).map(([, [rule]]) => rule)
  const [first] = locals
  if (
    !first ||
    locals.length < 2 ||
    !locals.every((rule) => rule?.treatment === first.treatment && rule.percent === null)
  )
    return
  for (const { code, levied, cells } of places.all)
    if (
      levied !== null &&
      !rules.has(code) &&
      code !== region.code &&
      cells.some((cell) => seen.rates.has(cell))
    )
      rules.set(code, [{ ...first, place: code }])
}

/** What most shipping of a region agrees with: the standard rate, none, or whatever the goods that it came with bear. */
function shippingOf(
  lines: readonly Observation[],
  { observations, rates }: RegionSeen,
): { readonly treatment: CodeTreatment; readonly against: readonly Observation[] } {
  const goods = groupBy(
    observations.filter((o) => o.kind === 'goods'),
    (o) => o.sale.id,
  )
  const isStandard = (o: Observation): boolean =>
    o.rate !== null && o.rate.id === rateOn(rates.get(o.cell.key), o.date)?.id && o.inFull
  // Among goods of several kinds only a part of it is taxed.
  const follows = (o: Observation): boolean => {
    const borne = new Set((goods.get(o.sale.id) ?? []).map(({ rate }) => rate?.id ?? null))
    return borne.size === 1 ? borne.has(o.rate?.id ?? null) : borne.size > 1 && o.rate !== null && !o.inFull
  }
  const fits = {
    standard: lines.filter(isStandard),
    exempt: lines.filter((o) => o.rate === null),
    'follows-goods': lines.filter(follows),
  } as const
  const [best = 'standard'] = (['standard', 'exempt', 'follows-goods'] as const)
    .map((treatment) => ({ treatment, fit: fits[treatment].length }))
    .sort((a, b) => b.fit - a.fit)
    .map(({ treatment }) => treatment)
  return { treatment: best, against: lines.filter((o) => !fits[best].includes(o)) }
}
