import type { Remedy } from '@axion/contract'
import { carryOut, isSetUp, unitsOf } from '../align/remedies.ts'
import { audit } from '../audit/audit.ts'
import { changing, inEntity, type Books } from '../database/connection.ts'
import type { StoredDocument } from '../documents/units.ts'
import { Problem } from '../faults/problem.ts'
import { noteRun, readRun, type RunRow } from '../jobs/runs.ts'
import { correctionsOf, putCorrections } from '../post/correct.ts'
import { queueFor } from '../post/outbox.ts'
import { sendOutbox } from '../post/postRun.ts'
import { compose } from '../post/rehearse.ts'
import { takeBack } from '../post/takeBack.ts'
import { prove, proveChanged } from '../proof/prove.ts'
import type { Services } from '../services/services.ts'
import { causeInWords } from '../tieout/causes.ts'
import { acceptEdits, previewRemedy, unitsOfCause } from '../tieout/remedies.ts'
import { tell } from '../tieout/tell.ts'
import { pullAndProve } from './pull.ts'

type MendRun = RunRow<'mend'>
type CauseRemedy = Exclude<Extract<Remedy, { readonly cause: string }>, { readonly kind: 'tell' }>

/**
 * One cause mended: what was previewed goes to the ledger, and the ledger is pulled, which alone can prove it. Each step is
 * recorded, so that a worker that takes over does none of them twice.
 */
export async function mend(
  services: Services,
  entityId: string,
  run: MendRun,
): Promise<'finished' | 'unread' | 'waiting' | 'cancelled'> {
  const { month } = run.payload
  const { database } = services
  if (run.report['changed'] !== true) await begin(services, entityId, run)
  await noteRun(database, entityId, run.run_id, { step: 'sending' })
  const sent = await sendOutbox(services, entityId, run.run_id)
  if (sent !== 'finished') return sent
  const pulled = await pullAndProve(services, entityId, { runId: run.run_id, month, systemIds: null })
  const { problems } = (await readRun(database, entityId, run.run_id))?.report ?? {}
  await noteRun(database, entityId, run.run_id, {
    report: { changed: true, pulled, ...(problems === undefined ? {} : { problems }) },
  })
  return pulled.every((report) => report.problem === null) ? 'finished' : 'unread'
}

async function begin(services: Services, entityId: string, run: MendRun): Promise<void> {
  const { month, remedy, revision } = run.payload
  const { database } = services
  if (remedy.kind === 'tell') return tellOf(services, entityId, run, remedy.cause)
  if ('cause' in remedy) return changing(database, entityId, (books) => putInOutbox(books, run, remedy))
  await noteRun(database, entityId, run.run_id, {
    step: isSetUp(remedy) ? 'sending the change' : 'changing the baseline',
  })
  await carryOut(services, entityId, { month, remedy, revision, person: run.started_by })
  if (!isSetUp(remedy)) {
    return changing(database, entityId, async (books) => {
      await proveChanged(books, month)
      await noteBegun(books, run, 0)
    })
  }
  await changing(database, entityId, async (books) => {
    const units = await unitsOf(books, month, remedy)
    await noteBegun(books, run, await bookAgain(books, run, units))
  })
}

/** What a tax service is told; a worker that takes over tells the rest of it. */
async function tellOf(services: Services, entityId: string, run: MendRun, cause: string): Promise<void> {
  const { month, revision } = run.payload
  const { database } = services
  const about = await inEntity(database, entityId, (books) => causeInWords(books, month, cause))
  // What is told already by a worker that died is refused under its old revision, and said; it is no other telling before the next pull.
  await noteRun(database, entityId, run.run_id, { step: 'telling the service', report: {} })
  const { told, problems } = await tell(services, entityId, {
    month,
    cause,
    revision,
  })
  await noteRun(database, entityId, run.run_id, { report: { changed: true, problems } })
  await changing(database, entityId, ({ trx }) =>
    audit(trx, 'mended', about, { after: { remedy: 'tell', documents: told } }),
  )
}

async function putInOutbox(books: Books, run: MendRun, remedy: CauseRemedy): Promise<void> {
  const { trx } = books
  const { month, revision } = run.payload
  const preview = await previewRemedy(books, month, remedy)
  if (preview.revision !== revision) throw new Problem('AXION_STALE', { what: 'This cause' })
  const about = await causeInWords(books, month, remedy.cause)
  const documents = (await unitsOfCause(books, month, remedy.cause)).map((unit) => unit.number)
  const count = await ACTIONS[remedy.kind](books, run, remedy.cause)
  await audit(trx, 'mended', about, {
    after: {
      remedy: remedy.kind,
      documents,
      unproved: preview.unproved,
    },
  })
  await noteBegun(books, run, count)
}

/** Composes documents anew and puts them into the outbox. */
async function bookAgain(
  books: Books,
  run: MendRun,
  units: readonly { readonly system_id: string; readonly document_id: string }[],
): Promise<number> {
  const { trx, entityId } = books
  const keys = units.map((u) => `${u.system_id}/${u.document_id}`)
  const documents = (await trx('source_document')
    .where({ entity_id: entityId })
    .whereRaw('named = any(?)', [keys])) as StoredDocument[]
  await compose(books, documents, run.started_by)
  await queueFor(books, run.run_id, units)
  return documents.length
}

const ACTIONS: Readonly<
  Record<CauseRemedy['kind'], (books: Books, run: MendRun, cause: string) => Promise<number>>
> = {
  'book-again': async (books, run, cause) =>
    bookAgain(books, run, await unitsOfCause(books, run.payload.month, cause)),
  correct: async (books, run, cause) => {
    const corrections = await correctionsOf(books, run.payload.month, cause)
    await putCorrections(books, run.run_id, corrections)
    return corrections.length
  },
  // Of doubles one stays; of what is void at its source nothing does.
  'take-back': async (books, run, cause) =>
    takeBack(
      books,
      run.run_id,
      await unitsOfCause(books, run.payload.month, cause),
      cause === 'duplicate' ? 1 : 0,
    ),
  accept: async (books, run, cause) => {
    const { month } = run.payload
    const units = await unitsOfCause(books, month, cause)
    await acceptEdits(books, units)
    await prove(books, month, {
      documents: new Set(units.map((u) => `${u.system_id}/${u.document_id}`)),
      entries: new Set(),
    })
    return units.length
  },
}

function noteBegun({ trx, entityId }: Books, run: MendRun, total: number): Promise<unknown> {
  return trx('run')
    .where({ entity_id: entityId, run_id: run.run_id })
    .update({ report: JSON.stringify({ changed: true }), total })
}
