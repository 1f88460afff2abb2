import type { Columns } from '../database/row.ts'
import type { BatchView } from '@axion/contract'
import { audit } from '../audit/audit.ts'
import { unsee } from '../baseline/authority.ts'
import { unimport } from '../baseline/import.ts'
import { uncopy } from './copied/take.ts'
import { unrevise } from '../baseline/revise.ts'
import { unseal } from '../bridges/secrets.ts'
import { changing, inEntity, type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'
import type { Services } from '../services/services.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { connectedSystems } from '../setUp/held.ts'
import { type Step } from '../setUp/steps.ts'
import { reinstate } from './left.ts'

interface BatchRow extends Columns<
  'align_batch',
  'batch_id' | 'action' | 'says' | 'person' | 'at' | 'steps' | 'size' | 'undone_at' | 'undone_by'
> {
  readonly steps: readonly Step[]
}

const SHOWN = 8

/** What was done last, the newest first, and whether it can be taken back. */
export async function latestBatches({ trx, entityId }: Books): Promise<BatchView[]> {
  const rows = (await trx('align_batch')
    .where({ entity_id: entityId })
    .orderBy('batch_id', 'desc')
    .limit(SHOWN)
    .select(
      'batch_id',
      'action',
      'says',
      'person',
      'at',
      'size',
      'undone_at',
      'undone_by',
      trx.raw('not jsonb_path_exists(steps, ?::jsonpath) as back', ['$[*] ? (@.did == "created")']),
    )) as (Omit<BatchRow, 'steps'> & { back: boolean })[]
  return rows.map((row) => ({
    id: row.batch_id,
    action: row.action,
    says: row.says,
    person: row.person,
    at: row.at.toISOString(),
    size: row.size,
    undoneBy: row.undone_by,
    canUndo: row.back && row.undone_at === null,
  }))
}

/**
 * Takes back what was done: the last step first, what lies here in one transaction, what was sent to systems by sending what they held.
 * @throws AXION_NOT_UNDONE where something was changed again since; then nothing here is changed
 */
export async function undo(
  services: Services,
  entityId: string,
  batchId: string,
  person: string,
): Promise<void> {
  const { database } = services
  const batch = await inEntity(database, entityId, (books) => readBatch(books, batchId))
  for (const [at, step] of [...batch.steps.entries()].reverse()) {
    if (step.did !== 'sent' || step.back) continue
    await sendBack(services, entityId, step)
    // Noted one by one: whatever fails after it, it is not sent back twice.
    await inEntity(database, entityId, ({ trx }) =>
      trx('align_batch')
        .where({ entity_id: entityId, batch_id: batchId })
        .update({ steps: trx.raw('jsonb_set(steps, ?::text[], ?::jsonb)', [[String(at), 'back'], 'true']) }),
    )
  }
  await changing(database, entityId, async (books) => {
    const { trx } = books
    await readBatch(books, batchId)
    for (const step of [...batch.steps].reverse()) await takeBackHere(books, step)
    await trx('align_batch')
      .where({ entity_id: entityId, batch_id: batchId })
      .update({ undone_at: trx.fn.now(), undone_by: person })
    await audit(trx, 'undone', batch.says, {
      after: {
        action: batch.action,
        steps: batch.size,
      },
    })
    await noteSetUp(books)
  })
}

async function readBatch({ trx, entityId }: Books, batchId: string): Promise<BatchRow> {
  const batch = (await trx('align_batch')
    .where({ entity_id: entityId, batch_id: batchId })
    .forUpdate()
    .first()) as BatchRow | undefined
  if (!batch) throw new Problem('AXION_NOT_FOUND', { what: 'such change to take back' })
  if (batch.undone_at)
    throw new Problem('AXION_NOTHING_TO_DO', { what: 'take back: it was taken back already' })
  if (batch.steps.some((step) => step.did === 'created'))
    throw new Problem('AXION_NOT_UNDONE', {
      what: batch.says,
      why: 'what was created in a system is removed there',
    })
  return batch
}

async function sendBack(
  services: Services,
  entityId: string,
  step: Extract<Step, { readonly did: 'sent' }>,
): Promise<void> {
  const row = (await inEntity(services.database, entityId, (books) => connectedSystems(books))).find(
    (s) => s.system_id === step.systemId,
  )
  if (!row)
    throw new Problem('AXION_NOT_UNDONE', { what: step.object, why: 'its system is not connected any more' })
  if (!row.goesOut)
    throw new Problem('AXION_NOT_UNDONE', {
      what: step.object,
      why: `its scope sends nothing to ${row.name}`,
    })
  const bridge = services.bridges.open(
    row.name,
    row.address,
    unseal(row.token_sealed, services.settings.AXION_SECRET_KEY),
  )
  await bridge.change(step.resource, step.objectId, step.before, step.revision)
}

async function takeBackHere(books: Books, step: Step): Promise<void> {
  const { trx, entityId } = books
  if (step.did === 'imported') await unimport(books, step.at)
  if (step.did === 'revised') await unrevise(books, step)
  if (step.did === 'seen') await unsee(books, step.things)
  if (step.did === 'copied') await uncopy(books, step)
  if (step.did === 'left') await reinstate(books, step)
  if (step.did !== 'linked') return
  const key = { entity_id: entityId, system_id: step.systemId, kind: step.kind, object_id: step.objectId }
  const now = await trx('link').where(key).first('baseline_id')
  if ((now?.baseline_id ?? null) !== step.after)
    throw new Problem('AXION_NOT_UNDONE', { what: step.objectId, why: 'it was linked otherwise since' })
  if (step.before === null) await trx('link').where(key).delete()
  else
    await trx('link')
      .insert({ ...key, baseline_id: step.before, linked_by: 'undo', evidence: json([]) })
      .onConflict(['entity_id', 'system_id', 'kind', 'object_id'])
      .merge()
}
