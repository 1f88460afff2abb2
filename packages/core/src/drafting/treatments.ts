import type { CodeTreatment, Threshold } from '../baseline/baseline.ts'
import { groupBy } from '../baseline/lookup.ts'
import { absolute, type MinorUnits } from '../money/currency.ts'
import { compare, divide, ratio, type Percent, type Ratio } from '../money/decimal.ts'
import type { Observation } from './observed.ts'
import type { DraftedPlace, Places } from './places.ts'
import { versionOn, type RateMet } from './rates.ts'
import { rateOn, type RegionSeen } from './standards.ts'

/** What an item tax code means for tax in one place. */
export interface DraftedRule {
  readonly place: string
  readonly treatment: CodeTreatment
  readonly percent: Percent | null
  readonly perUnit: Ratio | null
  readonly threshold: Threshold | null
  readonly cap: MinorUnits | null
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
  readonly limitBetween: { readonly above: MinorUnits; readonly upTo: MinorUnits } | null
}

/** What was charged on a line: nothing, its cell's standard rate, or another. */
type Charged = 'nothing' | 'standard' | 'other'

const BARE = { percent: null, perUnit: null, threshold: null, cap: null } as const

export function treatmentsIn(seen: RegionSeen, places: Places): CodeSeen[] {
  const place = regionOf(seen, places)
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
      return { ...base, ...ownRatesOf(other, seen, places, place), against: [...standard, ...nothing] }
    const limited = nothing.length > 0 && standard.length > 0 ? thresholdOf(standard, nothing) : null
    if (limited)
      return {
        ...base,
        rules: [rule('standard', { threshold: limited.threshold, cap: capOf(standard) })],
        against: [...limited.against, ...other],
        limitBetween: limited.between,
      }
    if (standard.length > nothing.length)
      return {
        ...base,
        rules: [rule('standard', { ...excessOf(standard) })],
        against: [...nothing, ...other],
      }
    const treatment = nothing.every((o) => o.namesNil) ? 'zero-rated' : 'exempt'
    return { ...base, rules: [rule(treatment)], against: [...standard, ...other] }
  })
}

function regionOf({ region }: RegionSeen, places: Places): DraftedPlace | undefined {
  const [country = '', own = ''] = region.split('|')
  return places.all.find(
    ({ level, covers: [cover] }) =>
      cover?.country === country &&
      (own === '' ? level === 'country' : level === 'region' && cover.region === own),
  )
}

/** The rules of a code with a rate of its own: what each place that charges otherwise charges of it, or does not. */
function ownRatesOf(
  other: readonly Observation[],
  seen: RegionSeen,
  places: Places,
  region: DraftedPlace,
): Pick<CodeSeen, 'rules' | 'ownRates'> {
  const ownRates = new Map<string, RateMet>()
  const rules = new Map<string, DraftedRule>()
  for (const [cell, of] of groupBy(other, (o) => o.cell.key)) {
    const [most] = [...groupBy(of, (o) => o.rate?.id ?? '').values()].sort((a, b) => b.length - a.length)
    const [one] = most ?? []
    const standard = one && rateOn(seen.rates.get(cell), one.date)
    if (!one?.rate) continue
    ownRates.set(cell, one.rate)
    const own = one.rate.leading.parts ?? []
    for (const part of standard?.leading.parts ?? []) {
      const place = standard && places.ofPart(standard, part.agency, part.name, cell)
      if (!place || rules.has(place.code)) continue
      const same = own.filter(({ agency }) => agency === part.agency)
      const theirs = same.find(({ name }) => name === part.name) ?? (same.length === 1 ? same[0] : undefined)
      const version = theirs && versionOn(theirs, one.date)
      const percent = versionOn(part, one.date)?.percent
      rules.set(place.code, {
        place: place.code,
        ...BARE,
        ...(version === undefined
          ? { treatment: 'exempt' as const }
          : version.perUnit !== null
            ? { treatment: 'per-unit' as const, perUnit: version.perUnit }
            : version.percent === percent
              ? { treatment: 'standard' as const }
              : { treatment: 'reduced' as const, percent: version.percent }),
      })
    }
  }
  // Where none of it was sold yet, what all others within the region do is what is done.
  const locals = [...rules.values()].filter((rule) => rule.place !== region.code)
  const [first] = locals
  if (first && locals.every(({ treatment, percent }) => treatment === first.treatment && percent === null))
    for (const { code, levied, cells } of places.all)
      if (
        levied !== null &&
        !rules.has(code) &&
        code !== region.code &&
        cells.some((cell) => seen.rates.has(cell))
      )
        rules.set(code, { ...first, place: code })
  // What the region itself says holds where nobody within says otherwise.
  if (!rules.has(region.code)) rules.set(region.code, { place: region.code, treatment: 'standard', ...BARE })
  return { rules: [...rules.values()], ownRates }
}

