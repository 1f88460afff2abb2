import { idempotencyKey, type Leased } from './outbox.ts'

/** When the last attempt that this process knows of ended at the latest, and which attempt that was. */
interface Known {
  readonly ended: number
  readonly attempt: number
}

/**
 * Since when nobody can be sending bookings whose last attempt had no answer, by a clock that nobody sets: neither the database's nor the
 * machine's may jump over the time in which a ledger can still commit. A process that takes over, be it only back again, begins to wait anew.
 */
export class Uncertain {
  private readonly known = new Map<string, Known>()

  constructor(private readonly now: () => number = () => performance.now()) {}

  /**
   * @param longestSending seconds that another worker, thought dead, may still be at it
   * @returns seconds, below nought while it may; null where nothing is uncertain
   */
  quietForSeconds(entityId: string, booking: Leased, longestSending: number): number | null {
    if (booking.uncertain_since === null) {
      this.forget(entityId, booking)
      return null
    }
    const before = this.known.get(keyOf(entityId, booking))
    // Somebody else may have sent it since this process did.
    const ended = before?.attempt === booking.attempts - 1 ? before.ended : this.now() + longestSending * 1000
    this.note(entityId, booking, ended)
    return (this.now() - ended) / 1000
  }

  /** It was sent just now, and had no answer. */
  unanswered(entityId: string, booking: Leased): void {
    this.note(entityId, booking, this.now())
  }

  /** What became of it is known, or somebody else's to find out. */
  forget(entityId: string, booking: Leased): void {
    this.known.delete(keyOf(entityId, booking))
  }

  private note(entityId: string, booking: Leased, ended: number): void {
    this.known.set(keyOf(entityId, booking), { ended, attempt: booking.attempts })
  }
}

function keyOf(entityId: string, booking: Leased): string {
  return `${entityId} ${idempotencyKey(booking)}`
}
