import { parsePercent, type Assumption, type BaselineIndex } from '@axion/core'
import { compareRate } from './compare.ts'
import type { HeldSystem } from './held.ts'

/**
 * Every assumption that the systems' snapshots give rise to (K10): the percent of each component of a linked rate that differs from the baseline's,
 * the liability account of each linked agency, its flat rates, and its default item tax code. Those that change nothing are sorted out by the diagnosis.
 */
export function departuresOf(held: HeldSystem, index: BaselineIndex, date: string): Assumption[] {
  const systemId = held.row.system_id
  const percents = held.rates.flatMap(({ id, value }): Assumption[] => {
    const rate = index.combinedRate(held.combinedRateOf(id))
    if (!rate || value.components === null) return []
    return compareRate(rate, value, { agencyOf: held.agencyOf, index, date }).components.flatMap(
      ({ jurisdictionId, at, percent, theirs }) => {
        const component = at === null || theirs === percent ? undefined : value.components?.[at]
        return component
          ? [
              {
                kind: 'component-percent',
                systemId,
                systemRateId: id,
                combinedRateId: rate.id,
                jurisdictionId,
                percent: parsePercent(component.percent),
              } as const,
            ]
          : []
      },
    )
  })
  const accounts = held.agencies.flatMap(({ id, value }): Assumption[] => {
    const agencyId = held.agencyOf(id)
    const account = held.accountNumber(value.liabilityAccountId)
    return agencyId && account
      ? [{ kind: 'liability-account', systemId, systemAgencyId: id, agencyId, account }]
      : []
  })
  const flat = held.rates
    .filter(({ value }) => value.components === null)
    .map(({ id, value }): Assumption => ({
      kind: 'flat-rate',
      systemId,
      systemRateId: id,
      percent: parsePercent(value.percent),
    }))
  const code = held.row.settings?.defaultItemTaxCode
  return [
    ...percents,
    ...accounts,
    ...flat,
    ...(code ? [{ kind: 'default-code', systemId, itemTaxCode: code, lineId: null } as const] : []),
  ]
}