const priceOf = ({ amount, quantity }: Observation): Ratio =>
  divide(ratio(absolute(amount)), positive(quantity))

function positive({ numerator, denominator }: Ratio): Ratio {
  return ratio(numerator < 0n ? -numerator : numerator === 0n ? 1n : numerator, denominator)
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

/**
 * The price of one article below which nothing is charged: where most of the untaxed lie below it and most of the taxed do not. A line or two
 * that somebody left untaxed by mistake make no limit.
 */
function thresholdOf(
  taxed: readonly Observation[],
  untaxed: readonly Observation[],
): {
  readonly threshold: Threshold
  readonly between: CodeSeen['limitBetween']
  readonly against: readonly Observation[]
} | null {
  const prices = [...taxed.map((o) => ({ o, taxed: true })), ...untaxed.map((o) => ({ o, taxed: false }))]
    .map((one) => ({ ...one, price: priceOf(one.o) }))
    .sort((a, b) => signOf(compare(a.price, b.price)))
  // From the first that is taxed on: how many stand on the wrong side.
  let wrong = taxed.length === 0 ? 0 : untaxed.length
  let best = { at: 0, wrong }
  prices.forEach((one, at) => {
    wrong += one.taxed ? 1 : -1
    const next = prices[at + 1]
    if (wrong < best.wrong && (!next || compare(next.price, one.price) > 0n)) best = { at: at + 1, wrong }
  })
  const [below, from] = [prices.slice(0, best.at), prices.slice(best.at)]
  const documents = new Set(below.filter((one) => !one.taxed).map(({ o }) => o.sale.id)).size
  const [last, first] = [below.at(-1)?.price, from[0]?.price]
  if (documents < 3 || best.wrong * 5 > documents || !last || !first) return null
  const against = [...below.filter((one) => one.taxed), ...from.filter((one) => !one.taxed)].map(({ o }) => o)
  const excess = excessOf(taxed)
  if (excess.threshold) return { threshold: excess.threshold, between: null, against }
  const [above, upTo] = [last.numerator / last.denominator, first.numerator / first.denominator]
  return {
    threshold: { limit: roundest(above + 1n, upTo), taxes: 'whole' },
    between: { above, upTo },
    against,
  }
}

function signOf(of: bigint): number {
  return of > 0n ? 1 : of < 0n ? -1 : 0
}

/** Of all amounts between two, the one with the most noughts at its end. */
function roundest(from: MinorUnits, to: MinorUnits): MinorUnits {
  for (let step = 10n ** 12n; step > 1n; step /= 10n) {
    for (const unit of [step * 5n, step]) {
      const least = ((from + unit - 1n) / unit) * unit
      if (least <= to && least > 0n) return least
    }
  }
  return to
}

/** What is taxed of each article is its price less always the same, or never more than the same. */
function excessOf(taxed: readonly Observation[]): {
  readonly threshold: Threshold | null
  readonly cap: MinorUnits | null
} {
  const parts = taxed.filter((o) => o.base !== null && absolute(o.base) < absolute(o.amount))
  const less = theSame(
    parts.map((o) => divide(ratio(absolute(o.amount) - absolute(o.base ?? 0n)), positive(o.quantity))),
  )
  const most = capOf(taxed)
  if (most !== null && (parts.length > 1 || less === null)) return { threshold: null, cap: most }
  return { threshold: less === null || parts.length < 2 ? null : { limit: less, taxes: 'excess' }, cap: most }
}

function capOf(taxed: readonly Observation[]): MinorUnits | null {
  const parts = taxed.filter((o) => o.base !== null && absolute(o.base) < absolute(o.amount))
  return theSame(parts.map((o) => divide(ratio(absolute(o.base ?? 0n)), positive(o.quantity))))
}

/** A whole amount that all of these are; null where they differ. */
function theSame(all: readonly Ratio[]): MinorUnits | null {
  const [first] = all
  if (!first || !all.every((one) => compare(one, first) === 0n) || first.numerator % first.denominator !== 0n)
    return null
  return first.numerator / first.denominator
}
