import type { BaselineIndex, Journal } from '@axion/core'
import type { Books } from '../database/connection.ts'
import { familiesOf, type Family } from '../documents/families.ts'
import { nameOf } from '../documents/ids.ts'
import { before, move } from '../documents/states.ts'
import { sourceUnit, type StoredDocument } from '../documents/units.ts'
import { groundsOf, type Grounds } from '../proof/grounds.ts'
import type { HeldSystem } from '../setUp/held.ts'
import { composeBooking } from './compose.ts'

/** So many documents are composed at a time. */
const SLICE = 2000

export interface Differing {
  readonly externalId: string
  readonly number: string
  readonly unit: string
}

/** Which bookings are looked at: those of a month and later ones, or of documents alone. */
export type Which = { readonly from: string } | { readonly documents: readonly string[] }

interface Looked {
  readonly differing: readonly Differing[]
  readonly looked: number
  /** After which the next slice begins; null where this was the last. */
  readonly after: string | null
}

/**
 * Booked documents whose journal would go to other accounts now (E4), or under other posting rules.
 * @param under what would stand in place of the baseline; the baseline itself where null
 */
export async function differingBookings(
  books: Books,
  which: Which,
  under: BaselineIndex | null,
): Promise<Differing[]> {
  const found: Differing[] = []
  for (let after: string | null = ''; after !== null;) {
    const slice: Looked = await lookAt(books, which, { under, after })
    found.push(...slice.differing)
    ;({ after } = slice)
  }
  return found
}

async function lookAt(
  books: Books,
  which: Which,
  { under, after }: { readonly under: BaselineIndex | null; readonly after: string },
): Promise<Looked> {
  const { trx, entityId } = books
  const grounds = await groundsOf(books)
  const index = under ?? grounds.index
  const ledger = grounds.systems.find((s) => s.row.role === 'ledger')
  if (!ledger) return { differing: [], looked: 0, after: null }
  const booked = (await bookedOf(trx, entityId, which)
    .join(
      'source_document as d',
      (on) =>
        void on
          .on('d.entity_id', 'b.entity_id')
          .on('d.system_id', 'b.system_id')
          .on('d.document_id', 'b.document_id')
          .on('d.kind', 'b.kind'),
    )
    .where('b.external_id', '>', after)
    .orderBy('b.external_id')
    .limit(SLICE)
    .select('b.external_id', 'b.journal', 'd.*')) as (StoredDocument & {
    external_id: string
    journal: Stored | null
  })[]
  const families = await familiesOf(books, booked)
  return {
    differing: booked.flatMap((stored) => {
      const now = journalNow(stored, { ...grounds, index }, ledger, families(stored))
      return stored.journal && now && byAccount(now) !== byAccount(stored.journal)
        ? [{ externalId: stored.external_id, number: stored.value.number, unit: nameOf(stored) }]
        : []
    }),
    looked: booked.length,
    after: booked.length < SLICE ? null : (booked.at(-1)?.external_id ?? null),
  }
}

/** Bookings that could be put up again. */
function bookedOf(trx: Books['trx'], entityId: string, which: Which) {
  return trx('booking as b')
    .where({ 'b.entity_id': entityId })
    .whereRaw(`b.state in ${before('to-be-booked-again')}`)
    .modify((q) =>
      'from' in which
        ? void q.where('b.period', '>=', which.from)
        : void q.whereRaw('b.named = any(?)', [[...which.documents]]),
    )
}

/** How many bookings of a month and later ones could be put up again. */
export async function countBooked({ trx, entityId }: Books, from: string, most: number): Promise<number> {
  const few = bookedOf(trx, entityId, { from }).select(trx.raw('1')).limit(most).as('few')
  const row = (await trx.from(few).first(trx.raw('count(*)::int as n'))) as { n: number } | undefined
  return row?.n ?? 0
}

/**
 * Puts bookings of a month and later ones that would go elsewhere now up to be booked again, a slice of them: Post lists them as changed.
 * @param after where the slice before ended
 */
export async function markDiffering(
  books: Books,
  from: string,
  after: string,
): Promise<Omit<Looked, 'differing'>> {
  const slice = await lookAt(books, { from }, { under: null, after })
  await move(books, 'to-be-booked-again', {
    to: 'changed',
    where: 'b.external_id = any(:ids)',
    bindings: { ids: slice.differing.map(({ externalId }) => externalId) },
  })
  return { looked: slice.looked, after: slice.after }
}

interface Stored {
  readonly lines: readonly {
    readonly account: string
    readonly dimensions?: readonly string[]
    readonly debit: string
    readonly credit: string
  }[]
}

function journalNow(
  stored: StoredDocument,
  grounds: Grounds,
  ledger: HeldSystem,
  family: Family | null,
): Journal | null {
  const { entityId, systems, index } = grounds
  const from = systems.find((s) => s.row.system_id === stored.system_id)
  return from
    ? composeBooking(entityId, sourceUnit(stored, from, grounds, family), { from, ledger, index }).journal
    : null
}

/** What a journal moves on each account, under which dimensions, in one text. */
function byAccount({
  lines,
}: {
  readonly lines: readonly {
    readonly account: string
    readonly dimensions?: readonly string[]
    readonly debit: string | bigint
    readonly credit: string | bigint
  }[]
}): string {
  const sums = new Map<string, bigint>()
  for (const { account, dimensions = [], debit, credit } of lines) {
    const key = [account, ...[...dimensions].sort()].join(', ')
    sums.set(key, (sums.get(key) ?? 0n) + BigInt(debit) - BigInt(credit))
  }
  return [...sums]
    .filter(([, moved]) => moved !== 0n)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([account, moved]) => `${account} ${moved}`)
    .join('\n')
}
