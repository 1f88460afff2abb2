import { combinedPercent, covers, parsePercent, type Percent } from '@axion/core'
import type { TaxRate } from './setUp.ts'

type Components = NonNullable<TaxRate['components']>

/**
 * What a rate's components come to together on a day, tax on tax included. A place that a component lies on may name any version of
 * another: what counts is whose tax it is.
 */
export function percentOf(
  components: readonly Pick<Components[number], 'agencyId' | 'percent' | 'onTopOf' | 'from' | 'to'>[],
  date: string,
): Percent {
  const held = components.filter((c) => covers({ from: c.from ?? '0001-01-01', to: c.to }, date))
  return combinedPercent(
    held.map((c) => ({
      percent: parsePercent(c.percent),
      onTopOf: held.flatMap((other, at) =>
        c.onTopOf.some((place) => components[place]?.agencyId === other.agencyId) ? [at] : [],
      ),
    })),
  )
}
