import { idempotencyKey, type Leased } from './outbox.ts'

/**
 * Since when nobody can be sending bookings whose last attempt had no answer, by a clock that nobody sets: neither the database's nor the
 * machine's may jump over the time in which a ledger can still commit. A process that takes over begins to wait anew.
 */
export class Uncertain {
  private readonly since = new Map<string, number>()

  constructor(private readonly now: () => number = () => performance.now()) {}

  /**
   * @param longestSending seconds that another worker, thought dead, may still be at it
   * @returns seconds, below nought while it may; null where nothing is uncertain
   */
  quietForSeconds(entityId: string, booking: Leased, longestSending: number): number | null {
    if (booking.uncertain_since === null) return null
    const key = this.key(entityId, booking)
    const since = this.since.get(key) ?? this.now() + longestSending * 1000
    this.since.set(key, since)
    return (this.now() - since) / 1000
  }

  /** An attempt of this process ended without an answer. */
  ended(entityId: string, booking: Leased): void {
    this.since.set(this.key(entityId, booking), this.now())
  }

  /** What became of it is known, or somebody else's to find out. */
  forget(entityId: string, booking: Leased): void {
    this.since.delete(this.key(entityId, booking))
  }

  private key(entityId: string, booking: Leased): string {
    return `${entityId} ${idempotencyKey(booking)}`
  }
}
