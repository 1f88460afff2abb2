import { clearTimeout, setTimeout } from 'node:timers'
import type { Database } from '../database/connection.ts'
import { waitingRuns, type RunJob } from './leases.ts'

/** How often hands that are free look for work. */
const LOOKS_MS = 500
/** A program that ends waits so long for the slices that it is at. */
const ENDING_MS = 5000

/** Where hands look for work, and what they do with it. */
export interface Place {
  readonly database: Database
  /** @returns whether there was anything to do: somebody else may have been at it */
  readonly handle: (job: RunJob) => Promise<boolean>
}

/**
 * So many hands, each at a run of another legal entity: who has many runs waits for others with one. They look in every database by itself,
 * so that one that does not answer keeps nobody from the others. Timers go by a clock that nobody sets.
 */
export class Hands {
  private readonly busy = new Map<string, Promise<void>>()
  private readonly timers = new Map<Place, NodeJS.Timeout>()
  /** Databases that did not answer when they were last looked at: it is said once. */
  private readonly silent = new Set<Place>()
  private ended = false

  constructor(
    private readonly hands: number,
    private readonly onError: (error: Error) => void,
  ) {}

  workAt(place: Place): void {
    void this.look(place).finally(() => {
      if (!this.ended)
        this.timers.set(
          place,
          setTimeout(() => this.workAt(place), LOOKS_MS),
        )
    })
  }

  private async look(place: Place): Promise<void> {
    const free = (): number => this.hands - this.busy.size
    if (this.ended || free() <= 0) return
    try {
      const jobs = await waitingRuns(place.database, [...this.busy.keys()], free())
      this.silent.delete(place)
      for (const job of jobs)
        if (!this.ended && free() > 0 && !this.busy.has(job.entityId)) this.begin(place, job)
    } catch (error) {
      if (!this.silent.has(place)) this.onError(error as Error)
      this.silent.add(place)
    }
  }

  private begin(place: Place, job: RunJob): void {
    const work = place
      .handle(job)
      .catch((error: unknown) => {
        this.onError(error as Error)
        return false
      })
      .then((wasThere) => {
        this.busy.delete(job.entityId)
        // What waited for this hand need not wait for its next look; what could not be done just now is not tried again before it.
        return wasThere ? this.look(place) : undefined
      })
    this.busy.set(job.entityId, work)
  }

  /** Looks for nothing any more, and waits a while for what is under way; what takes longer is left to whoever takes it over. */
  async stop(): Promise<void> {
    this.ended = true
    for (const timer of this.timers.values()) clearTimeout(timer)
    let timer: NodeJS.Timeout | undefined
    const patience = new Promise<void>((done) => (timer = setTimeout(done, ENDING_MS)))
    await Promise.race([Promise.all(this.busy.values()), patience])
    clearTimeout(timer)
  }
}
