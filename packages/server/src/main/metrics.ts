import { isIP } from 'node:net'
import type { FastifyInstance } from 'fastify'
import { Gauge, Registry } from 'prom-client'
import type { Database } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import type { EdgeServices } from '../services/services.ts'
import { DIRECTORY } from '../settings/settings.ts'

const HANDED_ON = ['forwarded', 'x-forwarded-for', 'x-real-ip', 'via']
const LOOPBACK = /^(127\.|::1$|::ffff:127\.)/

/**
 * `GET /metrics` in the open text format, for programs on this machine alone: runs, queue, documents by what became of them, lag and memory.
 * Counts and seconds; no name of an entity, a person or a document.
 */
export function metricRoutes(app: FastifyInstance, { database, beside, settings }: EdgeServices): void {
  const databases = [{ name: DIRECTORY, database }, ...beside]
  app.get(
    '/metrics',
    { config: { tellsHealth: true, withTemporary: true }, schema: { hide: true } },
    async (request, reply) => {
      // A proxy that nobody named stands at this machine too, for whoever is behind it.
      const handedOn =
        settings.AXION_PROXIES.length === 0 && HANDED_ON.some((name) => name in request.headers)
      if (isIP(request.ip) === 0 || !LOOPBACK.test(request.ip) || handedOn)
        throw new Problem('AXION_NOT_FOUND', { what: 'such address' })
      const figures = new Figures()
      const { eventLoopDelay } = app.memoryUsage()
      const { heapUsed, rss } = process.memoryUsage()
      if (Number.isFinite(eventLoopDelay)) figures.lag.set(eventLoopDelay / 1000)
      figures.heap.set(heapUsed)
      figures.resident.set(rss)
      for (const one of databases) await figures.read(one.name, one.database, request.log)
      return reply.type(figures.registry.contentType).send(await figures.registry.metrics())
    },
  )
}

/** What is told at one look; nothing is kept from one to the next. */
class Figures {
  readonly registry = new Registry()
  readonly lag = this.gauge('event loop lag seconds', 'How far the server lags')
  readonly heap = this.gauge('heap bytes', 'Heap that the server uses')
  readonly resident = this.gauge('resident bytes', 'Memory that the server holds')
  private readonly answers = this.gauge('database up', 'Whether a database answers', 'database')
  private readonly queue = this.gauge(
    'runs unfinished',
    'Runs that wait, are to be tried again later, or are worked at',
    'database',
    'is',
  )
  private readonly runs = this.gauge('runs day', 'Runs begun within a day', 'database', 'kind', 'state')
  private readonly seconds = this.gauge(
    'run seconds day',
    'Seconds from beginning to end of the runs of a day, together',
    ...['database', 'kind', 'state'],
  )
  private readonly documents = this.gauge(
    'post documents',
    'Documents by what became of them in Post',
    ...['database', 'state'],
  )
  private readonly worker = this.gauge('worker heard seconds', 'Since a worker was heard of last', 'database')

  private gauge(words: string, help: string, ...labelNames: string[]): Gauge {
    return new Gauge({
      name: `axion_${words.replaceAll(' ', '_')}`,
      help,
      labelNames,
      registers: [this.registry],
    })
  }

  /** A database that does not answer is told as such, and the others are read. */
  async read(
    name: string,
    database: Database,
    log: { warn(of: object, words: string): void },
  ): Promise<void> {
    const at = { database: name }
    try {
      const due = (await database('run_unfinished')
        .groupBy('is')
        .select(
          database.raw(
            `case when waits then 'waiting' when leased_by is null then 'later' else 'leased' end as is`,
          ),
        )
        .count('* as n')) as unknown as { is: string; n: string }[]
      for (const is of ['waiting', 'later', 'leased'])
        this.queue.set({ ...at, is }, Number(due.find((one) => one.is === is)?.n ?? 0))
      for (const { kind, state, runs, seconds } of await rowsOf<Run>(database, 'run_metric')) {
        this.runs.set({ ...at, kind, state }, runs)
        this.seconds.set({ ...at, kind, state }, seconds)
      }
      for (const { state, documents } of await rowsOf<Posted>(database, 'post_metric'))
        this.documents.set({ ...at, state }, Number(documents))
      const [heard] = (await database('worker_heartbeat').select(
        database.raw('extract(epoch from now() - max(at))::float8 as seconds'),
      )) as unknown as { seconds: number | null }[]
      if (heard?.seconds != null) this.worker.set(at, heard.seconds)
      this.answers.set(at, 1)
    } catch (error) {
      log.warn({ err: error }, `metrics: the database ${name} does not answer`)
      this.answers.set(at, 0)
    }
  }
}

interface Run {
  readonly kind: string
  readonly state: string
  readonly runs: number
  readonly seconds: number
}
interface Posted {
  readonly state: string
  readonly documents: string
}

async function rowsOf<R>(database: Database, view: string): Promise<readonly R[]> {
  return ((await database.raw('select * from ??', [view])) as { rows: R[] }).rows
}
