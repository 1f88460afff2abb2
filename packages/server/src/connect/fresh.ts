import { say, type Code, type NotFresh, type PulledView } from '@axion/contract'
import type { Facts } from '@axion/core'
import { inOrder, type Transaction } from '../database/connection.ts'
import type { SystemRow } from './held.ts'

interface EndedPull {
  readonly finished_at: Date
  readonly problem: { readonly code: Code; readonly facts: Facts } | null
}

/** A system's last pull that ended, and the last one that ended well; null where there is none such. */
export async function lastPulls(
  trx: Transaction,
  entityId: string,
  systemId: string,
): Promise<{
  readonly last: EndedPull | null
  readonly good: (EndedPull & { readonly pull_id: string; readonly counts: PulledView['counts'] }) | null
}> {
  const ended = () =>
    trx('pull').where({ entity_id: entityId, system_id: systemId, ended: true }).orderBy('pull_id', 'desc')
  return {
    last: ((await ended().first()) as EndedPull | undefined) ?? null,
    good:
      ((await ended().whereNull('problem').first()) as
        (EndedPull & { pull_id: string; counts: PulledView['counts'] }) | undefined) ?? null,
  }
}

/** Systems whose last pull failed: what is known of them is from before, and nothing that rests on them is fresh. */
export async function notFresh(
  trx: Transaction,
  entityId: string,
  systems: readonly Pick<SystemRow, 'system_id' | 'name'>[],
): Promise<NotFresh[]> {
  const found = await inOrder(systems, async ({ system_id: systemId, name }): Promise<NotFresh[]> => {
    const { last, good } = await lastPulls(trx, entityId, systemId)
    if (!last?.problem) return []
    return [
      {
        system: name,
        since: good?.finished_at.toISOString() ?? null,
        failedAt: last.finished_at.toISOString(),
        ...say(last.problem.code, last.problem.facts),
      },
    ]
  })
  return found.flat()
}
