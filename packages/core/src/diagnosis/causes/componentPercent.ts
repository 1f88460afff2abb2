import { combinedRatesOf } from '../combinedRates.ts'
import { formatPercent, type Percent } from '../../money/decimal.ts'
import { assuming, type Cause } from './cause.ts'

/** A component that a system holds at another percent. */
export interface ComponentPercent {
  readonly kind: 'component-percent'
  readonly systemId: string
  readonly systemRateId: string
  readonly combinedRateId: string
  readonly jurisdictionId: string
  readonly percent: Percent
}

export const componentPercent: Cause<
  ComponentPercent,
  {
    readonly rate: string
    readonly jurisdiction: string
    readonly theirs: string
    readonly ours: string
    readonly since: string | null
  }
> = {
  kind: 'component-percent',
  rank: () => 0,
  key: (a) => [a.systemId, a.systemRateId, a.jurisdictionId, a.percent],
  candidates: () => [],
  apply: (a, on, of) => {
    const rate = of.index.combinedRate(a.combinedRateId)
    if (!rate || !combinedRatesOf(of.document, of.determination, of.index).includes(rate.id)) return null
    return assuming(on, {
      percentOf: (id, code) => (id === a.jurisdictionId && code === rate.itemTaxCode ? a.percent : undefined),
    })
  },
  facts: (a, { index, day, jurisdiction, rate: named }) => {
    const rate = index.combinedRate(a.combinedRateId)
    const ours = rate && index.componentsOn(rate, day).find((c) => c.jurisdictionId === a.jurisdictionId)
    return {
      rate: named(a.systemId, a.systemRateId),
      jurisdiction: jurisdiction(a.jurisdictionId),
      // It went through JSON, which has no integers of this size.
      theirs: formatPercent(BigInt(a.percent)),
      ours: formatPercent(ours?.percent ?? 0n),
      since: rate?.itemTaxCode === null ? (index.rateOn(a.jurisdictionId, day)?.valid.from ?? null) : null,
    }
  },
  says: (f, date) =>
    `${f.system} holds ${f.jurisdiction} at ${f.theirs}\u00a0% in “${f.rate}”. The baseline has ${f.ours}\u00a0%${f.since ? ` since ${date(f.since)}` : ''}.`,
}
