import type { FullProofView, LastFullProof } from '@axion/contract'
import type { Books } from '../database/connection.ts'

/** What the run of a full proof leaves behind. */
export interface FullProofReport {
  readonly full: FullProofView
  /** As the entity records time: of what is recorded later it says nothing. */
  readonly upTo: string
}

/** The last full proof of a month that came to its end. */
export async function lastFullProof({ trx, entityId }: Books, month: string): Promise<LastFullProof['last']> {
  const { rows } = (await trx.raw(
    `select report->'full' as full, started_by as by, to_json(run.updated_at)#>>'{}' as at, (report->>'upTo')::timestamptz >= e.recorded_last as stands
     from run join legal_entity e using (entity_id) where entity_id = :e and kind = 'full-proof' and state = 'done' and payload->>'month' = :month order by run.created_at desc limit 1`,
    { e: entityId, month },
  )) as { rows: NonNullable<LastFullProof['last']>[] }
  return rows[0] ?? null
}
