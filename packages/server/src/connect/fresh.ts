import type { Columns } from '../database/row.ts'
import { say, type Code, type Limits, type NotFresh, type PulledView, type Resource } from '@axion/contract'
import type { Facts } from '@axion/core'
import { inOrder, type Books } from '../database/connection.ts'
import { olderSince } from '../proof/due.ts'
import type { SystemRow } from '../setUp/held.ts'

interface EndedPull extends Columns<'pull', 'finished_at' | 'problem'> {
  readonly problem: { readonly code: Code; readonly facts: Facts } | null
}

/** A system's last pull that ended, and the last one that ended well; null where there is none such. */
export async function lastPulls(
  { trx, entityId }: Books,
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

/**
 * What systems have that nobody could look at.
 * @param resource of one kind alone, where a page is about that
 */
export async function limitsOf(
  books: Books,
  systems: readonly Pick<SystemRow, 'system_id' | 'name'>[],
  resource?: Resource,
): Promise<Limits> {
  const { trx, entityId } = books
  const pulls = await inOrder(systems, ({ system_id: systemId }) => lastPulls(books, systemId))
  const named = (isIt: (pull: (typeof pulls)[number]) => boolean): string[] =>
    systems.filter((_, at) => isIt(pulls[at] as (typeof pulls)[number])).map(({ name }) => name)
  const { unread } = (await trx('finding')
    .where({ entity_id: entityId, ...(resource ? { resource } : {}) })
    .whereIn(
      'system_id',
      systems.map(({ system_id: systemId }) => systemId),
    )
    .first(trx.raw('count(*)::int as unread'))) as { unread: number }
  const notPulled = named(({ good }) => good === null)
  return {
    notPulled,
    failed: named(({ last, good }) => good !== null && last?.problem != null),
    unread,
    older: await olderSince(books),
    all: notPulled.length === systems.length,
  }
}

/** Systems whose last pull failed: what is known of them is from before, and nothing that rests on them is fresh. */
export async function notFresh(
  books: Books,
  systems: readonly Pick<SystemRow, 'system_id' | 'name'>[],
): Promise<NotFresh[]> {
  const found = await inOrder(systems, async ({ system_id: systemId, name }): Promise<NotFresh[]> => {
    const { last, good } = await lastPulls(books, systemId)
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
