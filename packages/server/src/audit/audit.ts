import { json, type Transaction } from '../database/connection.ts'

/** Writes who did what, with before and after, in the transaction that does it. The trail can only grow. */
export async function audit(
  trx: Transaction,
  entityId: string,
  person: string,
  action: string,
  object: string,
  before: unknown,
  after: unknown,
): Promise<void> {
  await trx('audit_entry').insert({
    entity_id: entityId,
    person,
    action,
    object,
    before: before === null ? null : json(before),
    after: after === null ? null : json(after),
  })
}
