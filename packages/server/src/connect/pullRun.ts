import { inEntity, type Transaction } from '../database/connection.ts'
import { ensureAligned, noteSetUp } from '../align/build.ts'
import { noteRun } from '../jobs/runs.ts'
import { Problem } from '../faults/problem.ts'
import { recogniseBooked } from '../post/rehearse.ts'
import type { Services } from '../services.ts'
import { monthsOf, prove } from '../tieout/prove.ts'
import { monthsToAnalyse } from '../tieout/records.ts'
import { connectedSystems, isFiles } from './held.ts'
import { pullBalances, pullSystem, type PullCount } from './pull.ts'
import { touchedBy } from './touched.ts'

export interface PullReport {
  readonly system: string
  readonly counts: readonly PullCount[]
  /** Why this system could not be pulled; the others were. */
  readonly problem: { readonly code: string; readonly facts: object } | null
}

/**
 * Pulls systems, takes note of what is booked by now, and proves what changed, in whatever month it stands.
 * A system that is down spoils only its own part.
 */
export async function pullAndProve(
  services: Services,
  entityId: string,
  runId: string,
  month: string,
  systemIds: readonly string[] | null,
): Promise<PullReport[]> {
  const { database } = services
  const systems = (await inEntity(database, entityId, (trx) => connectedSystems(trx, entityId))).filter(
    (s) => systemIds === null || systemIds.includes(s.system_id),
  )
  const reports: PullReport[] = []
  const spared = async (system: string, work: () => Promise<readonly PullCount[]>): Promise<void> => {
    try {
      reports.push({ system, counts: await work(), problem: null })
    } catch (error) {
      if (!(error instanceof Problem)) throw error
      reports.push({ system, counts: [], problem: { code: error.code, facts: error.facts } })
    }
  }
  for (const system of systems.filter((one) => !isFiles(one))) {
    await spared(system.name, () =>
      pullSystem(
        services,
        entityId,
        runId,
        system,
        (resource) =>
          noteRun(database, entityId, runId, { step: `${system.name}: ${resource.replaceAll('-', ' ')}` }),
        month,
      ),
    )
  }
  const ledger = systems.find((s) => s.role === 'ledger' && !isFiles(s))
  if (ledger && reports.some((r) => r.system === ledger.name && r.problem === null)) {
    const months = new Set([...(await inEntity(database, entityId, (trx) => monthsOf(trx, entityId))), month])
    const before = reports.length
    await spared(ledger.name, async () => {
      await pullBalances(services, entityId, ledger, [...months])
      return []
    })
    if (reports.at(-1)?.problem === null) reports.splice(before)
  }
  await noteRun(database, entityId, runId, { step: 'proving' })
  await inEntity(database, entityId, async (trx) => {
    await noteBooked(trx, entityId)
    await proveTouched(trx, entityId, month)
  })
  return reports
}

/** Proves what pulls brought that nobody has proved yet, in whatever month it stands. */
export async function proveTouched(trx: Transaction, entityId: string, month: string): Promise<void> {
  const { months, touched, setUp } = await touchedBy(trx, entityId)
  if (setUp) await noteSetUp(trx, entityId)
  for (const each of new Set([...months, ...(await monthsToAnalyse(trx, entityId)), month]))
    await prove(trx, entityId, each, touched)
  await trx('pull').where({ entity_id: entityId }).whereNull('proved_at').update({ proved_at: trx.fn.now() })
  await ensureAligned(trx, entityId, month)
}

/**
 * A booking is booked when the ledger's own journal shows it, whatever was thought of it before: one in doubt or failed is settled so
 * too. What its source changed since then waits to be booked again, or taken back where it is void there.
 */
async function noteBooked(trx: Transaction, entityId: string): Promise<void> {
  await recogniseBooked(trx, entityId)
  await trx.raw(
    `update booking b set state = 'booked', reason_code = null, reason_facts = null, uncertain_since = null, updated_at = now(),
       ledger_booking_id = coalesce(b.ledger_booking_id, e.booking_id), ledger_revision = coalesce(b.ledger_revision, e.booking_revision)
     from ledger_entry e where b.entity_id = ? and e.entity_id = b.entity_id and e.external_id = b.external_id and not e.voided and b.action = 'book'
       and b.state = 'sent'`,
    [entityId],
  )
  // A void shows in the journal too, whatever became of its answer.
  await trx.raw(
    `update booking b set state = 'withdrawn', ledger_booking_id = null, ledger_revision = null, accepted_revision = null, reason_code = null, reason_facts = null, uncertain_since = null, updated_at = now()
     from ledger_entry e where b.entity_id = ? and e.entity_id = b.entity_id and e.booking_id = b.ledger_booking_id and e.voided and b.action = 'void' and b.state in ('failed', 'in-doubt')`,
    [entityId],
  )
  // A booking for the same amounts on the other side takes its document's booking out, where a ledger has no void.
  await trx.raw(
    `update booking b set state = 'withdrawn', updated_at = now() from booking r join ledger_entry e on e.entity_id = r.entity_id and e.external_id = r.external_id and not e.voided
     where b.entity_id = ? and r.entity_id = b.entity_id and r.system_id = b.system_id and r.document_id = b.document_id and r.kind = 'reversal' and r.state = 'booked'
       and b.kind in ('invoice', 'credit-note') and b.state in ('booked', 'changed')`,
    [entityId],
  )
  // What somebody voided in the ledger is gone there: it can only be booked anew.
  await trx.raw(
    `update booking b set state = 'changed', ledger_booking_id = null, ledger_revision = null, accepted_revision = null, updated_at = now()
     from ledger_entry e where b.entity_id = ? and e.entity_id = b.entity_id and e.booking_id = b.ledger_booking_id and e.voided and b.action = 'book' and b.state in ('booked', 'changed') and b.kind in ('invoice', 'credit-note')`,
    [entityId],
  )
  await trx.raw(
    `update booking b set state = 'changed', updated_at = now() from source_document d
     where b.entity_id = ? and d.entity_id = b.entity_id and d.system_id = b.system_id and d.document_id = b.document_id and d.kind = b.kind
       and d.revision <> b.source_revision and d.status not in ('void', 'draft') and b.state in ('booked', 'sent', 'rehearsed', 'failed')`,
    [entityId],
  )
  // A void source has nothing to send any more; what is booked of it stays until it is taken back.
  await trx.raw(
    `update booking b set state = case when b.ledger_booking_id is null then 'withdrawn' else 'booked' end, run_id = null, updated_at = now() from source_document d
     where b.entity_id = ? and d.entity_id = b.entity_id and d.system_id = b.system_id and d.document_id = b.document_id and d.kind = b.kind and d.status = 'void'
       and b.state in ('rehearsed', 'blocked', 'failed', 'changed')`,
    [entityId],
  )
}
