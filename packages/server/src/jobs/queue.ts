import PgBoss from 'pg-boss'
import type { Transaction } from '../database/connection.ts'

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
/** So long a slice waits before it asks again whether its entity's turn has come. */
const TURN_SECONDS = 1

export interface RunJob {
  readonly entityId: string
  readonly runId: string
  /** How often the slice was tried before it was put back to wait. */
  readonly tried?: number
}

export class Queue {
  private readonly boss: PgBoss

  constructor(connectionString: string) {
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
    for (let hand = 0; hand < hands; hand++)
      await this.boss.work<RunJob>(
        RUN_QUEUE,
        { pollingIntervalSeconds: POLLING_SECONDS, batchSize: 1, includeMetadata: true },
        async ([job]) => {
          if (!job) return
          const { entityId } = job.data
          const tried = (job.data.tried ?? 0) + job.retryCount
          const slice = { ...job.data, tried }
          if (busy.has(entityId)) return this.send(slice, { afterSeconds: TURN_SECONDS })
          busy.add(entityId)
          try {
            await handle(slice, tried >= job.retryLimit)
          } finally {
            busy.delete(entityId)
          }
        },
      )
  }
}

const PARAMETER = /\$(\d+)/g

/** pg-boss writes $1; Knex wants ? in the order of use. */
function positional(text: string): string {
  return text.replaceAll('?', '\\?').replace(PARAMETER, '?')
}

function bound(text: string, values: readonly unknown[]): never[] {
  return [...text.matchAll(PARAMETER)].map(([, at]) => (values[Number(at) - 1] ?? null) as never)
}
