import type { BookingState } from '@axion/contract'
import { type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { familiesOf } from '../documents/families.ts'
import { TAKEN_BACK } from '../documents/standing.ts'
import { enter, LEFT_OUT, move, NO_REASON, states, VOIDED_THERE } from '../documents/states.ts'
import { sourceUnit, type StoredDocument } from '../documents/units.ts'
import { documentsWithBookings } from '../documents/withBookings.ts'
import { Problem } from '../faults/problem.ts'
import { groundsOf, type Grounds } from '../proof/grounds.ts'
import { proveChanged } from '../proof/prove.ts'
import { composeBooking } from './compose.ts'
import { newItemsOf, remarksOf, takeInItems, type NewItems } from './newItems.ts'

/** Bookings that wait to be posted: what was withdrawn stays out until somebody asks for it. */
const TO_POST: readonly BookingState[] = ['rehearsed', 'blocked', 'failed', 'changed']

/**
 * Composes the bookings of documents, new or again, and keeps them; nothing is sent.
 * What was tried or booked before gets a higher revision, and with it another idempotency key.
 * A person who posts is named: then items that only the documents name are taken in first, where that was chosen; a rehearsal says what would be.
 * @returns how many could be composed, with how many remarks, and how many are blocked
 */
export async function compose(
  books: Books,
  documents: readonly StoredDocument[],
  poster: string | null,
): Promise<{ composed: number; warned: number; blocked: number }> {
  const { trx, entityId } = books
  const { grounds, items } = await groundsWithItems(books, documents, poster)
  const { index, systems } = grounds
  const families = await familiesOf(books, documents)
  const ledger = systems.find((s) => s.row.role === 'ledger')
  if (!ledger) throw new Problem('AXION_NO_LEDGER')
  const report = { composed: 0, warned: 0, blocked: 0 }
  for (const stored of documents) {
    const from = systems.find((s) => s.row.system_id === stored.system_id)
    // A system that was taken off sends nothing any more.
    if (!from) continue
    const source = sourceUnit(stored, from, grounds, families(stored))
    const booking = composeBooking(entityId, source, { from, ledger, index })
    const remarks = [
      ...booking.remarks,
      ...remarksOf(items.get(`${stored.system_id}/${stored.document_id}`) ?? [], index, {
        number: source.decoded.number,
        taken: poster !== null,
      }),
    ]
    const blocked = booking.request === null
    report[blocked ? 'blocked' : 'composed']++
    if (!blocked && remarks.length > 0) report.warned++
    const fields = {
      action: 'book',
      source_revision: stored.revision,
      tax: booking.tax.toString(),
      total: booking.total.toString(),
      journal: booking.journal && json(booking.journal),
      request: booking.request && json(booking.request),
      findings: json(remarks),
      number: source.decoded.number,
      period: source.decoded.documentDate.slice(0, 7),
      currency: source.decoded.currency,
      reason_code: null,
      reason_facts: null,
      uncertain_since: null,
      not_before: null,
    }
    await enter(trx, 'composed', {
      to: blocked ? 'blocked' : 'rehearsed',
      row: {
        entity_id: entityId,
        external_id: booking.externalId,
        system_id: stored.system_id,
        document_id: stored.document_id,
        kind: stored.kind,
        ...fields,
      },
      again: {
        revision: trx.raw('booking.revision + case when booking.attempts > 0 then 1 else 0 end'),
        attempts: 0,
        // What was voided there is not replaced: it is booked anew. An edit by hand that a pull has shown is replaced knowingly.
        ledger_booking_id: trx.raw(
          `case when booking.state in ${states('withdrawn')} then null else booking.ledger_booking_id end`,
        ),
        ledger_revision:
          trx.raw(`case when booking.state in ${states('withdrawn')} then null else coalesce((select e.booking_revision from ledger_entry e
          where e.entity_id = booking.entity_id and e.external_id = booking.external_id and e.booking_id = booking.ledger_booking_id and not e.voided), booking.ledger_revision) end`),
      },
    })
  }
  await recogniseBooked(books)
  return report
}

/** What documents are composed from: where a person posts them, the items taken in that only they name, if that was chosen. */
async function groundsWithItems(
  books: Books,
  documents: readonly StoredDocument[],
  poster: string | null,
): Promise<{ readonly grounds: Grounds; readonly items: NewItems }> {
  const grounds = await groundsOf(books)
  if (grounds.index.baseline.defaults.newItems === 'left-open' || poster === null)
    return { grounds, items: await newItemsOf(grounds, documents) }
  const items = await newItemsOf(grounds, documents)
  if (items.size === 0) return { grounds, items }
  await takeInItems(books, items, poster)
  const months = [...new Set(documents.map(({ value }) => value.documentDate.slice(0, 7)))].sort()
  await proveChanged(books, months[0] ?? '')
  return { grounds: await groundsOf(books), items }
}

/** What the ledger holds already under a document's external id is not sent again, whoever sent it, and whatever was lost here since. */
export async function recogniseBooked(books: Books): Promise<void> {
  await move(books, 'recognised', {
    to: 'booked',
    set: `${NO_REASON}, ledger_booking_id = e.booking_id, ledger_revision = e.booking_revision`,
    from: 'ledger_entry e',
    where: `e.entity_id = b.entity_id and e.external_id = b.external_id and not e.voided and e.booking_id is not null and b.action = 'book' and b.ledger_booking_id is null and not ${TAKEN_BACK}`,
  })
}

/** The month's documents that wait to be booked: never composed, or open to be composed again. */
export async function documentsToCompose({ trx, entityId }: Books, month: string): Promise<StoredDocument[]> {
  return documentsWithBookings(trx)
    .join('system as s', (on) =>
      on.on('s.entity_id', 'd.entity_id').on('s.system_id', 'd.system_id').onNull('s.disconnected_at'),
    )
    .where({ 'd.entity_id': entityId, 'd.period': month })
    .whereNotIn('d.status', ['draft', 'void'])
    .whereRaw(`not ${LEFT_OUT}`)
    .whereRaw(`not coalesce(${VOIDED_THERE}, false)`)
    .where((open) => open.whereNull('b.state').orWhereIn('b.state', [...TO_POST]))
    .orderBy(['d.document_date', 'd.number'])
    .select('d.*')
}
