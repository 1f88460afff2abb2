import { amountInBase, combinedRatesOf, lastDayOf, sum } from '@axion/core'
import { asText } from '../database/copied.ts'
import type { Departing } from '../setUp/departing.ts'
import { stakesOf, type StakedSystem } from '../setUp/stake.ts'
import type { Unit } from './gather.ts'
import type { SetUp } from './grounds.ts'
import type { Asking } from './asking.ts'
import { askedAligned, askedDeparting, type Answering } from './questions.ts'

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

/** What of a unit's tax each departure of set-up puts at stake, in the base currency: lines of `stake_share`. */
export function stakeLines(
  { source, booked, period }: Unit,
  { index }: SetUp,
  { systems, departing }: Staking,
): string[] {
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
  const currency = document.exchange?.currency ?? document.currency
  return stakesOf(staked, concerned, index, departing).map(
    ({ findingKey, amount }) =>
      `${asText(findingKey)}\t${period}\t${currency}\t${amountInBase(amount, document.exchange)}`,
  )
}
