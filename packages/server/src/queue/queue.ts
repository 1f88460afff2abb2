import PgBoss from 'pg-boss'
import type { Database, Transaction } from '../database/connection.ts'
import type { Waits } from '../settings/waits.ts'

export const RUN_QUEUE = 'run'
/** A job is one slice of a run. A worker that dies is noticed when the slice expires, and the slice is given out again. */
export const QUEUE_OPTIONS: PgBoss.Queue = {
  name: RUN_QUEUE,
  policy: 'standard',
  retryLimit: 20,
  retryDelay: 1,
  expireInSeconds: 120,
}

const POLLING_SECONDS = 0.5
/** No slice is put off for longer: one that begins later, or began later than now, is of a database whose clock was set back. */
const LONGEST_PUT_OFF_SECONDS = 300

export interface RunJob {
  readonly entityId: string
  readonly runId: string
  /** How often the slice was tried before it was put back to wait. */
  readonly tried?: number
}

export class Queue {
  private readonly boss: PgBoss
  private readonly hands: string[] = []
  private waking: NodeJS.Timeout | null = null

  constructor(
    connectionString: string,
    private readonly waits: Pick<Waits, 'turn' | 'slice' | 'heartbeat'>,
  ) {
    this.boss = new PgBoss({
      connectionString,
      schema: 'pgboss',
      migrate: false,
      schedule: false,
      maintenanceIntervalSeconds: 60,
      monitorStateIntervalSeconds: 30,
      max: 4,
    })
  }

  async start(onError: (error: Error) => void): Promise<void> {
    this.boss.on('error', onError)
    await this.boss.start()
  }

  stop(): Promise<void> {
    if (this.waking) clearInterval(this.waking)
    return this.boss.stop({ graceful: true, timeout: 5000 })
  }

  /** Hands a slice to the workers, in the caller's transaction where there is one: rolled back, it was never queued. */
  async send(
    job: RunJob,
    options: { readonly afterSeconds?: number; readonly trx?: Transaction } = {},
  ): Promise<void> {
    const { trx } = options
    const db = trx && {
      executeSql: async (text: string, values: unknown[]) => ({
        rows: ((await trx.raw(positional(text), bound(text, values))) as { rows: unknown[] }).rows,
      }),
    }
    await this.boss.send(RUN_QUEUE, job, {
      ...QUEUE_OPTIONS,
      expireInSeconds: Math.max(Math.round(this.waits.slice), 1),
      ...(options.afterSeconds ? { startAfter: options.afterSeconds } : {}),
      ...(db ? { db: db as never } : {}),
    })
  }

  /**
   * Hands slices out to so many hands at once, each of another legal entity: who has many runs waits for others with one.
   * `isLast` where a slice that fails is not given out again.
   */
  async work(hands: number, handle: (job: RunJob, isLast: boolean) => Promise<void>): Promise<void> {
    const busy = new Set<string>()
    // A hand whose program's clock is set back while it is at a slice, or asks for one, would sleep for as long as that was.
    this.waking ??= setInterval(() => {
      for (const hand of this.hands) this.boss.notifyWorker(hand)
    }, this.waits.heartbeat * 1000)
    for (let hand = 0; hand < hands; hand++) {
      const id = await this.boss.work<RunJob>(
        RUN_QUEUE,
        { pollingIntervalSeconds: POLLING_SECONDS, batchSize: 1, includeMetadata: true },
        async ([job]) => {
          if (!job) return
          const { entityId } = job.data
          const tried = (job.data.tried ?? 0) + job.retryCount
          const slice = { ...job.data, tried }
          if (busy.has(entityId)) return this.send(slice, { afterSeconds: this.waits.turn })
          busy.add(entityId)
          try {
            await handle(slice, tried >= job.retryLimit)
          } finally {
            busy.delete(entityId)
          }
        },
      )
      this.hands.push(id)
    }
  }
}

/** Slices whose time a database that was set back would wait for are given out as they would have been. */
export async function afterSetBack(database: Database): Promise<void> {
  await database.raw(
    `update pgboss.job set start_after = least(start_after, now()), started_on = least(started_on, now())
     where name = :name and ((state < 'active' and start_after > now() + make_interval(secs => :longest)) or (state = 'active' and started_on > now()))`,
    { name: RUN_QUEUE, longest: LONGEST_PUT_OFF_SECONDS },
  )
}

const PARAMETER = /\$(\d+)/g

/** pg-boss writes $1; Knex wants ? in the order of use. */
function positional(text: string): string {
  return text.replaceAll('?', '\\?').replace(PARAMETER, '?')
}

function bound(text: string, values: readonly unknown[]): never[] {
  return [...text.matchAll(PARAMETER)].map(([, at]) => (values[Number(at) - 1] ?? null) as never)
}
