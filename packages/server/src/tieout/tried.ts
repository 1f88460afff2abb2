import { isDeepStrictEqual } from 'node:util'
import {
  say,
  type BookingRequest,
  type CauseFacts,
  type CauseView,
  type Resource,
  type TriedRemedy,
} from '@axion/contract'
import type { Books } from '../database/connection.ts'
import { familiesOf } from '../documents/families.ts'
import { sourceUnit, type StoredDocument } from '../documents/units.ts'
import { Problem } from '../faults/problem.ts'
import { composeBooking } from '../post/compose.ts'
import { correctionsOf } from '../post/correct.ts'
import { FORETOLD_PREFIX } from '../post/foretell.ts'
import type { Remark } from '../post/remark.ts'
import { groundsOf } from '../proof/grounds.ts'
import { causesOf } from './causes.ts'

interface Booked extends StoredDocument {
  readonly request: BookingRequest | null
  readonly edited: boolean
  readonly facets: readonly string[]
  /** When the ledger wrote what stands there, and whether something of its set-up was pulled as changed since. */
  readonly changed_since: boolean
}

/**
 * The remedies of a cause, tried before they are shown: each on what would be composed now and on what the ledger is known to do with it.
 * One that would change nothing is left out; one that leaves documents as wrong as before comes after those that do not, and says why.
 */
export async function triedRemedies(books: Books, month: string, key: string): Promise<TriedRemedy[]> {
  const cause = (await causesOf(await groundsOf(books), month)).find((one) => one.key === key)
  if (!cause) throw new Problem('AXION_STALE', { what: 'This cause' })
  const tried: TriedRemedy[] = []
  for (const remedy of cause.remedies) {
    if (remedy.kind === 'book-again') tried.push({ remedy, ...(await bookedAgain(books, month, cause)) })
    else if (remedy.kind === 'correct') {
      const corrections = await correctionsOf(books, month, key)
      if (corrections.length > 0)
        tried.push({ remedy, leaves: cause.documents - corrections.length, why: null })
    } else tried.push({ remedy, leaves: 0, why: null })
  }
  return [...tried.filter((one) => one.leaves === 0), ...tried.filter((one) => one.leaves > 0)]
}

/** What a cause may have come of in what the ledger shows of itself; what it shows nothing of is a way of its own, and stays. */
const RESTS_ON: Readonly<Partial<Record<CauseFacts['kind'], readonly Resource[]>>> = {
  'component-percent': ['tax-rates'],
  'flat-rate': ['tax-rates'],
  'rate-date': ['tax-rates'],
  'component-lost': ['tax-rates', 'agencies'],
  'one-agency': ['tax-rates', 'agencies'],
  'liability-account': ['agencies', 'accounts'],
  moved: ['accounts', 'agencies'],
}

/** How many documents of a cause would come out wrong once more if they were booked again now, and why the first of them. */
async function bookedAgain(
  books: Books,
  month: string,
  { key, facts }: CauseView,
): Promise<Pick<TriedRemedy, 'leaves' | 'why'>> {
  const { trx, entityId } = books
  const { rows: documents } = (await trx.raw(
    `select d.*, b.request, u.edited, u.facets, coalesce((select max((e.value->>'changedAt')::timestamptz) from ledger_entry e where e.entity_id = b.entity_id and e.external_id = b.external_id and not e.voided), now())
        < coalesce((select max(p.finished_at) from held_change c join pull p on p.entity_id = c.entity_id and p.pull_id = c.pull_id
           where c.entity_id = ? and c.resource = any(?)), '-infinity') as changed_since
     from tie_unit u join source_document d on d.entity_id = u.entity_id and d.system_id = u.system_id and d.document_id = u.document_id
     left join booking b on b.entity_id = u.entity_id and b.system_id = u.system_id and b.document_id = u.document_id and b.kind = u.kind
     where u.entity_id = ? and u.period = ? and u.cause = ? and not u.proved order by u.unproved desc, u.number`,
    [entityId, [...(RESTS_ON[facts.kind] ?? [])], entityId, month, key],
  )) as { rows: Booked[] }
  const grounds = await groundsOf(books)
  const { systems, index } = grounds
  const ledger = systems.find((system) => system.row.role === 'ledger')
  if (!ledger) throw new Problem('AXION_NO_LEDGER')
  const families = await familiesOf(books, documents)
  const why = documents.flatMap((stored): string[] => {
    const from = systems.find((system) => system.row.system_id === stored.system_id)
    if (!from) return []
    const source = sourceUnit(stored, from, grounds, families(stored))
    const { request, remarks } = composeBooking(entityId, source, { from, ledger, index })
    return staysWrong(stored, request, remarks)
  })
  return { leaves: why.length, why: why[0] ?? null }
}

function staysWrong(
  { request: before, edited, facets, changed_since }: Booked,
  request: BookingRequest | null,
  remarks: readonly Remark[],
): string[] {
  const remark =
    remarks.find((one) => one.code.startsWith(FORETOLD_PREFIX)) ??
    remarks.find((one) => one.blocks || one.code === 'AXION_STATED_NOT_EXPECTED')
  if (remark) return [say(remark.code, remark.facts).says]
  const atFault = !edited && !facets.includes('voided') && !facets.includes('period')
  // The ledger made something else of just this before, and nothing of its set-up was seen to change since.
  return atFault && !changed_since && before !== null && sameText(before, request)
    ? [
        'The same was booked before, and the ledger made this of it; nothing of its set-up was seen to change since.',
      ]
    : []
}

/** Whatever the order of keys in which the database gives them back. */
function sameText(a: unknown, b: unknown): boolean {
  return isDeepStrictEqual(a, JSON.parse(JSON.stringify(b)))
}
