import { say } from '@axion/contract'
import { undo } from '../align/batches.ts'
import { recheck } from '../connect/checks.ts'
import { acting, changing, inEntity } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { releaseAbandoned } from '../documents/states.ts'
import { isMoving, isTakenOver, NotHere, passes } from '../faults/errors.ts'
import { Problem } from '../faults/problem.ts'
import { Cancelled, reasonOf, TurnOver } from '../jobs/ending.ts'
import { giveBack, renewLease, takeRun, type Lease, type RunJob } from '../jobs/leases.ts'
import { noteRun, readRun, type RunRow } from '../jobs/runs.ts'
import { sendOutbox } from '../post/postRun.ts'
import { compose, documentsToCompose } from '../post/rehearse.ts'
import { proveChanged } from '../proof/prove.ts'
import type { Services } from '../services/services.ts'
import { bulkAndPull } from './bulk.ts'
import { compareBooked } from './compare.ts'
import { proveInFull } from './fullProof.ts'
import { importFile } from './import.ts'
import { mend } from './mend.ts'
import { proveDue } from './proveDue.ts'
import { pullAndProve, type PullReport } from './pull.ts'

/** `unread`: all was done that could be, and a system could not be read. */
type Ending = 'finished' | 'unread' | 'waiting' | 'cancelled'

function endedBy(pulled: readonly PullReport[]): Ending {
  return pulled.every((report) => report.problem === null) ? 'finished' : 'unread'
}

/** A slice that was begun so often and never came to its end fails its run. */
const MOST_TRIES = 20
/** What passes is tried again so many seconds later. */
const AGAIN_SECONDS = 1
/** A lease is renewed so many times before it would run out. */
const RENEWALS = 4

/**
 * Does one slice of a run, where nobody else is at it. What is still waiting waits for its next slice; what cannot go on fails with its
 * reason, and is not tried blindly. A run is leased while it is worked at: whose worker dies is taken over by another, and a worker that
 * was only slow writes nothing more once that is so.
 * @returns whether there was a slice to do
 * @throws what passes, once the run waits to be tried again
 */
export async function perform(services: Services, job: RunJob): Promise<boolean> {
  const { database } = services
  const seconds = services.settings.waits.lease
  const lease = await takeRun(database, job, { seconds, name: services.settings.AXION_WORKER })
  if (!lease) return false
  await acting.run({ run: lease.runId, lease: lease.lease }, async () => {
    const renewing = setInterval(
      () =>
        void renewLease(database, lease, seconds).catch((error: unknown) => {
          if (!isTakenOver(error) && !isMoving(error) && !(error instanceof NotHere))
            process.stderr.write(`axion: worker: ${(error as Error).message}\n`)
        }),
      (seconds * 1000) / RENEWALS,
    )
    try {
      await performSlice(services, lease)
    } finally {
      clearInterval(renewing)
    }
  })
  return true
}

async function performSlice(services: Services, lease: Lease): Promise<void> {
  const { database } = services
  const { entityId, runId } = lease
  const again = { afterSeconds: 0, cameToItsEnd: true }
  try {
    const run = await readRun(database, entityId, runId)
    if (!run) return
    if (lease.tried > MOST_TRIES)
      throw new Problem('AXION_RUN_FAILED', {
        detail: `it was begun ${MOST_TRIES} times, and nobody came to its end.`,
      })
    const ending = await slice(services, entityId, run)
    if (ending === 'waiting') await giveBack(database, lease, again)
    else
      await noteRun(database, entityId, runId, {
        state: ending === 'cancelled' ? 'cancelled' : ending === 'unread' ? 'failed' : 'done',
        step: '',
      })
  } catch (error) {
    // Whoever took it over goes on with it, and where its entity's books are now.
    if (isTakenOver(error) || isMoving(error) || error instanceof NotHere) return
    if (error instanceof TurnOver) return void (await giveBack(database, lease, again))
    if (error instanceof Cancelled)
      return await noteRun(database, entityId, runId, { state: 'cancelled', step: '' })
    // What passes is tried again; what does not would fail for ever.
    if (passes(error) && lease.tried < MOST_TRIES) {
      await giveBack(database, lease, { afterSeconds: AGAIN_SECONDS, cameToItsEnd: false })
      throw error
    }
    await failRun(services, lease, reasonOf(error))
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
  if (is('full-proof', run)) {
    await proveInFull(services, entityId, { runId: run.run_id, month: run.payload.month })
    return 'finished'
  }
  if (is('compare', run)) {
    await compareBooked(services, entityId, run)
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
