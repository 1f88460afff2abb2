import { saying, say } from '@axion/contract'
import { undo } from '../align/batches.ts'
import { recheck } from '../connect/checks.ts'
import { acting, changing, inEntity, json } from '../database/connection.ts'
import { releaseAbandoned } from '../documents/states.ts'
import { passes } from '../faults/errors.ts'
import { Problem } from '../faults/problem.ts'
import { Cancelled, reasonOf, TurnOver } from '../jobs/ending.ts'
import { noteRun, readRun, type RunRow } from '../jobs/runs.ts'
import { sendOutbox } from '../post/postRun.ts'
import { compose, documentsToCompose } from '../post/rehearse.ts'
import { proveChanged } from '../proof/prove.ts'
import { RUN_QUEUE, type RunJob } from '../queue/queue.ts'
import type { Services } from '../services/services.ts'
import { bulkAndPull } from './bulk.ts'
import { importFile } from './import.ts'
import { mend } from './mend.ts'
import { proveDue } from './proveDue.ts'
import { pullAndProve, type PullReport } from './pull.ts'

/** `unread`: all was done that could be, and a system could not be read. */
type Ending = 'finished' | 'unread' | 'waiting' | 'cancelled'

function endedBy(pulled: readonly PullReport[]): Ending {
  return pulled.every((report) => report.problem === null) ? 'finished' : 'unread'
}

/**
 * Does one slice of a run. What is still waiting is queued again; what cannot go on fails with its reason, and is not tried blindly.
 * A slice that takes longer than the queue thinks is given out again: whoever gets it then leaves it to the worker that holds the run's lock, which ends with that worker's connection.
 */
export async function perform(
  services: Services,
  job: RunJob,
  { isLast = false }: { readonly isLast?: boolean } = {},
): Promise<void> {
  const { database } = services
  const connection: unknown = await (
    database.client as { acquireConnection(): Promise<unknown> }
  ).acquireConnection()
  const lock = async (call: string): Promise<boolean> =>
    (
      (await database
        .raw(`select ${call}(hashtextextended(?, 0)) as got`, [job.runId])
        .connection(connection as never)) as { rows: { got: boolean }[] }
    ).rows[0]?.got === true
  try {
    if (!(await lock('pg_try_advisory_lock')))
      return await services.queue.send(job, {
        afterSeconds: services.settings.waits.anotherWorks,
      })
    try {
      await acting.run({ run: job.runId }, () => performSlice(services, job, { isLast }))
    } finally {
      await lock('pg_advisory_unlock')
    }
  } finally {
    await (database.client as { releaseConnection(held: unknown): Promise<void> }).releaseConnection(
      connection,
    )
  }
}

async function performSlice(
  services: Services,
  { entityId, runId }: RunJob,
  { isLast }: { readonly isLast: boolean },
): Promise<void> {
  const run = await readRun(services.database, entityId, runId)
  if (!run || ['done', 'failed', 'cancelled'].includes(run.state)) return
  await noteRun(services.database, entityId, runId, { state: 'running' })
  try {
    const ending = await slice(services, entityId, run)
    if (ending === 'waiting') await services.queue.send({ entityId, runId })
    else
      await noteRun(services.database, entityId, runId, {
        state: ending === 'cancelled' ? 'cancelled' : ending === 'unread' ? 'failed' : 'done',
        step: '',
      })
  } catch (error) {
    if (error instanceof TurnOver) return await services.queue.send({ entityId, runId })
    if (error instanceof Cancelled)
      return await noteRun(services.database, entityId, runId, { state: 'cancelled', step: '' })
    // What passes is tried again by the queue; what does not would fail for ever.
    if (passes(error) && !isLast) throw error
    await failRun(services, { entityId, runId }, reasonOf(error))
  }
}

/** Ends a run as failed, with the reason; what it left in the outbox nobody sends any more. */
async function failRun(
  services: Services,
  { entityId, runId }: RunJob,
  { code, facts }: ReturnType<typeof reasonOf>,
): Promise<void> {
  const run = await readRun(services.database, entityId, runId)
  const { says, mend: how } = say(code, facts)
  await noteRun(services.database, entityId, runId, {
    state: 'failed',
    step: '',
    report: { ...run?.report, problem: { code, says, mend: how } },
  })
  await changing(services.database, entityId, async (books) => {
    // A pull that it was in the middle of did not come to its end: what is known of that system is from before.
    await books
      .trx('pull')
      .where({ entity_id: entityId, run_id: runId, ended: false })
      .update({ problem: json({ code, facts }), ended: true, finished_at: books.trx.fn.now() })
    await releaseAbandoned(books)
  })
}

