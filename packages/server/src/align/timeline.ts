import type { TimelineView } from '@axion/contract'
import { formatPercent, dayAfter, dayBefore } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { compareRate, totalOf } from '../setUp/compare.ts'
import { basisOf } from './build.ts'

const BEGINNING = '0001-01-01'

/** A combined rate through time: between any two days on which it changes anywhere, what the baseline has and what each system holds. */
export async function timelineOf(books: Books, month: string, rateId: string): Promise<TimelineView> {
  const { index, systems } = await basisOf(books, month)
  const rate = index.combinedRate(rateId)
  if (!rate) throw new Problem('AXION_NOT_FOUND', { what: 'such rate in the baseline' })
  const holding = systems.flatMap(({ held, crosswalk }) =>
    held.rates
      .filter(({ id }) => crosswalk.rateOf(id) === rateId)
      .map(({ value }) => ({ held, crosswalk, value })),
  )
  const ours =
    rate.itemTaxCode === null
      ? rate.jurisdictionIds
          .flatMap((id) => index.ratesOf(id))
          .flatMap(({ valid }) => [valid.from, after(valid.to)])
      : index.baseline.codeRules
          .filter(
            (rule) =>
              rule.itemTaxCode === rate.itemTaxCode && rate.jurisdictionIds.includes(rule.jurisdictionId),
          )
          .flatMap(({ valid }) => [valid.from, after(valid.to)])
  const theirs = holding.flatMap(({ value }) =>
    (value.components ?? []).flatMap((c) => [c.from, after(c.to)]),
  )
  const days = [
    ...new Set([...ours, ...theirs].filter((day): day is string => day !== null && day > BEGINNING)),
  ].sort()
  return {
    name: rate.name,
    spans: days.map((from, at) => {
      const components = index.componentsOn(rate, from)
      const known = components.every((c) => c.percent !== null)
      return {
        from,
        to: before(days[at + 1] ?? null),
        ours: known ? formatPercent(totalOf(components)) : null,
        systems: holding.map(({ held, crosswalk, value }) => {
          const compared = compareRate(rate, value, { agencyOf: crosswalk.agencyOf, index, date: from })
          return {
            system: held.row.name,
            name: value.name,
            percent: formatPercent(compared.theirTotal),
            agrees: compared.agrees,
            flat: compared.flat,
          }
        }),
      }
    }),
  }
}

function after(day: string | null): string | null {
  return day === null ? null : dayAfter(day)
}

function before(day: string | null): string | null {
  return day === null ? null : dayBefore(day)
}
