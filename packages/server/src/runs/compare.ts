import { changing } from '../database/connection.ts'
import { noteRunIn, type RunRow } from '../jobs/runs.ts'
import { markDiffering } from '../post/differing.ts'
import type { Services } from '../services/services.ts'

/** How far a comparison came, null where to its end: whoever takes it over goes on from there. */
interface Compared {
  readonly after: string | null
}

/** Compares bookings with what they would be now, slice by slice, so that others have their turn at the books in between. */
export async function compareBooked(
  { database }: Services,
  entityId: string,
  { run_id: runId, payload, report, done: before }: RunRow<'compare'>,
): Promise<void> {
  let [at, done]: [Compared, number] = [{ after: '', ...report }, before]
  while (at.after !== null) {
    const { after } = at
    const slice = await changing(database, entityId, async (books) => {
      const of = await markDiffering(books, payload.from, after)
      const came = { after: of.after } satisfies Compared
      await noteRunIn(books, runId, { step: 'comparing bookings', done: done + of.looked, report: came })
      return of
    })
    at = slice
    done += slice.looked
  }
}
