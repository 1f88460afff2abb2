import type { PathView, PostState } from '@axion/contract'
import { formatAmount } from '@axion/core'
import { openingOf } from '../align/opening/accounts.ts'
import { findingsOfMonth, stakeOfMonth } from '../align/grid/findings.ts'
import { awaitedSystems } from '../connect/awaited.ts'
import { limitsOf, notFresh } from '../connect/fresh.ts'
import { CHECKS } from '../connect/readiness.ts'
import type { Books } from '../database/connection.ts'
import { countNotPosted } from '../documents/notPosted.ts'
import { unitSums } from '../documents/unitSums.ts'
import { currentRun } from '../jobs/routes.ts'
import { connectedSystems } from '../setUp/held.ts'

/** What is for the books, as Post has it: drafts wait at their source, and scopes leave documents out. */
const NO_BUSINESS: readonly PostState[] = ['draft', 'void', 'void-at-source', 'out-of-range', 'kind-off']
const THERE: readonly PostState[] = ['sent', 'booked']
const FAILED: readonly PostState[] = ['failed', 'in-doubt', 'blocked']

/** How many documents of a month are for the books, wait to be in the ledger, with their tax, or cannot go on by themselves. */
async function waitingOf(
  { trx, entityId }: Books,
  month: string,
): Promise<{
  readonly documents: number
  readonly waiting: number
  readonly failed: number
  readonly tax: string
}> {
  const { rows } = (await trx.raw(
    `select coalesce(sum(documents), 0)::int as documents, coalesce(sum(documents) filter (where waits), 0)::int as waiting, coalesce(sum(tax) filter (where waits), 0)::bigint::text as tax,
       coalesce(sum(documents) filter (where state = any(:failed)), 0)::int as failed
     from (select *, state <> all(:there) as waits from post_sum where entity_id = :e and period = :p and state <> all(:none)) s`,
    { e: entityId, p: month, none: [...NO_BUSINESS], there: [...THERE], failed: [...FAILED] } as never,
  )) as { rows: [{ documents: number; waiting: number; failed: number; tax: string }] }
  return rows[0]
}

/** What waits at each stage of a month: the path across the top, and a row of the practice board. */
export async function pathView(books: Books, month: string): Promise<PathView> {
  const { trx, entityId, currency } = books
  // First: whoever is told of a run follows it, and reads anew what it changed while the rest was asked for.
  const run = await currentRun(books)
  const systems = await connectedSystems(books)
  const failing = await trx('readiness')
    .where({ entity_id: entityId, period: month, state: 'fails' })
    .select('system_id', 'check_code')
  const blocked = failing.filter((f) => CHECKS.find((c) => c.code === f.check_code)?.blocks)
  const checked = (
    await trx('readiness').where({ entity_id: entityId, period: month }).distinct('system_id')
  ).map((r) => r.system_id)
  const awaited = await awaitedSystems(books, systems)
  const byKind = await findingsOfMonth(books, month)
  const post = await waitingOf(books, month)
  const limits = await limitsOf(
    books,
    systems.filter(({ role }) => !['payments', 'bank'].includes(role)),
  )
  const unit = await unitSums(books, month)
  return {
    currency,
    opening: await openingOf(books, month),
    connect: {
      systems: systems.length,
      ready: systems.filter(
        (s) => checked.includes(s.system_id) && !blocked.some((b) => b.system_id === s.system_id),
      ).length,
      failing: blocked.length,
      pulled: post.documents > 0 && awaited.length === 0,
      empty:
        post.documents === 0 &&
        awaited.length === 0 &&
        limits.notPulled.length + limits.failed.length + limits.unread === 0,
      stale: (await notFresh(books, systems)).length,
      limits,
    },
    align: {
      findings: Object.values(byKind).reduce((total, n) => total + n, 0),
      byKind,
      stake: formatAmount(await stakeOfMonth(books, month), currency),
    },
    post: {
      waiting: post.waiting,
      failed: post.failed,
      tax: formatAmount(BigInt(post.tax), currency),
      notYet: await countNotPosted(books, month),
    },
    tieout: {
      unproved: formatAmount(BigInt(unit.unproved), currency),
      unprovedNet: formatAmount(BigInt(unit.net), currency),
      documents: unit.open,
      apart: unit.apart,
    },
    run,
  }
}
