import { saying, Booking, type About } from '@axion/contract'
import type { Bridge } from '../bridges/client.ts'
import type { WriteOutcome } from '../bridges/exchanged.ts'
import { Problem } from '../faults/problem.ts'
import { idempotencyKey, type Leased, type Settled } from './outbox.ts'

const LOOK_UPS_BEYOND = 4
const PRECONDITION_FAILED = 412

/**
 * Sends one booking, or finds out what became of it. After a lost acknowledgement it is looked up by key, then by external id;
 * "not found" counts only past the ledger's longest late commit; where the ledger gives no way to know, it stays in doubt.
 */
export async function attempt(
  bridge: Bridge,
  about: About,
  booking: Leased,
  limits: Limits,
): Promise<Settled> {
  if (limits.quietForSeconds !== null) {
    const known =
      booking.action === 'void'
        ? await lookUpVoid(bridge, about, booking, limits)
        : await lookUp(bridge, about, booking, { quietForSeconds: limits.quietForSeconds, limits })
    if (known) return known
  }
  return settledBy(await write(bridge, booking), booking, limits)
}

/** What an attempt goes by, beside the booking. */
export interface Limits {
  /** So long nobody can be sending it any more whose attempt had no answer, below nought while somebody may; null where every one had. */
  readonly quietForSeconds: number | null
  readonly mostAttempts: number
  /** Seconds between attempts, the last of them from then on. */
  readonly pauses: readonly number[]
}

function write(
  bridge: Bridge,
  { action, request, ledger_booking_id: id, ledger_revision: revision, ...booking }: Leased,
): Promise<WriteOutcome> {
  const key = idempotencyKey(booking)
  if (action === 'void') {
    if (id === null || revision === null)
      throw new Problem('AXION_RUN_FAILED', { detail: `${booking.number} has nothing in the ledger to void` })
    return bridge.voidBooking(id, key, revision)
  }
  if (request === null)
    throw new Problem('AXION_RUN_FAILED', { detail: `${booking.number} was never composed` })
  return id !== null && revision !== null
    ? bridge.replaceBooking(id, request, key, revision)
    : bridge.postBooking(request, key)
}

function settledBy(outcome: WriteOutcome, booking: Leased, limits: Limits): Settled {
  const backoff = backoffSeconds(booking, limits)
  switch (outcome.kind) {
    case 'done': {
      const read = Booking.safeParse(outcome.body)
      // A write that was answered in another shape was made: what it became has to be looked up.
      if (!read.success) return unanswered(booking, 'the answer had another shape', limits)
      return settledAs(booking, read.data)
    }
    case 'refused':
      if (outcome.status === PRECONDITION_FAILED)
        return { ...saying('AXION_EDITED_IN_LEDGER', {}), state: 'failed' }
      return {
        ...saying('AXION_LEDGER_REFUSED', { detail: outcome.detail, reason: outcome.code }),
        state: 'failed',
      }
    case 'later':
      if (booking.attempts >= limits.mostAttempts)
        return {
          ...saying('AXION_LEDGER_BUSY', { attempts: String(booking.attempts), detail: outcome.detail }),
          state: 'failed',
        }
      return {
        state: 'waiting',
        afterSeconds: Math.max(outcome.afterSeconds, backoff),
        uncertain: false,
        detail: outcome.detail,
      }
    case 'unknown':
      return unanswered(booking, outcome.detail, limits)
  }
}

/** What the ledger shows of a booking after its write was made. */
function settledAs({ action }: Leased, { id, revision, state }: Booking): Settled {
  if (action === 'void')
    return state === 'voided'
      ? { state: 'withdrawn' }
      : {
          ...saying('AXION_LEDGER_REFUSED', { detail: 'it still stands', reason: 'not-voided' }),
          state: 'failed',
        }
  return { state: 'sent', ledgerBookingId: id, ledgerRevision: revision }
}

/** The same just after it was sent: a ledger's longest late commit begins to count anew. */
function unanswered(booking: Leased, detail: string, limits: Limits): Settled {
  const settled = waitForLookUp(booking, detail, limits)
  return settled.state === 'waiting' ? { ...settled, unanswered: true } : settled
}

