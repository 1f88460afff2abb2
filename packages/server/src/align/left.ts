import type { LeaveRequest } from '@axion/contract'
import { wordsOf } from '@axion/contract'
import type { Facts } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { json, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { noteFacts } from '../setUp/clock.ts'
import { type Step, recordBatch } from '../setUp/steps.ts'
import { countFindings, ensureAligned } from './build.ts'

/**
 * Leaves a finding as it is, with a reason: it counts no more, in any month, and stays in sight. Without a reason it is taken up again.
 * @throws AXION_NOT_FOUND where the month's grid has no such finding
 */
export async function leave(
  trx: Transaction,
  entityId: string,
  month: string,
  person: string,
  request: LeaveRequest,
): Promise<void> {
  await ensureAligned(trx, entityId, month)
  const { step, says } = await putLeft(trx, entityId, month, person, request)
  await recordBatch(trx, entityId, person, request.reason === null ? 'taken-up' : 'left', says, [step])
  await noteFacts(trx, entityId)
}

/** The same for one of many: what is counted anew is left to the caller's alignment. */
export async function putLeft(
  trx: Transaction,
  entityId: string,
  month: string,
  person: string,
  { kind, rowId, code, systemId, reason }: LeaveRequest,
): Promise<{ readonly step: Step; readonly says: string }> {
  const here = (await trx('align_finding')
    .where({ entity_id: entityId, period: month, kind, row_id: rowId, code })
    .whereRaw(`coalesce(system_id, '') = ?`, [systemId ?? ''])
    .first('facts')) as { facts: Facts } | undefined
  if (!here) throw new Problem('AXION_NOT_FOUND', { what: 'such finding' })
  const says = wordsOf(code).says(here.facts)
  const before = await write(trx, entityId, person, { kind, rowId, code, systemId: systemId ?? '' }, reason)
  await audit(trx, reason === null ? 'taken up' : 'left', says, null, {
    reason: reason ?? 'taken up again',
  })
  return { says, step: { did: 'left', kind, rowId, code, systemId: systemId ?? '', before, after: reason } }
}

/** What a finding was left with before, again. */
export async function reinstate(
  trx: Transaction,
  entityId: string,
  { before, ...key }: Extract<Step, { readonly did: 'left' }>,
): Promise<void> {
  await write(trx, entityId, 'undo', key, before)
}

type Key = Pick<Extract<Step, { readonly did: 'left' }>, 'kind' | 'rowId' | 'code' | 'systemId'>

/** Writes the reason, or takes it away, in every month's grid; gives the reason there was. */
async function write(
  trx: Transaction,
  entityId: string,
  person: string,
  { kind, rowId, code, systemId }: Key,
  reason: string | null,
): Promise<string | null> {
  const key = { entity_id: entityId, kind, row_id: rowId, code, system_id: systemId }
  const before =
    ((await trx('align_left').where(key).first('reason')) as { reason: string } | undefined)?.reason ?? null
  if (reason === null) await trx('align_left').where(key).delete()
  else
    await trx('align_left')
      .insert({ ...key, reason, person })
      .onConflict(Object.keys(key))
      .merge()
  await trx('align_finding')
    .where({ entity_id: entityId, kind, row_id: rowId, code })
    .whereRaw(`coalesce(system_id, '') = ?`, [systemId])
    .update({ left_because: reason === null ? null : json({ reason, person, at: new Date().toISOString() }) })
  const months = (await trx('align_built').where({ entity_id: entityId }).pluck('period')) as string[]
  for (const each of months) await countFindings(trx, entityId, each, { kind, rowId })
  return before
}
