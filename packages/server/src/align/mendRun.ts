import { pullAndProve } from '../connect/pullRun.ts'
import { inEntity } from '../database/connection.ts'
import { noteRun, type RunRow } from '../jobs/runs.ts'
import { compose } from '../post/rehearse.ts'
import { sendOutbox } from '../post/postRun.ts'
import type { Services } from '../services.ts'
import type { StoredDocument } from '../tieout/units.ts'
import { sendRemedy, unitsOf } from './remedies.ts'

/**
 * One cause mended: the right value goes to the system, the documents that it explains are booked again, and the ledger is
 * pulled, which alone can prove them. Each step is recorded, so that a worker that takes over does none of them twice.
 */
export async function mend(services: Services, entityId: string, run: RunRow<'mend'>): Promise<'finished' | 'waiting' | 'cancelled'> {
  const { month, remedy, revision } = run.payload
  const { database } = services
  if (run.report['changed'] !== true) {
    await noteRun(database, entityId, run.run_id, { step: 'sending the change' })
    await sendRemedy(services, entityId, month, remedy, revision, run.started_by)
    await inEntity(database, entityId, async (trx) => {
      const units = await unitsOf(trx, entityId, month, remedy)
      const documents = (await trx('source_document').where({ entity_id: entityId }).whereIn('document_id', units.map((u) => u.document_id))) as StoredDocument[]
      await compose(trx, entityId, documents)
      await trx('booking').where({ entity_id: entityId, state: 'rehearsed' }).whereIn('document_id', documents.map((d) => d.document_id)).update({ state: 'waiting', run_id: run.run_id })
      await trx('run').where({ entity_id: entityId, run_id: run.run_id }).update({ report: JSON.stringify({ changed: true }), total: documents.length })
    })
  }
  await noteRun(database, entityId, run.run_id, { step: 'booking again' })
  const sent = await sendOutbox(services, entityId, run.run_id)
  if (sent !== 'finished') return sent
  const pulled = await pullAndProve(services, entityId, run.run_id, month, null)
  await noteRun(database, entityId, run.run_id, { report: { changed: true, pulled } })
  return 'finished'
}
