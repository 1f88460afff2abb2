import type { Columns } from '../database/row.ts'
import type { BookingRequest } from '@axion/contract'
import type { Code } from '@axion/contract'
import { inEntity, type Books, type Database } from '../database/connection.ts'
import { GONE_THERE, move, NOBODY_SENDS, NO_REASON, OF_A_DOCUMENT, states } from '../documents/states.ts'

/** A booking on its way out, held by one worker: only the holder of the lease's token may write what became of it. */
export interface Leased extends Columns<
  'booking',
  | 'external_id'
  | 'number'
  | 'revision'
  | 'action'
  | 'request'
  | 'attempts'
  | 'ledger_booking_id'
  | 'ledger_revision'
  | 'lease_token'
  | 'uncertain_since'
> {
  /** Booked or booked again, or voided there. */
  readonly action: 'book' | 'void'
  /** What is sent; null where a void needs no more than the booking's id. */
  readonly request: BookingRequest | null
  readonly lease_token: string
  /** When an earlier attempt ended without an answer; null where none did. */
  readonly uncertain_since: Date | null
}

/** The key that a booking's revision is sent under, however often. */
export function idempotencyKey(booking: Pick<Leased, 'external_id' | 'revision'>): string {
  return `${booking.external_id}#${booking.revision}`
}

/**
 * Puts rehearsed bookings of documents into the outbox, for a run to send; what a run that ended left there goes on with this one.
 * @param further SQL, of a booking `b`: which of them
 * @returns how many it will send
 */
export async function queueFor(
  books: Books,
  run: string,
  documents: readonly { readonly system_id: string; readonly document_id: string }[],
  further = 'true',
): Promise<number> {
  const chosen = `${OF_A_DOCUMENT} and b.named = any(:keys) and ${further}`
  const which = {
    where: chosen,
    set: 'run_id = :run',
    bindings: { run, keys: documents.map((d) => `${d.system_id}/${d.document_id}`) },
  }
  const resumed = await move(books, 'resumed', {
    ...which,
    where: `${chosen} and ${NOBODY_SENDS}`,
    to: { sql: 'b.state' },
  })
  const queued = await move(books, 'queued', { ...which, to: 'waiting' })
  return queued.length + resumed.length
}

/** No attempt is put off for longer: what takes longer than that is looked at again in between. */
const LONGEST_PUT_OFF_SECONDS = 3600

/** How many bookings a worker leases at once. */
export const BATCH = 10

/**
 * Takes the next bookings of a run, those of a dead worker included: where its lease ran out, whether the ledger
 * has the booking is uncertain since the lease began. A time further away than any is ever put is of a database whose clock was set back.
 */
export function claim(
  database: Database,
  entityId: string,
  runId: string,
  {
    leaseSeconds,
    most = BATCH,
    restoredAt = null,
  }: {
    readonly leaseSeconds: number
    readonly most?: number
    /** Since when nobody knows here what was sent: each is looked up before it is sent. */
    readonly restoredAt?: Date | null
  },
): Promise<Leased[]> {
  return inEntity(database, entityId, async (books) => {
    const rows = await move<'claimed', Leased>(
      books,
      'claimed',
      {
        to: 'sending',
        set: `uncertain_since = case when b.state in ${states('sending')} then coalesce(b.uncertain_since, b.lease_until - make_interval(secs => :lease)) else coalesce(b.uncertain_since, :restored::timestamptz) end,
          attempts = b.attempts + 1, lease_token = gen_random_uuid(), lease_until = now() + make_interval(secs => :lease)`,
        where: `b.external_id in (
          select external_id from booking where entity_id = :entity and run_id = :run
            and ((state in ${states('waiting')} and (not_before is null or not_before <= now() or not_before > now() + make_interval(secs => :longest)))
              or (state in ${states('sending')} and (lease_until < now() or lease_until > now() + make_interval(secs => :lease))))
          order by external_id limit :batch for update skip locked)`,
        bindings: {
          run: runId,
          restored: restoredAt,
          lease: leaseSeconds,
          batch: most,
          longest: LONGEST_PUT_OFF_SECONDS,
        },
      },
      'b.external_id, b.number, b.revision, b.action, b.request, b.attempts, b.ledger_booking_id, b.ledger_revision, b.lease_token, b.uncertain_since',
    )
    return rows.sort((a, b) => (a.external_id < b.external_id ? -1 : 1))
  })
}

