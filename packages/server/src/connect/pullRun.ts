import { inEntity } from '../database/connection.ts'
import { noteRun } from '../jobs/runs.ts'
import { Problem } from '../faults/problem.ts'
import type { Services } from '../services.ts'
import { prove } from '../tieout/prove.ts'
import { connectedSystems } from './held.ts'
import { pullSystem, type PullCount } from './pull.ts'

export interface PullReport {
  readonly system: string
  readonly counts: readonly PullCount[]
  /** Why this system could not be pulled; the others were. */
  readonly problem: { readonly code: string; readonly facts: object } | null
}

/** Pulls systems, takes note of what is booked by now, and proves the month. A system that is down spoils only its own part. */
export async function pullAndProve(services: Services, entityId: string, runId: string, month: string, systemIds: readonly string[] | null): Promise<PullReport[]> {
  const { database } = services
  const systems = (await inEntity(database, entityId, (trx) => connectedSystems(trx, entityId))).filter((s) => systemIds === null || systemIds.includes(s.system_id))
  const reports: PullReport[] = []
  for (const system of systems) {
    try {
      const counts = await pullSystem(services, entityId, runId, system, month, (resource) => noteRun(database, entityId, runId, { step: `${system.name}: ${resource.replace('-', ' ')}` }))
      reports.push({ system: system.name, counts, problem: null })
    } catch (error) {
      if (!(error instanceof Problem)) throw error
      reports.push({ system: system.name, counts: [], problem: { code: error.code, facts: error.facts } })
    }
  }
  await noteRun(database, entityId, runId, { step: 'proving' })
  await inEntity(database, entityId, async (trx) => {
    await noteBooked(trx, entityId)
    await prove(trx, entityId, month)
  })
  return reports
}

/**
 * A booking is booked when the ledger's own journal shows it, whatever was thought of it before: one in doubt or failed is settled so too.
 * What its source changed since then waits to be booked again.
 */
async function noteBooked(trx: import('../database/connection.ts').Transaction, entityId: string): Promise<void> {
  await trx.raw(
    `update booking b set state = 'booked', reason_code = null, reason_facts = null, uncertain_since = null, updated_at = now(),
       ledger_booking_id = coalesce(b.ledger_booking_id, e.booking_id), ledger_revision = coalesce(b.ledger_revision, e.booking_revision)
     from ledger_entry e where b.entity_id = ? and e.entity_id = b.entity_id and e.external_id = b.external_id and not e.voided
       and (b.state in ('in-doubt', 'failed') and b.ledger_booking_id is null or b.state = 'sent')`,
    [entityId],
  )
  await trx.raw(
    `update booking b set state = 'changed', updated_at = now() from source_document d
     where b.entity_id = ? and d.entity_id = b.entity_id and d.system_id = b.system_id and d.document_id = b.document_id
       and d.revision <> b.source_revision and b.state in ('booked', 'sent', 'rehearsed', 'failed')`,
    [entityId],
  )
}
