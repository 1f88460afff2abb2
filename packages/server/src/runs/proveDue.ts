import { changing, inEntity } from '../database/connection.ts'
import { noteRun } from '../jobs/runs.ts'
import { noteProved, readDue } from '../proof/due.ts'
import { monthsOf, prove } from '../proof/prove.ts'
import type { Services } from '../services/services.ts'
import { ensureAligned } from '../align/build.ts'

/** Proves what is due, month by month, so that others have their turn at the books in between; what becomes due meanwhile has a run of its own. */
export async function proveDue(
  { database }: Services,
  entityId: string,
  { runId, month }: { readonly runId: string; readonly month: string },
): Promise<void> {
  const { due, months } = await inEntity(database, entityId, async (books) => ({
    due: await readDue(books),
    months: [...new Set([...(await monthsOf(books)), month])].sort(),
  }))
  // A pull may have proved it since.
  if (due) {
    for (const [done, each] of months.entries()) {
      await noteRun(database, entityId, runId, { step: `proving ${each}`, done, total: months.length })
      await changing(database, entityId, (books) => prove(books, each, due.touched))
    }
    await changing(database, entityId, (books) => noteProved(books, due.by))
  }
  await inEntity(database, entityId, (books) => ensureAligned(books, month))
  await noteRun(database, entityId, runId, { done: months.length })
}
