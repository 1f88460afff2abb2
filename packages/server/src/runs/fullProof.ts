import type { FullProofView } from '@axion/contract'
import { audit } from '../audit/audit.ts'
import { recordedAt } from '../baseline/import.ts'
import { changing, inEntity, type Books } from '../database/connection.ts'
import { Cancelled } from '../jobs/ending.ts'
import { noteRunIn, readRun } from '../jobs/runs.ts'
import { otherwiseAside, otherwiseOf, type Otherwise } from '../proof/anew.ts'
import { doubt } from '../proof/doubt.ts'
import { documentsOf } from '../proof/gather.ts'
import type { Services } from '../services/services.ts'
import { countAnew, fullProof, MOST_NAMED } from '../tieout/fullProof.ts'
import type { FullProofReport } from '../tieout/lastFullProof.ts'
import { provePulled } from './pull.ts'
import { touchedBy } from './touched.ts'

/** So many documents are worked out while others wait for their turn at the books. */
const TURN = 4000

/** What was found so far, kept with the run as it is mended: whoever takes it over finds nothing of it any more. */
type Found = Pick<FullProofView, 'disagreeing' | 'otherwise' | 'miscounted' | 'named'>
const NOTHING: Found = { disagreeing: 0, otherwise: 0, miscounted: 0, named: [] }

function together(before: Found, more: Partial<Found>): Found {
  return {
    disagreeing: before.disagreeing + (more.disagreeing ?? 0),
    otherwise: before.otherwise + (more.otherwise ?? 0),
    miscounted: before.miscounted + (more.miscounted ?? 0),
    named: [...before.named, ...(more.named ?? [])].slice(0, MOST_NAMED),
  }
}

/**
 * The slow proof of a month: works every document out anew and compares with what is kept of it, sums every stored fact, and sees whether
 * signatures and whatever pages show say the same. What it finds is a fault of Axion's own: such documents are proved anew at once, and sums
 * counted anew. Others have their turn at the books in between; what they change, they prove.
 */
export async function proveInFull(
  { database }: Services,
  entityId: string,
  { runId, month }: { readonly runId: string; readonly month: string },
): Promise<void> {
  const upTo = await changing(database, entityId, async (books) => {
    await upToDate(books, month)
    await noteRunIn(books, runId, { step: 'summing what is kept' })
    return recordedAt(books)
  })
  let found = ((await readRun(database, entityId, runId))?.report['found'] as Found | undefined) ?? NOTHING
  const { keys, summed } = await inEntity(database, entityId, async (books) => ({
    keys: await documentsOf(books, month, 'all'),
    summed: await fullProof(books, month),
  }))
  await changing(database, entityId, async (books) => {
    await mend(books, month, summed.disagreeing)
    if (summed.view.miscounted > 0) await countAnew(books, month)
    found = together(found, summed.view)
    await noteRunIn(books, runId, {
      step: 'working documents out anew',
      total: keys.length,
      report: { found },
    })
  })
  const turn = async (done: number, work: (books: Books) => Promise<Otherwise[]>): Promise<void> => {
    if ((await readRun(database, entityId, runId))?.cancel_requested) throw new Cancelled()
    await changing(database, entityId, async (books) => {
      await upToDate(books, month)
      const otherwise = await work(books)
      await mend(
        books,
        month,
        otherwise.map(({ named }) => named),
      )
      found = together(found, {
        otherwise: otherwise.length,
        named: otherwise.map(({ named: unit, number }) => ({ unit, number, quick: 'otherwise' })),
      })
      await noteRunIn(books, runId, { done, report: { found } })
    })
  }
  for (let from = 0; from < keys.length; from += TURN) {
    const these = keys.slice(from, from + TURN)
    await turn(from + these.length, (books) => otherwiseOf(books, month, these))
  }
  await turn(keys.length, (books) => otherwiseAside(books, month))
  const full: FullProofView = { ...summed.view, ...found }
  await inEntity(database, entityId, async (books) => {
    await audit(books.trx, 'proved-in-full', month, { after: toldOf(full) })
    await noteRunIn(books, runId, { report: { full, upTo } satisfies FullProofReport })
  })
}

/** What the trail tells of it: what it found amiss is told where it found any. */
function toldOf({ documents, facts, disagreeing, otherwise, miscounted }: FullProofView): object {
  return {
    documents,
    facts,
    disagreeing,
    ...(otherwise > 0 ? { otherwise } : {}),
    ...(miscounted > 0 ? { miscounted } : {}),
  }
}

/** Proves documents anew of which something stands otherwise, and what stands where no document is any more. */
async function mend(books: Books, month: string, named: readonly string[]): Promise<void> {
  if (named.length === 0) return
  await doubt(books, named)
  await upToDate(books, month)
}

/** What waits to be proved is no fault of anybody's: it is proved first. */
async function upToDate(books: Books, month: string): Promise<void> {
  const found = await touchedBy(books)
  const { touched } = found
  if (touched === 'all' || touched.documents.size + touched.entries.size > 0)
    await provePulled(books, month, found)
}
