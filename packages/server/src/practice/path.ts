import type { PathView } from '@axion/contract'
import { formatAmount } from '@axion/core'
import type { Knex } from 'knex'
import { findingsOfMonth, stakeOfMonth } from '../align/grid/findings.ts'
import { awaitedSystems } from '../connect/awaited.ts'
import { limitsOf, notFresh } from '../connect/fresh.ts'
import { CHECKS } from '../connect/readiness.ts'
import type { Books } from '../database/connection.ts'
import { withDetermination } from '../documents/ids.ts'
import { countNotPosted } from '../documents/notPosted.ts'
import { LEFT_OUT, states } from '../documents/states.ts'
import { documentsWithBookings } from '../documents/withBookings.ts'
import { currentRun } from '../jobs/routes.ts'
import { connectedSystems } from '../setUp/held.ts'

/** SQL, of a document with its booking `b`: it is not in the ledger yet. */
const WAITS = `(b.state is null or b.state not in ${states('sent', 'booked')})`

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
  const documents = (): Knex.QueryBuilder =>
    documentsWithBookings(trx)
      .where({ 'd.entity_id': entityId, 'd.period': month })
      .whereNotIn('d.status', ['draft', 'void'])
      .whereRaw(`not ${LEFT_OUT}`)
  const post = (await documents().first(
    trx.raw(
      `count(*) as documents, count(*) filter (where ${WAITS}) as waiting, count(*) filter (where b.state in ${states('failed', 'in-doubt', 'blocked')}) as failed`,
    ),
  )) as unknown as Record<'documents' | 'waiting' | 'failed', string>
  // Only of what waits, which is little once a month is booked: no page sums all facts.
  const { tax } = (await documents()
    .whereRaw(WAITS)
    .joinRaw(withDetermination('d'))
    .joinRaw(
      `cross join lateral (select sum(f.in_base) as tax from tax_fact f where f.entity_id = d.entity_id and f.unit_id = own.unit_id and f.voice = 'stated') t`,
    )
    .first(trx.raw('coalesce(sum(t.tax), 0)::bigint as tax'))) as unknown as { tax: string }
  const unit = (await trx('tie_unit')
    .where({ entity_id: entityId, period: month })
    .first(
      trx.raw(
        'coalesce(sum(unproved), 0) as unproved, coalesce(sum(unproved_net), 0) as net, count(*) filter (where not proved and cause is not null) as documents, count(*) filter (where settled is not null) as apart',
      ),
    )) as { unproved: string; net: string; documents: string; apart: string }
  return {
    currency,
    connect: {
      systems: systems.length,
      ready: systems.filter(
        (s) => checked.includes(s.system_id) && !blocked.some((b) => b.system_id === s.system_id),
      ).length,
      failing: blocked.length,
      pulled: Number(post.documents) > 0 && awaited.length === 0,
      stale: (await notFresh(books, systems)).length,
      limits: await limitsOf(
        books,
        systems.filter(({ role }) => !['payments', 'bank'].includes(role)),
      ),
    },
    align: {
      findings: Object.values(byKind).reduce((total, n) => total + n, 0),
      byKind,
      stake: formatAmount(await stakeOfMonth(books, month), currency),
    },
    post: {
      waiting: Number(post.waiting),
      failed: Number(post.failed),
      tax: formatAmount(BigInt(tax), currency),
      notYet: await countNotPosted(books, month),
    },
    tieout: {
      unproved: formatAmount(BigInt(unit.unproved), currency),
      unprovedNet: formatAmount(BigInt(unit.net), currency),
      documents: Number(unit.documents),
      apart: Number(unit.apart),
    },
    run,
  }
}
