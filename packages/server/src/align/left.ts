import type { LeaveRequest } from '@axion/contract'
import { wordsOf } from '@axion/contract'
import type { Facts } from '@axion/core'
import { audit } from '../audit/audit.ts'
import { type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'
import { noteFacts } from '../setUp/clock.ts'
import { type Step, recordBatch } from '../setUp/steps.ts'
import { countFindings, ensureAligned } from './build.ts'

/**
 * Leaves a finding as it is, with a reason: it counts no more, in any month, and stays in sight. Without a reason it is taken up again.
 * @throws AXION_NOT_FOUND where the month's grid has no such finding
 */
export async function leave(
  books: Books,
  month: string,
  person: string,
  request: LeaveRequest,
): Promise<void> {
  await ensureAligned(books, month)
  const { step, says } = await putLeft(books, month, person, request)
  await recordBatch(books, { person, action: request.reason === null ? 'taken-up' : 'left', says }, [step])
  await noteFacts(books)
}

/** The same for one of many: what is counted anew is left to the caller's alignment. */
export async function putLeft(
  books: Books,
  month: string,
  person: string,
  { kind, rowId, code, systemId, reason }: LeaveRequest,
): Promise<{ readonly step: Step; readonly says: string }> {
  const { trx, entityId } = books
  const here = (await trx('align_finding')
    .where({ entity_id: entityId, period: month, kind, row_id: rowId, code })
    .whereRaw(`coalesce(system_id, '') = ?`, [systemId ?? ''])
    .first('facts')) as { facts: Facts } | undefined
  if (!here) throw new Problem('AXION_NOT_FOUND', { what: 'such finding' })
  const says = wordsOf(code).says(here.facts)
  const before = await write(books, person, { kind, rowId, code, systemId: systemId ?? '' }, reason)
  await audit(trx, reason === null ? 'taken-up' : 'left', says, {
    after: {
      reason: reason ?? 'taken up again',
    },
  })
  return { says, step: { did: 'left', kind, rowId, code, systemId: systemId ?? '', before, after: reason } }
}

/** What a finding was left with before, again. */
export async function reinstate(
  books: Books,
  { before, ...key }: Extract<Step, { readonly did: 'left' }>,
): Promise<void> {
  await write(books, 'undo', key, before)
}

type Key = Pick<Extract<Step, { readonly did: 'left' }>, 'kind' | 'rowId' | 'code' | 'systemId'>

/** Writes the reason, or takes it away, in every month's grid; gives the reason there was. */
async function write(
  books: Books,
  person: string,
  { kind, rowId, code, systemId }: Key,
  reason: string | null,
): Promise<string | null> {
  const { trx, entityId } = books
  const key = { entity_id: entityId, kind, row_id: rowId, code, system_id: systemId }
  const before = (await trx('align_left').where(key).first('reason'))?.reason ?? null
  let because: { readonly reason: string; readonly person: string; readonly at: Date } | null = null
  if (reason === null) await trx('align_left').where(key).delete()
  else {
    const [row] = await trx('align_left')
      .insert({ ...key, reason, person, at: trx.fn.now() })
      .onConflict(Object.keys(key))
      .merge()
      .returning('at')
    if (row) because = { reason, person, at: row.at }
  }
  await trx('align_finding')
    .where({ entity_id: entityId, kind, row_id: rowId, code })
    .whereRaw(`coalesce(system_id, '') = ?`, [systemId])
    .update({ left_because: because && json(because) })
  const months = await trx('align_built').where({ entity_id: entityId }).pluck('period')
  for (const each of months) await countFindings(books, each, { kind, rowId })
  return before
}
