import type { BookingRequest } from '@axion/contract'
import { inEntity, json, type Database, type Transaction } from '../database/connection.ts'
import type { Code } from '@axion/contract'

/** A booking on its way out, held by one worker: only the holder of the lease's token may write what became of it. */
export interface Leased {
  readonly external_id: string
  readonly number: string
  readonly revision: number
  /** Booked or booked again, or voided there. */
  readonly action: 'book' | 'void'
  /** What is sent; null where a void needs no more than the booking's id. */
  readonly request: BookingRequest | null
  readonly attempts: number
  readonly ledger_booking_id: string | null
  readonly ledger_revision: string | null
  readonly lease_token: string
  /** When an earlier attempt ended without an answer; null where none did. */
  readonly uncertain_since: Date | null
}

/** The key that a booking's revision is sent under, however often. */
export function idempotencyKey(booking: Pick<Leased, 'external_id' | 'revision'>): string {
  return `${booking.external_id}#${booking.revision}`
}

/** How many bookings a worker leases at once. */
export const BATCH = 10

/**
 * Takes the next bookings of a run, those of a dead worker included: where its lease ran out, whether the ledger
 * has the booking is uncertain since the lease began.
 */
export function claim(
  database: Database,
  entityId: string,
  runId: string,
  leaseSeconds: number,
  most = BATCH,
): Promise<Leased[]> {
  return inEntity(database, entityId, async (trx) => {
    const { rows } = (await trx.raw(
      `update booking set
         uncertain_since = case when state = 'sending' then coalesce(uncertain_since, lease_until - make_interval(secs => :lease)) else uncertain_since end,
         state = 'sending', attempts = attempts + 1, lease_token = nextval('lease_token'), lease_until = now() + make_interval(secs => :lease), updated_at = now()
       where entity_id = :entityId and external_id in (
         select external_id from booking where entity_id = :entityId and run_id = :runId
           and ((state = 'waiting' and (not_before is null or not_before <= now())) or (state = 'sending' and lease_until < now()))
         order by external_id limit :batch for update skip locked)
       returning external_id, number, revision, action, request, attempts, ledger_booking_id, ledger_revision, lease_token, uncertain_since`,
      { entityId, runId, lease: leaseSeconds, batch: most },
    )) as { rows: Leased[] }
    return rows.sort((a, b) => (a.external_id < b.external_id ? -1 : 1))
  })
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
      readonly detail: string
    }

/** Writes the outcome, if the lease is still ours: a worker that was thought dead and wakes up changes nothing. */
export async function settle(
  database: Database,
  entityId: string,
  booking: Leased,
  settled: Settled,
): Promise<void> {
  await inEntity(database, entityId, async (trx) => {
    await trx('booking')
      .where({
        entity_id: entityId,
        external_id: booking.external_id,
        lease_token: booking.lease_token,
        state: 'sending',
      })
      .update({
        ...fieldsOf(trx, settled),
        state: settled.state,
        lease_token: null,
        lease_until: null,
        updated_at: trx.fn.now(),
      })
  })
}

function fieldsOf(trx: Transaction, settled: Settled): object {
  if (settled.state === 'sent')
    return {
      ledger_booking_id: settled.ledgerBookingId,
      ledger_revision: settled.ledgerRevision,
      uncertain_since: null,
      not_before: null,
      reason_code: null,
      reason_facts: null,
    }
  if (settled.state === 'withdrawn')
    return {
      ledger_booking_id: null,
      ledger_revision: null,
      accepted_revision: null,
      uncertain_since: null,
      not_before: null,
      reason_code: null,
      reason_facts: null,
    }
  if (settled.state !== 'waiting') return { reason_code: settled.code, reason_facts: json(settled.facts) }
  return {
    not_before: trx.raw('now() + make_interval(secs => ?)', [settled.afterSeconds]),
    uncertain_since: settled.uncertain ? trx.raw('coalesce(uncertain_since, now())') : null,
  }
}

export interface Backlog {
  readonly waiting: number
  readonly done: number
  readonly failed: number
  /** Seconds until the next one may be taken; null where none waits. */
  readonly nextInSeconds: number | null
}

export async function backlog(trx: Transaction, entityId: string, runId: string): Promise<Backlog> {
  const { rows } = (await trx.raw(
    `select count(*) filter (where state in ('waiting', 'sending'))::int as waiting, count(*) filter (where state in ('sent', 'booked', 'withdrawn'))::int as done,
       count(*) filter (where state in ('failed', 'in-doubt'))::int as failed,
       min(extract(epoch from greatest(coalesce(case when state = 'sending' then lease_until else not_before end, now()) - now(), interval '0')))
         filter (where state in ('waiting', 'sending'))::float8 as next
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
