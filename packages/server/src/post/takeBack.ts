import type { Columns } from '../database/row.ts'
import type { BookingRequest } from '@axion/contract'
import { formatAmount, parseAmount } from '@axion/core'
import { type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { externalStem, isCorrection, reversalIdOf, stemOf } from '../documents/ids.ts'
import { standing } from '../documents/standing.ts'
import { enter, move, OUTSET } from '../documents/states.ts'
import { type StoredEntry } from '../documents/units.ts'
import { Problem } from '../faults/problem.ts'
import { groundsOf } from '../proof/grounds.ts'

/** A document whose bookings are to be taken back out of the ledger. */
export type TakenBack = Columns<'booking', 'system_id' | 'document_id' | 'number' | 'period' | 'currency'>

/**
 * Puts into the outbox what takes bookings back: the ledger's own void of each, or, in a ledger without voids, a booking for
 * the same amounts on the other side (K7).
 * @param keep how many bookings of a document stay: one where the others are doubles
 * @returns how many bookings are taken back
 */
export async function takeBack(
  books: Books,
  runId: string,
  documents: readonly TakenBack[],
  keep: 0 | 1,
): Promise<number> {
  const { systems } = await groundsOf(books)
  const ledger = systems.find((s) => s.row.role === 'ledger')
  if (!ledger) throw new Problem('AXION_NO_LEDGER')
  let count = 0
  for (const document of documents) {
    const entries = await standingEntries(books, document)
    const own = await books.trx('booking').where({
      entity_id: books.entityId,
      system_id: document.system_id,
      document_id: document.document_id,
    })
    const isOurs = (entry: StoredEntry): boolean =>
      own.some((b) => b.external_id === entry.external_id && b.ledger_booking_id === entry.booking_id)
    const main = entries.filter((entry) => !isCorrection(entry.external_id))
    const kept = keep === 0 ? undefined : (main.find(isOurs) ?? main[0])
    const out = keep === 0 ? entries : main.filter((entry) => entry !== kept)
    for (const entry of out) {
      if (entry.booking_id === null) continue
      if (await put(books, runId, { document, entry, ours: isOurs(entry), voids: ledger.row.about.voids }))
        count++
    }
  }
  return count
}

/** What the ledger holds of a document and has not voided. */
export async function standingEntries(
  { trx, entityId }: Books,
  { system_id, document_id }: TakenBack,
): Promise<StoredEntry[]> {
  const stem = externalStem(entityId, system_id, document_id)
  const entries = (await trx('ledger_entry')
    .where({ entity_id: entityId, voided: false, stem })
    .orderBy('entry_id')) as StoredEntry[]
  return standing(entries.filter((entry) => stemOf(entry.external_id ?? '') === stem))
}

async function put(
  books: Books,
  runId: string,
  {
    document,
    entry,
    ours,
    voids,
  }: {
    readonly document: TakenBack
    readonly entry: StoredEntry
    readonly ours: boolean
    readonly voids: boolean
  },
): Promise<boolean> {
  const { trx, entityId } = books
  const stem = externalStem(entityId, document.system_id, document.document_id)
  const under = voids
    ? {
        action: 'void',
        run_id: runId,
        attempts: 0,
        uncertain_since: null,
        not_before: null,
        reason_code: null,
        reason_facts: null,
        ledger_booking_id: entry.booking_id,
        ledger_revision: entry.booking_revision,
      }
    : {}
  if (voids && ours) {
    const moved = await move(books, 'to-be-voided', {
      to: 'waiting',
      set: `${OUTSET}, action = 'void', revision = b.revision + 1, run_id = :run, ledger_booking_id = :booking, ledger_revision = :revision`,
      where: 'b.external_id = :id',
      bindings: {
        id: entry.external_id,
        run: runId,
        booking: entry.booking_id,
        revision: entry.booking_revision,
      },
    })
    return moved.length > 0
  }
  const base = {
    entity_id: entityId,
    system_id: document.system_id,
    document_id: document.document_id,
    number: document.number,
    period: document.period,
    currency: document.currency,
    kind: voids ? 'double' : 'reversal',
    source_revision: '',
    tax: '0',
    total: '0',
    findings: '[]',
  }
  const row = voids
    ? { ...base, ...under, external_id: `${entry.external_id}-double-${entry.booking_id}` }
    : {
        ...base,
        external_id: reversalIdOf(stem, entry),
        action: 'book',
        run_id: runId,
        request: json(reversal(entry, reversalIdOf(stem, entry), document.number)),
      }
  return enter(trx, voids ? 'to-be-voided' : 'to-be-reversed', {
    to: 'waiting',
    row,
    again: {
      revision: trx.raw('booking.revision + 1'),
    },
  })
}

/** An entry's lines on the other side. */
function reversal({ value }: StoredEntry, externalId: string, number: string): BookingRequest {
  const { currency } = value
  const text = (amount: string): string => formatAmount(parseAmount(amount, currency), currency)
  return {
    externalId,
    number,
    kind: 'correction',
    postingDate: value.postingDate,
    currency,
    exchangeRate: null,
    party: { id: 'reversal', name: value.memo.slice(0, 400) },
    receivableAccountId: value.lines[0]?.accountId ?? '',
    reimbursed: null,
    memo: `Takes back ${number}`.slice(0, 400),
    pricesIncludeTax: false,
    lines: [],
    taxes: null,
    journal: value.lines.map((line) => ({
      accountId: line.accountId,
      description: line.description,
      agencyId: line.agencyId,
      debit: text(line.credit),
      credit: text(line.debit),
      base: line.base === null ? null : formatAmount(-parseAmount(line.base, currency), currency),
    })),
  }
}