/** Ends runs that nobody works at: no slice of theirs is queued or under way, and none will be. */
export async function endForsaken(services: Services): Promise<void> {
  const { rows } = (await services.database.raw(
    `select u.entity_id, u.run_id from unfinished_runs() u where (u.updated_at < now() - make_interval(secs => :silent) or u.updated_at > now() + make_interval(secs => :silent))
       and not exists (select from pgboss.job j where j.name = :queue and j.data->>'runId' = u.run_id::text and j.state in ('created', 'retry', 'active'))
       and pg_try_advisory_xact_lock(hashtextextended(u.run_id::text, 0))`,
    { silent: services.settings.waits.silence, queue: RUN_QUEUE },
  )) as { rows: { entity_id: string; run_id: string }[] }
  for (const { entity_id: entityId, run_id: runId } of rows)
    await failRun(
      services,
      { entityId, runId },
      saying('AXION_RUN_FAILED', { detail: 'nobody works at it any more.' }),
    )
}

async function slice(services: Services, entityId: string, run: RunRow): Promise<Ending> {
  const { database } = services
  const is = <K extends RunRow['kind']>(kind: K, row: RunRow): row is RunRow<K> => row.kind === kind
  if (is('pull', run)) {
    const reports = await pullAndProve(services, entityId, {
      runId: run.run_id,
      ...run.payload,
      cancellable: true,
    })
    await noteRun(database, entityId, run.run_id, { report: { pulled: reports } })
    if (reports.every((r) => r.problem === null))
      await recheck(services, await entityOf(services, entityId), run.payload.month)
    return endedBy(reports)
  }
  if (is('rehearse', run)) {
    await changing(database, entityId, async (books) => {
      const documents = await documentsToCompose(books, run.payload.month)
      const report = await compose(books, documents, null)
      await books
        .trx('run')
        .where({ entity_id: entityId, run_id: run.run_id })
        .update({
          total: documents.length,
          done: report.composed,
          failed: report.blocked,
          report: JSON.stringify(report),
        })
    })
    return 'finished'
  }
  if (is('prove', run)) {
    await proveDue(services, entityId, { runId: run.run_id, month: run.payload.month })
    return 'finished'
  }
  if (is('mend', run)) return mend(services, entityId, run)
  if (is('bulk', run)) return bulkAndPull(services, entityId, run)
  if (is('import', run)) return importFile(services, entityId, run)
  if (is('undo', run)) {
    const { month, batchId } = run.payload
    // A worker that takes over after it was taken back goes on with the pull.
    if (run.report['undone'] !== true) await undo(services, entityId, batchId, run.started_by)
    await noteRun(database, entityId, run.run_id, { step: 'pulling', report: { undone: true } })
    const pulled = await pullAndProve(services, entityId, { runId: run.run_id, month, systemIds: null })
    await changing(database, entityId, (books) => proveChanged(books, month))
    await noteRun(database, entityId, run.run_id, { report: { undone: true, pulled } })
    return endedBy(pulled)
  }
  if (!is('post', run) && !is('withdraw', run))
    throw new Problem('AXION_RUN_FAILED', { detail: `the kind ${run.kind} is not known` })
  await noteRun(database, entityId, run.run_id, { step: 'sending' })
  const ending = await sendOutbox(services, entityId, run.run_id)
  if (ending === 'finished' && is('withdraw', run)) {
    const pulled = await pullAndProve(services, entityId, {
      runId: run.run_id,
      month: run.payload.month,
      systemIds: null,
    })
    await noteRun(database, entityId, run.run_id, { report: { pulled } })
    return endedBy(pulled)
  }
  return ending
}

async function entityOf(
  services: Services,
  entityId: string,
): Promise<{ id: string; name: string; currency: string }> {
  const row = (await inEntity(services.database, entityId, ({ trx }) =>
    trx('legal_entity').where({ entity_id: entityId }).first(),
  )) as { name: string; base_currency: string }
  return { id: entityId, name: row.name, currency: row.base_currency }
}