/** An attempt without an answer waits to be looked up; a bounded number of times, then it is for a person. */
function waitForLookUp(booking: Leased, detail: string, limits: Limits): Settled {
  if (booking.attempts >= limits.mostAttempts + LOOK_UPS_BEYOND)
    return {
      ...saying('AXION_IN_DOUBT', { why: `After ${booking.attempts} attempts: ${detail}.` }),
      state: 'in-doubt',
    }
  return { state: 'waiting', afterSeconds: backoffSeconds(booking, limits), uncertain: true, detail }
}

/** With jitter, so that many bookings that failed at once do not come back at once. */
function backoffSeconds({ attempts }: Leased, { pauses }: Limits): number {
  return (pauses[Math.min(attempts, pauses.length) - 1] ?? 1) * (0.5 + Math.random() / 2)
}

/** A void that had no answer shows by itself in the ledger; until it does it may be asked for again, since it goes by the revision. */
async function lookUpVoid(
  bridge: Bridge,
  about: About,
  booking: Leased,
  limits: Limits,
): Promise<Settled | null> {
  if (!about.findsByExternalId) return null
  try {
    const found = await bridge.findBookings({ externalId: booking.external_id.replace(/-double-[^/]*$/, '') })
    return found.some((b) => b.id === booking.ledger_booking_id && b.state === 'voided')
      ? { state: 'withdrawn' }
      : null
  } catch (error) {
    if (!(error instanceof Problem)) throw error
    return waitForLookUp(booking, 'it could not be looked up', limits)
  }
}

/** Of several bookings under one external id, the one that is ours; what was voided there is none. */
function theBooking(found: readonly Booking[], { ledger_booking_id: id }: Leased): Booking | undefined {
  return found.find((b) => b.id === id) ?? found.find((b) => b.state === 'posted')
}

/** What the ledger says of an attempt that had no answer; null: it was not made, and may be sent again. */
async function lookUp(
  bridge: Bridge,
  about: About,
  booking: Leased,
  { quietForSeconds, limits }: { readonly quietForSeconds: number; readonly limits: Limits },
): Promise<Settled | null> {
  const byKey = about.idempotency !== null
  if (about.longestLateCommitSeconds === null || (!byKey && !about.findsByExternalId)) {
    const why =
      about.longestLateCommitSeconds === null
        ? 'It states no longest time for a late commit.'
        : 'It finds bookings neither by key nor by external id.'
    return { ...saying('AXION_IN_DOUBT', { why }), state: 'in-doubt' }
  }
  let found: readonly Booking[]
  let ours: Booking | undefined
  try {
    found = byKey ? await bridge.findBookings({ idempotencyKey: idempotencyKey(booking) }) : []
    ours =
      found[0] ??
      (about.findsByExternalId
        ? theBooking(await bridge.findBookings({ externalId: booking.external_id }), booking)
        : undefined)
  } catch (error) {
    if (!(error instanceof Problem)) throw error
    return waitForLookUp(booking, 'it could not be looked up', limits)
  }
  if (ours && (found.length > 0 || booking.ledger_booking_id === null))
    return { state: 'sent', ledgerBookingId: ours.id, ledgerRevision: ours.revision }
  if (ours && ours.revision !== booking.ledger_revision) {
    return {
      ...saying('AXION_IN_DOUBT', { why: 'It was changed there meanwhile, by us or by somebody else.' }),
      state: 'in-doubt',
    }
  }
  const left = about.longestLateCommitSeconds - quietForSeconds
  if (left > 0)
    return {
      state: 'waiting',
      afterSeconds: left,
      uncertain: true,
      answered: true,
      detail: 'waits for a late commit',
    }
  if (!about.findsByExternalId) {
    return {
      ...saying('AXION_IN_DOUBT', {
        why: 'It does not find bookings by external id, and may have ignored the key.',
      }),
      state: 'in-doubt',
    }
  }
  return null
}
