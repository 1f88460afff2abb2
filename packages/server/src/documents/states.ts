import { kindsWith, type BookingState, type Code } from '@axion/contract'
import type { Knex } from 'knex'
import type { Tables } from 'knex/types/tables.js'
import type { Books, Transaction } from '../database/connection.ts'

interface Move {
  /** The states that it may be met in; `null`: there is no booking yet. */
  readonly from: readonly (BookingState | null)[]
  readonly to: readonly BookingState[]
}

/**
 * What happens to a booking: the one table of its states. A booking met in another state than an event expects stays as it is.
 * `booked` and `withdrawn` are ends; from every other state a way leads there (the test walks it), also where its source was voided meanwhile.
 */
export const MOVES = {
  composed: {
    from: [null, 'rehearsed', 'blocked', 'failed', 'changed', 'withdrawn', 'booked', 'sent'],
    to: ['rehearsed', 'blocked'],
  },
  queued: { from: ['rehearsed'], to: ['waiting'] },
  resumed: { from: ['waiting', 'sending'], to: ['waiting', 'sending'] },
  cancelled: { from: ['waiting'], to: ['rehearsed'] },
  /** Its run ended, and nobody sends it any more. */
  abandoned: { from: ['waiting', 'sending'], to: ['rehearsed', 'failed', 'in-doubt'] },
  claimed: { from: ['waiting', 'sending'], to: ['sending'] },
  settled: { from: ['sending'], to: ['sent', 'withdrawn', 'failed', 'in-doubt', 'waiting'] },
  'to-be-looked-up': { from: ['in-doubt'], to: ['waiting'] },
  /** Somebody looked in the ledger and says that it is not there. */
  'said-not-there': { from: ['in-doubt'], to: ['failed'] },
  /** The ledger's journal shows it, whatever was thought of it. */
  recognised: { from: ['in-doubt', 'failed', 'rehearsed', 'blocked'], to: ['booked'] },
  seen: { from: ['sent'], to: ['booked'] },
  /** What was to be replaced, and nobody knows whether it was, stands there: it is replaced at the revision that it has now. */
  relearned: { from: ['in-doubt'], to: ['changed'] },
  /** A void that was asked for shows, whatever became of its answer. */
  'void-seen': { from: ['failed', 'in-doubt'], to: ['withdrawn'] },
  reversed: { from: ['booked', 'sent', 'changed', 'failed', 'rehearsed', 'blocked'], to: ['withdrawn'] },
  'voided-there': { from: ['booked', 'changed'], to: ['changed'] },
  'changed-at-source': { from: ['booked', 'sent', 'rehearsed', 'failed'], to: ['changed'] },
  'void-at-source': { from: ['rehearsed', 'blocked', 'failed', 'changed'], to: ['withdrawn', 'booked'] },
  'to-be-booked-again': { from: ['booked', 'sent'], to: ['changed'] },
  'to-be-voided': {
    from: ['booked', 'sent', 'changed', 'failed', 'rehearsed', 'blocked', 'withdrawn', null],
    to: ['waiting'],
  },
  'to-be-reversed': { from: ['waiting', 'failed', 'withdrawn', 'rehearsed', null], to: ['waiting'] },
  corrected: {
    from: ['booked', 'sent', 'failed', 'withdrawn', 'rehearsed', 'waiting', null],
    to: ['waiting'],
  },
} as const satisfies Readonly<Record<string, Move>>

export type BookingEvent = keyof typeof MOVES
type To<E extends BookingEvent> = (typeof MOVES)[E]['to'][number]

/** States as SQL text, for `in`. */
export function states(...wanted: readonly BookingState[]): string {
  return `(${wanted.map((state) => `'${state}'`).join(', ')})`
}

function statesBefore(event: BookingEvent): BookingState[] {
  return (MOVES[event].from as readonly (BookingState | null)[]).filter((state) => state !== null)
}

/** Those that may be met by an event, as SQL. */
export function before(event: BookingEvent): string {
  return states(...statesBefore(event))
}

interface MoveOf<E extends BookingEvent> {
  /** The state after it; SQL where it depends on the booking, whose outcomes the table must have. */
  readonly to: To<E> | { readonly sql: string }
  /** SQL of what else is set; bookings are `b`. */
  readonly set?: string
  /** SQL of other tables that the condition reads. */
  readonly from?: string
  /** SQL of which bookings are meant. */
  readonly where: string
  readonly bindings?: Readonly<Record<string, unknown>>
}

/**
 * Moves an entity's bookings by an event: the one writer of their states.
 * @returns what moved
 */
