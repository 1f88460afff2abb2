import type { LeaveRequest } from '@axion/contract'
import { FINDINGS } from '@axion/contract'
import type { Facts } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { json, type Transaction } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { countFindings, ensureAligned, noteFacts } from './build.ts'

/**
 * Leaves a finding as it is, with a reason: it counts no more, in any month, and stays in sight. Without a reason it is taken up again.
 * @throws AXION_NOT_FOUND where the month's grid has no such finding
 */
export async function leave(trx: Transaction, entityId: string, month: string, person: string, { kind, rowId, code, systemId, reason }: LeaveRequest): Promise<void> {
  await ensureAligned(trx, entityId, month)
  const found = trx('align_finding').where({ entity_id: entityId, kind, row_id: rowId, code }).whereRaw(`coalesce(system_id, '') = ?`, [systemId ?? ''])
  const here = (await found.clone().where({ period: month }).first('facts')) as { facts: Facts } | undefined
  if (!here) throw new Problem('AXION_NOT_FOUND', { what: 'such finding' })
  const key = { entity_id: entityId, kind, row_id: rowId, code, system_id: systemId ?? '' }
  if (reason === null) await trx('align_left').where(key).delete()
  else await trx('align_left').insert({ ...key, reason, person }).onConflict(Object.keys(key)).merge()
  await found.clone().update({ left_because: reason === null ? null : json({ reason, person, at: new Date().toISOString() }) })
  const months = (await trx('align_built').where({ entity_id: entityId }).pluck('period')) as string[]
  for (const each of months) await countFindings(trx, entityId, each, { kind, rowId })
  await audit(trx, entityId, person, reason === null ? 'taken up' : 'left', FINDINGS[code].says(here.facts), null, { reason: reason ?? 'taken up again' })
  await noteFacts(trx, entityId)
}
