import { groupBy, type BaselineIndex } from '@axion/core'
import type { TaxRate } from '@axion/contract'
import { compareAgency, compareRate, type ComparedRate } from './compare.ts'
import { crosswalk } from './crosswalk.ts'
import type { Held, HeldSystem } from './held.ts'

/** A system beside the baseline, as documents ask: the same again and again, so that each is worked out once. */
export interface Aligned {
  /** The system's rates that stand for one of the baseline's. */
  ratesFor(baselineRateId: string): readonly Held<TaxRate>[]
  rate(id: string): Held<TaxRate> | undefined
  /** The baseline's rate that the system's stands for, by link or else by an unambiguous proposal. */
  rateOf(id: string): string | null
  /** The system's rate beside the baseline's on a date; null where either is not there. */
  compared(id: string, baselineRateId: string, date: string): ComparedRate | null
  /** The system's agencies whose account is not the agreed one on a date, with the baseline's that they stand for. */
  astray(date: string): readonly { readonly id: string; readonly agencyId: string }[]
}

/** @param date of proposals: the last of the month that is worked in */
export function alignedOf(system: HeldSystem, index: BaselineIndex, date: string): Aligned {
  const { agencyOf, rateOf } = crosswalk(system, index, date)
  const rates = new Map(system.rates.map((rate) => [rate.id, rate]))
  const byBaseline = once(() => groupBy(system.rates, ({ id }) => rateOf(id) ?? ''))
  const compared = new Map<string, ComparedRate | null>()
  const astray = new Map<string, readonly { readonly id: string; readonly agencyId: string }[]>()
  return {
    rateOf,
    ratesFor: (baselineRateId) => byBaseline().get(baselineRateId) ?? [],
    rate: (id) => rates.get(id),
    compared: (id, baselineRateId, on) =>
      kept(compared, `${id}|${baselineRateId}|${on}`, () => {
        const rate = index.combinedRate(baselineRateId)
        const theirs = rates.get(id)
        return rate && theirs ? compareRate(rate, theirs.value, { agencyOf, index, date: on }) : null
      }),
    astray: (on) =>
      kept(astray, on, () =>
        system.agencies.flatMap(({ id, value }) => {
          const agencyId = agencyOf(id)
          return agencyId === null || compareAgency(agencyId, value, { system, index, date: on }).agrees
            ? []
            : [{ id, agencyId }]
        }),
      ),
  }
}

function kept<T>(known: Map<string, T>, key: string, work: () => T): T {
  const found = known.get(key)
  if (found !== undefined) return found
  const fresh = work()
  known.set(key, fresh)
  return fresh
}

function once<T>(work: () => T): () => T {
  const known = new Map<string, T>()
  return () => kept(known, '', work)
}
