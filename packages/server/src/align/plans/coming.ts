import { percentOf, type TaxRate } from '@axion/contract'
import { formatPercent, type CombinedRate, dayBefore } from '@axion/core'
import { compareRate, perUnitText } from '../../setUp/compare.ts'
import type { GridBasis, AlignedSystem } from '../kinds/index.ts'

type Components = NonNullable<TaxRate['components']>

/**
 * A system's components with the versions of the baseline that are still to come: what holds now ends the day before, and the new
 * percent begins on its day. The same components where it is ready.
 */
export function withComing(
  { index, date }: GridBasis,
  { crosswalk }: AlignedSystem,
  rate: CombinedRate,
  theirs: TaxRate,
): Components | null {
  let components = theirs.components
  const days = [
    ...new Set(
      rate.jurisdictionIds
        .flatMap((id) => index.ratesOf(id))
        .map((version) => version.valid.from)
        .filter((from) => from > date),
    ),
  ].sort()
  for (const day of days) {
    for (const { jurisdictionId } of index.componentsOn(rate, day)) {
      if (components === null) return null
      const found = compareRate(
        rate,
        { ...theirs, components },
        { agencyOf: crosswalk.agencyOf, index, date: day },
      ).components.find((c) => c.jurisdictionId === jurisdictionId)
      const version = index.rateOn(jurisdictionId, day)
      if (!version || found?.at == null || found.theirs === found.percent || found.percent === null) continue
      components = inserted(components, found.at, {
        day,
        percent: formatPercent(found.percent),
        to: version.valid.to,
      })
    }
  }
  return components
}

/** A system's rate with each component as the baseline has it on the day: its percent, its amount per unit, and what it lies on top of. */
export function corrected(
  { index, date }: GridBasis,
  { crosswalk }: AlignedSystem,
  rate: CombinedRate,
  theirs: TaxRate,
): TaxRate {
  if (theirs.components === null) return theirs
  const compared = compareRate(rate, theirs, { agencyOf: crosswalk.agencyOf, index, date }).components
  const at = new Map(compared.flatMap((c) => (c.at === null ? [] : [[c.jurisdictionId, c.at] as const])))
  const components = theirs.components.map((held, place) => {
    const ours = compared.find((c) => c.at === place)
    if (!ours || ours.percent === null || (ours.percent === ours.theirs && ours.sameLevy)) return held
    const onTopOf = ours.onTopOf.flatMap((under) => at.get(under) ?? [])
    return {
      ...held,
      percent: ours.percent === ours.theirs ? held.percent : formatPercent(ours.percent),
      ...(ours.sameLevy
        ? {}
        : { perUnit: ours.perUnit && perUnitText(ours.perUnit, ours.currency), onTopOf }),
    }
  })
  return { ...theirs, components }
}

/** What the components that hold on a day come to. */
export function totalOn(components: Components, date: string): string {
  return formatPercent(percentOf(components, date))
}

/** The new version stands right after the one it follows; what lies on top of either lies on top of both, since only one holds on a day. */
function inserted(
  components: Components,
  at: number,
  { day, percent, to }: { readonly day: string; readonly percent: string; readonly to: string | null },
): Components {
  const shifted = components.map((c) => ({
    ...c,
    onTopOf: [
      ...new Set(
        c.onTopOf.flatMap((place) => (place === at ? [at, at + 1] : [place > at ? place + 1 : place])),
      ),
    ],
  }))
  const before = shifted[at] as Components[number]
  return [
    ...shifted.slice(0, at),
    { ...before, to: dayBefore(day) },
    { ...before, percent, from: day, to },
    ...shifted.slice(at + 1),
  ]
}