/** Begins the lease of a booking anew, just before it is sent. @returns whether it is still this worker's */
export async function holds(
  database: Database,
  entityId: string,
  { external_id: id, lease_token: token }: Leased,
  leaseSeconds: number,
): Promise<boolean> {
  const renewed = await inEntity(database, entityId, ({ trx }) =>
    trx('booking')
      .where({ entity_id: entityId, external_id: id, lease_token: token })
      .update({ lease_until: trx.raw('now() + make_interval(secs => ?)', [leaseSeconds]) }),
  )
  return renewed > 0
}

/** What became of an attempt. */
export type Settled =
  | { readonly state: 'sent'; readonly ledgerBookingId: string; readonly ledgerRevision: string }
  | { readonly state: 'withdrawn' }
  | {
      readonly state: 'failed' | 'in-doubt'
      readonly code: Code
      readonly facts: Readonly<Record<string, string>>
    }
  | {
      readonly state: 'waiting'
      readonly afterSeconds: number
      readonly uncertain: boolean
      /** Whether it was sent just now, and had no answer: what was only looked up is as uncertain as before. */
      readonly unanswered?: boolean
      /** Whether the ledger was asked and said something: it does not have it yet. */
      readonly answered?: boolean
      readonly detail: string
    }

/** Writes the outcome, if the lease is still ours: a worker that was thought dead and wakes up changes nothing. */
export async function settle(
  database: Database,
  entityId: string,
  booking: Leased,
  settled: Settled,
): Promise<void> {
  const { set, bindings } = fieldsOf(settled)
  await inEntity(database, entityId, async (books) => {
    await move(books, 'settled', {
      to: settled.state,
      set: `lease_token = null, lease_until = null, ${set}`,
      where: 'b.external_id = :id and b.lease_token = :token',
      bindings: { ...bindings, id: booking.external_id, token: booking.lease_token },
    })
  })
}

function fieldsOf(settled: Settled): { set: string; bindings: Record<string, unknown> } {
  if (settled.state === 'sent')
    return {
      set: `ledger_booking_id = :booking, ledger_revision = :revision, not_before = null, ${NO_REASON}`,
      bindings: { booking: settled.ledgerBookingId, revision: settled.ledgerRevision },
    }
  if (settled.state === 'withdrawn')
    return { set: `${GONE_THERE}, not_before = null, ${NO_REASON}`, bindings: {} }
  if (settled.state !== 'waiting')
    return {
      set: 'reason_code = :code, reason_facts = :facts::jsonb',
      bindings: { code: settled.code, facts: JSON.stringify(settled.facts) },
    }
  return {
    set: `not_before = now() + make_interval(secs => :after), uncertain_since = ${settled.uncertain ? 'coalesce(b.uncertain_since, now())' : 'null'}`,
    bindings: { after: Math.min(settled.afterSeconds, LONGEST_PUT_OFF_SECONDS) },
  }
}

export interface Backlog {
  readonly waiting: number
  readonly done: number
  readonly failed: number
  /** Seconds until the next one may be taken; null where none waits. */
  readonly nextInSeconds: number | null
}

export async function backlog({ trx, entityId }: Books, runId: string): Promise<Backlog> {
  const { rows } = (await trx.raw(
    `select count(*) filter (where state in ${states('waiting', 'sending')})::int as waiting, count(*) filter (where state in ${states('sent', 'booked', 'withdrawn')})::int as done,
       count(*) filter (where state in ${states('failed', 'in-doubt')})::int as failed,
       min(extract(epoch from greatest(coalesce(case when state in ${states('sending')} then lease_until else not_before end, now()) - now(), interval '0')))
         filter (where state in ${states('waiting', 'sending')})::float8 as next
     from booking where entity_id = ? and run_id = ?`,
    [entityId, runId],
  )) as { rows: { waiting: number; done: number; failed: number; next: number | null }[] }
  const row = rows[0]
  return {
    waiting: row?.waiting ?? 0,
    done: row?.done ?? 0,
    failed: row?.failed ?? 0,
    nextInSeconds: row?.next ?? null,
  }
}
