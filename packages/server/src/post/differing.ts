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

/**
 * Booked documents from a month on whose journal would go to other accounts now (E4), or under other posting rules.
 * @param under what would stand in place of the baseline; the baseline itself where null
 */
export async function differingBookings(
  books: Books,
  month: string,
  under: BaselineIndex | null,
): Promise<Differing[]> {
  const { trx, entityId } = books
  const grounds = await groundsOf(books)
  const index = under ?? grounds.index
  const ledger = grounds.systems.find((s) => s.row.role === 'ledger')
  if (!ledger) return []
  const found: Differing[] = []
  for (let after = ''; ;) {
    const booked = (await trx('booking as b')
      .join(
        'source_document as d',
        (on) =>
          void on
            .on('d.entity_id', 'b.entity_id')
            .on('d.system_id', 'b.system_id')
            .on('d.document_id', 'b.document_id')
            .on('d.kind', 'b.kind'),
      )
      .where({ 'b.entity_id': entityId })
      .where('b.period', '>=', month)
      .whereRaw(`b.state in ${before('to-be-booked-again')}`)
      .where('b.external_id', '>', after)
      .orderBy('b.external_id')
      .limit(SLICE)
      .select('b.external_id', 'b.journal', 'd.*')) as (StoredDocument & {
      external_id: string
      journal: Stored | null
    })[]
    const families = await familiesOf(books, booked)
    for (const stored of booked) {
      const now = journalNow(stored, { ...grounds, index }, ledger, families(stored))
      if (stored.journal && now && byAccount(now) !== byAccount(stored.journal))
        found.push({
          externalId: stored.external_id,
          number: stored.value.number,
          unit: nameOf(stored),
        })
    }
    if (booked.length < SLICE) return found
    after = booked.at(-1)?.external_id ?? ''
  }
}

/** Puts them up to be booked again: Post lists them as changed. */
export async function markDiffering(books: Books, month: string): Promise<number> {
  const ids = (await differingBookings(books, month, null)).map((one) => one.externalId)
  const marked = await move(books, 'to-be-booked-again', {
    to: 'changed',
    where: 'b.external_id = any(:ids)',
    bindings: { ids },
  })
  return marked.length
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
