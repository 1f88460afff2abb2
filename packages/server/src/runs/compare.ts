import { changing } from '../database/connection.ts'
import { noteRunIn, readRun, type RunRow } from '../jobs/runs.ts'
import { markDiffering } from '../post/differing.ts'
import type { Services } from '../services/services.ts'

/** How far a comparison came: whoever takes it over goes on from there. */
interface Compared {
  readonly after: string
  readonly marked: number
}

/** Compares bookings with what they would be now, slice by slice, so that others have their turn at the books in between. */
export async function compareBooked(
  { database }: Services,
  entityId: string,
  run: RunRow<'compare'>,
): Promise<void> {
  const { run_id: runId } = run
  const begun = (await readRun(database, entityId, runId))?.report as Partial<Compared> | undefined
  let [after, marked, done]: [string | null, number, number] = [
    begun?.after ?? '',
    begun?.marked ?? 0,
    run.done,
  ]
  while (after !== null) {
    const from: string = after
    const slice = await changing(database, entityId, async (books) => {
      const of = await markDiffering(books, run.payload.from, from)
      done += of.looked
      marked += of.marked
      await noteRunIn(books, runId, {
        step: 'comparing bookings',
        done,
        report: { after: of.after ?? from, marked } satisfies Compared,
      })
      return of
    })
    ;({ after } = slice)
  }
}