export async function move<E extends BookingEvent, R = { external_id: string }>(
  { trx, entityId }: Books,
  event: E,
  { to, set, from, where, bindings = {} }: MoveOf<E>,
  returning = 'b.external_id',
): Promise<R[]> {
  const { rows } = (await trx.raw(
    `update booking b set state = ${typeof to === 'string' ? `'${to}'` : to.sql}, updated_at = now()${set ? `, ${set}` : ''}
     ${from ? `from ${from}` : ''} where b.entity_id = :entity and b.state in ${before(event)} and (${where}) returning ${returning}`,
    { ...bindings, entity: entityId } as never,
  )) as { rows: R[] }
  return rows
}

type Entered = Omit<Knex.ResolveTableType<Tables['booking'], 'insert'>, 'state'>

/**
 * Writes a booking that an event makes, or makes anew.
 * @param again what is set otherwise where it was there already
 * @returns whether it was written: one that is met in another state than the event expects stays as it is
 */
export async function enter<E extends BookingEvent>(
  trx: Transaction,
  event: E,
  {
    to,
    row,
    again,
  }: {
    readonly to: To<E>
    readonly row: Entered
    readonly again: Partial<Entered>
  },
): Promise<boolean> {
  const written = { ...row, state: to, updated_at: trx.fn.now() }
  const rows = await trx('booking')
    .insert(written)
    .onConflict(['entity_id', 'external_id'])
    .merge({ ...written, ...again })
    .whereIn('booking.state', statesBefore(event))
    .returning('external_id')
  return rows.length > 0
}

/** SQL: what was said of an attempt is said no more. */
export const NO_REASON = 'reason_code = null, reason_facts = null, uncertain_since = null'
/** SQL: nothing of an attempt is known yet. */
export const OUTSET = `attempts = 0, not_before = null, ${NO_REASON}`
/** SQL: nothing of it stands in the ledger. */
export const GONE_THERE = 'ledger_booking_id = null, ledger_revision = null, accepted_revision = null'

/** Bookings of a document itself, beside those that correct it or take it back. */
export const OF_A_DOCUMENT = `b.kind in (${kindsWith((kind) => kind.posted)
  .map((kind) => `'${kind}'`)
  .join(', ')})`

/** SQL, of a booking `b`: no run that goes on has it. */
export const NOBODY_SENDS = `not exists (select from run r where r.entity_id = b.entity_id and r.run_id = b.run_id and r.state in ('queued', 'running'))`

/** A lease that lasts for longer is of a database whose clock was set back. */
const LONGEST_LEASE_SECONDS = 900

/**
 * Bookings whose run ended before they were sent: what a ledger may have is in doubt, a document's own waits to be posted, and anything else failed.
 */
export async function releaseAbandoned(books: Books): Promise<void> {
  const code: Code = 'AXION_RUN_FAILED'
  const own = `(b.action = 'book' and ${OF_A_DOCUMENT})`
  const unsure = `(b.uncertain_since is not null or b.state = 'sending')`
  await move(books, 'abandoned', {
    to: { sql: `case when ${unsure} then 'in-doubt' when ${own} then 'rehearsed' else 'failed' end` },
    set: `run_id = null, lease_token = null, lease_until = null, uncertain_since = case when ${unsure} then coalesce(b.uncertain_since, b.updated_at) end,
      reason_code = case when ${unsure} then 'AXION_IN_DOUBT' when ${own} then null else :code end,
      reason_facts = case when ${unsure} then :why::jsonb when ${own} then null else :detail::jsonb end`,
    where: `${NOBODY_SENDS} and (b.lease_until is null or b.lease_until < now() or b.lease_until > now() + make_interval(secs => ${LONGEST_LEASE_SECONDS}))`,
    bindings: {
      code,
      why: JSON.stringify({ why: 'Its run ended before the ledger answered.' }),
      detail: JSON.stringify({ detail: 'it ended before this was sent' }),
    },
  })
}

/** What a document is in Post where that is not its booking's state alone. */
const SENT_OR_BEING: readonly BookingState[] = ['waiting', 'sending', 'sent', 'in-doubt', 'booked']

/** SQL, of a document `d` that its system's scope leaves out: nothing of it is booked or on its way. `b` is its booking, if any. */
export const LEFT_OUT = `(d.not_taken is not null and b.ledger_booking_id is null and coalesce(b.state, '') not in ${states(...SENT_OR_BEING)})`

/** SQL, of a booking `b`: somebody voided it in the ledger. It is booked anew only where somebody says so. */
export const VOIDED_THERE = `(b.state in ${states('changed')} and b.ledger_booking_id is null and exists (select from ledger_entry v where v.entity_id = b.entity_id and v.external_id = b.external_id and v.voided))`

/** Where a booking may end; every other state waits for somebody. */
export const ENDS: readonly BookingState[] = ['booked', 'withdrawn']
