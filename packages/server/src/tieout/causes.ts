import type { CauseFacts, CauseView } from '@axion/contract'
import { formatAmount, formatPercent, type Assumption, type BaselineIndex } from '@axion/core'
import { remedyOf } from '../align/remedies.ts'
import type { HeldSystem } from '../connect/held.ts'
import type { Transaction } from '../database/connection.ts'
import { lastDayOf } from './periods.ts'

interface CauseRow {
  readonly cause: string
  readonly headline: string
  readonly missing_why: string | null
  readonly odd: string[]
  readonly assumptions: Assumption[]
  readonly documents: string
  readonly unproved: string
  readonly unproved_net: string
}

/** The month's causes, largest money first: one line each, however many documents it explains. */
export async function causesOf(trx: Transaction, entityId: string, month: string, currency: string, systems: readonly HeldSystem[], index: BaselineIndex): Promise<CauseView[]> {
  const { rows } = (await trx.raw(
    `select cause, min(headline) as headline, min(missing_why) as missing_why, (array_agg(to_jsonb(odd)))[1] as odd,
       (array_agg(assumptions order by jsonb_array_length(assumptions)))[1] as assumptions, count(*) as documents, sum(unproved) as unproved, sum(unproved_net) as unproved_net
     from tie_unit where entity_id = ? and period = ? and not proved and cause is not null group by cause order by sum(unproved) desc, sum(unproved_net) desc, cause`,
    [entityId, month],
  )) as { rows: CauseRow[] }
  return rows.map((row) => {
    const facts = row.assumptions.map((assumption) => factsOf(assumption, month, systems, index))
    const [first] = row.assumptions
    const plain: CauseFacts = row.headline === 'missing' ? { kind: 'missing', why: row.missing_why ?? '' } : { kind: 'unexplained', headline: row.headline, odd: row.odd }
    return {
      key: row.cause, facts: facts[0] ?? plain, others: facts.slice(1), headline: row.headline, documents: Number(row.documents),
      unproved: formatAmount(BigInt(row.unproved), currency), unprovedNet: formatAmount(BigInt(row.unproved_net), currency),
      remedy: first && row.assumptions.length === 1 ? remedyOf(first) : null,
    }
  })
}

/** An assumption with the names that people know its objects by. */
export function factsOf(assumption: Assumption, month: string, systems: readonly HeldSystem[], index: BaselineIndex): CauseFacts {
  const system = systems.find((s) => s.row.system_id === assumption.systemId)
  const name = system?.row.name ?? assumption.systemId
  if (assumption.kind === 'component-percent') {
    const version = index.rateOn(assumption.jurisdictionId, lastDayOf(month))
    return {
      kind: 'component-percent', system: name, rate: system?.rates.find((r) => r.id === assumption.systemRateId)?.value.name ?? assumption.systemRateId,
      jurisdiction: index.jurisdiction(assumption.jurisdictionId)?.name ?? assumption.jurisdictionId, theirs: formatPercent(BigInt(assumption.percent)),
      ours: formatPercent(version?.percent ?? 0n), since: version?.valid.from ?? null,
    }
  }
  const named = (number: string): string => `${number} ${system?.accounts.find((a) => a.value.number === number)?.value.name ?? ''}`.trim()
  const ours = index.postingRuleOn('tax', assumption.agencyId, lastDayOf(month))?.account ?? ''
  return { kind: 'liability-account', system: name, agency: index.agency(assumption.agencyId)?.name ?? assumption.agencyId, theirs: named(assumption.account), ours: named(ours) }
}
