import { saying, type Begun } from '@axion/contract'
import { audit } from '../audit/audit.ts'
import type { Books } from '../database/connection.ts'
import { move } from '../documents/states.ts'
import { Problem } from '../faults/problem.ts'
import { startRun } from '../jobs/runs.ts'
import { chosenIn, type ChosenForPosting } from './chosen.ts'
import { FORETOLD } from './foretell.ts'
import { queueFor } from './outbox.ts'
import { composeChosen, postingRevision } from './preview.ts'
import { takeBack } from './takeBack.ts'
import { previewWithdrawal, withdrawn } from './withdraw.ts'

/** Who does something to a month's bookings, and where. */
interface Act {
  readonly month: string
  readonly person: string
}

/**
 * Queues the chosen documents for the ledger, as they were shown.
 * @param revision what the preview said of them; undefined where nobody looked at one
 * @throws AXION_STALE, AXION_NOTHING_TO_DO
 */
export async function post(
  books: Books,
  {
    month,
    person,
    chosen,
    onlyRight,
    revision,
  }: Act & {
    readonly chosen: ChosenForPosting
    readonly onlyRight: boolean
    readonly revision?: string | undefined
  },
): Promise<Begun> {
  const documents = await chosenIn(books, month, chosen)
  const posting = { documents, person }
  await composeChosen(books, posting)
  if (revision !== undefined && revision !== (await postingRevision(books, posting)))
    throw new Problem('AXION_STALE', { what: 'What is to be posted' })
  const run = await startRun(books, {
    kind: 'post',
    payload: { month },
    startedBy: person,
    total: documents.length,
  })
  const queued = await queueFor(books, run, documents, onlyRight ? `not ${FORETOLD}` : undefined)
  if (queued === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'post' })
  await audit(books.trx, 'posted', documentsInWords(queued), {
    after: {
      documents: await numbersOf(books, run),
      run,
    },
  })
  return { run, documents: queued }
}

/**
 * Takes bookings back, as it was shown.
 * @throws AXION_STALE, AXION_NOTHING_TO_DO
 */
export async function withdraw(
  books: Books,
  { month, person, units, revision }: Act & { readonly units: readonly string[]; readonly revision: string },
): Promise<Begun> {
  const preview = await previewWithdrawal(books, units)
  if (preview.revision !== revision) throw new Problem('AXION_STALE', { what: 'What is to be withdrawn' })
  if (preview.documents.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'withdraw' })
  const n = preview.documents.length
  const run = await startRun(books, {
    kind: 'withdraw',
    payload: { month },
    startedBy: person,
    total: n,
  })
  await takeBack(books, run, await withdrawn(books, preview), 0)
  const numbers = preview.documents.map((d) => d.number)
  await audit(books.trx, 'withdrew', documentsInWords(n), { before: { documents: numbers }, after: { run } })
  return { run, documents: n }
}

/** Has the ledger asked again for what is in doubt: some, or whatever of the month is. @throws AXION_NOTHING_TO_DO */
export async function lookAgain(
  books: Books,
  { month, person, units }: Act & { readonly units: readonly string[] | null },
): Promise<Begun> {
  const run = await startRun(books, { kind: 'post', payload: { month }, startedBy: person })
  const looked = await move(books, 'to-be-looked-up', {
    to: 'waiting',
    set: 'attempts = 0, run_id = :run, uncertain_since = coalesce(b.uncertain_since, now())',
    where: `b.period = :month and (:units::text[] is null or b.named = any(:units::text[]))`,
    bindings: { run, month, units },
  })
  if (looked.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'look up' })
  return { run, documents: looked.length }
}

/** What is in doubt and somebody has looked for in vain: it may be sent again, and the trail says who said so. */
export async function sayNotThere(
  books: Books,
  person: string,
  units: readonly string[],
): Promise<{ documents: number }> {
  const said = await move<'said-not-there', { number: string }>(
    books,
    'said-not-there',
    {
      to: 'failed',
      set: `reason_code = :code, reason_facts = :facts::jsonb, uncertain_since = null`,
      where: `b.named = any(:units)`,
      bindings: {
        units,
        code: 'AXION_NOT_THERE',
        facts: JSON.stringify(saying('AXION_NOT_THERE', { person }).facts),
      },
    },
    'b.number',
  )
  if (said.length === 0) throw new Problem('AXION_NOTHING_TO_DO', { what: 'settle' })
  for (const { number } of said) await audit(books.trx, 'said-not-there', number)
  return { documents: said.length }
}

/** The documents of a run, by number. */
async function numbersOf({ trx, entityId }: Books, run: string): Promise<string[]> {
  return trx('booking')
    .where({ entity_id: entityId, run_id: run })
    .orderBy('number')
    .pluck('number') as Promise<string[]>
}

function documentsInWords(n: number): string {
  return `${n} ${n === 1 ? 'document' : 'documents'}`
}
