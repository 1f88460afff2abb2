import { bulk } from '../align/bulk.ts'
import { noteRun, type RunRow } from '../jobs/runs.ts'
import type { Services } from '../services/services.ts'
import { pullAndProve } from './pull.ts'

/** Does many rows at once, and pulls the systems that were sent something. */
export async function bulkAndPull(
  services: Services,
  entityId: string,
  run: RunRow<'bulk'>,
): Promise<'finished' | 'cancelled'> {
  const { cancelled, sentTo, problems } = await bulk(services, entityId, run)
  if (sentTo.length > 0) {
    const pulled = await pullAndProve(services, entityId, {
      runId: run.run_id,
      month: run.payload.month,
      systemIds: sentTo,
    })
    await noteRun(services.database, entityId, run.run_id, { report: { pulled, problems } })
  }
  return cancelled ? 'cancelled' : 'finished'
}
