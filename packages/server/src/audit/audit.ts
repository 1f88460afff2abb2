import type { ActName } from '@axion/contract'
import { type Transaction } from '../database/connection.ts'
import { json } from '../database/json.ts'

/** One line of the trail: what was done to what, and what changed. */
export interface Line {
  readonly action: ActName
  readonly object: string
  readonly before?: unknown
  readonly after?: unknown
}

/**
 * Writes what was done, with before and after, in the transaction that does it. The trail can only grow: its function finds the name
 * behind the request or run itself, sets the time, and chains the line to the one before.
 */
export function audit(
  trx: Transaction,
  action: ActName,
  object: string,
  { before, after }: { readonly before?: unknown; readonly after?: unknown } = {},
): Promise<void> {
  return auditAll(trx, [{ action, object, before, after }])
}

/** Many lines at once, in their order. */
export async function auditAll(trx: Transaction, lines: readonly Line[]): Promise<void> {
  await trx.raw('select note_trail(?::jsonb)', [json(lines)])
}
