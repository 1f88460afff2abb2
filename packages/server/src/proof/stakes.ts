import { amountInBase, combinedRatesOf, lastDayOf, sum } from '@axion/core'
import type { Departing } from '../setUp/departing.ts'
import { stakesOf, type StakedSystem } from '../setUp/stake.ts'
import type { Unit } from './gather.ts'
import type { SetUp } from './grounds.ts'
import { askedAligned, askedDeparting, type Answering, type Asking } from './questions.ts'
import type { Row } from './unitRows.ts'

/** What a month's documents are staked by: each system as it is aligned, and where set-up departs from the baseline. */
export interface Staking {
  readonly systems: readonly StakedSystem[]
  readonly departing: Departing
}

/** @param setUp noting what is asked of it, as all of this does */
export function stakingOf(
  setUp: SetUp,
  period: string,
  { answering, asking }: { readonly answering: Answering; readonly asking: Asking },
): Staking {
  const date = lastDayOf(period)
  return {
    systems: setUp.systems.flatMap((held) => {
      const { system_id: systemId } = held.row
      const aligned = answering.aligned(systemId, date)
      return aligned ? [{ held, aligned: askedAligned(aligned, systemId, date, asking) }] : []
    }),
    departing: askedDeparting(answering.departing, asking),
  }
}

/** What of a unit's tax each departure of set-up puts at stake, in the base currency. */
export function stakeRows(
  { source, booked, period }: Unit,
  { entityId, index }: SetUp,
  { systems, departing }: Staking,
): Row[] {
  // What its scope leaves out, and nobody booked, is nobody's to get right.
  if (!source || (source.stored.not_taken !== null && booked.length === 0)) return []
  const { document, determination, decoded, stored } = source
  const staked = {
    document,
    determination,
    systemId: stored.system_id,
    rateIds: new Set(decoded.taxes.map((tax) => tax.taxRateId)),
    stated: sum(decoded.taxes.map((tax) => tax.tax)),
    rates: combinedRatesOf(document, determination, index),
    party: decoded.party.id,
    itemCodes: new Map(
      decoded.lines.flatMap((line) => (line.itemCode === null ? [] : [[line.id, line.itemCode] as const])),
    ),
    locationId: decoded.locationId,
  }
  // The ledger's set-up moves what is booked there alone.
  const concerned = stored.posted
    ? systems
    : systems.filter(({ held }) => held.row.system_id === stored.system_id)
  return stakesOf(staked, concerned, index, departing).map(({ findingKey, amount }) => ({
    entity_id: entityId,
    unit_id: '',
    finding_key: findingKey,
    period,
    currency: document.exchange?.currency ?? document.currency,
    amount: amountInBase(amount, document.exchange).toString(),
  }))
}
