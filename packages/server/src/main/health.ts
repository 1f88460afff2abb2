import { setTimeout as pause } from 'node:timers/promises'
import { getHeapStatistics } from 'node:v8'
import { HealthView } from '@axion/contract'
import underPressure from '@fastify/under-pressure'
import type { FastifyInstance } from 'fastify'
import type { Database } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import type { App, EdgeServices } from '../services/services.ts'

/** A server that has so much of its heap in use takes no more for the moment. */
const MOST_OF_HEAP = 0.85
const LATER_SECONDS = 5
const LOOK_MS = 1000
const MEGABYTE = 1024 * 1024
const ANSWERS_MS = 2000

/**
 * Refuses what would take the server past its limits, and says when to come back; its health is told all the same. A lag that fills the time
 * between two looks is measured as one without an end, so that looks stand at least as far apart as the lag that is allowed.
 */
export async function limitPressure(
  app: FastifyInstance,
  limits: {
    /** Milliseconds that it lags; nought is no limit. */
    readonly maxEventLoopDelay: number
    readonly maxHeapUsedBytes?: number
    /** Milliseconds between two looks, at least. */
    readonly sampleInterval?: number
  },
): Promise<void> {
  await app.register(underPressure, {
    maxHeapUsedBytes: MOST_OF_HEAP * getHeapStatistics().heap_size_limit,
    ...limits,
    sampleInterval: Math.max(limits.sampleInterval ?? LOOK_MS, limits.maxEventLoopDelay),
    retryAfter: LATER_SECONDS,
    pressureHandler: async (request, reply, type, value) => {
      if (request.routeOptions.config.tellsHealth === true) return
      request.log.warn({ pressure: type, value }, 'refused for now')
      void reply.header('retry-after', LATER_SECONDS)
      throw new Problem('AXION_NOT_NOW')
    },
  })
}

declare module 'fastify' {
  interface FastifyContextConfig {
    /** Whether it is answered under pressure too. */
    tellsHealth?: boolean
  }
}

/** Says ok only when the directory answers and a worker has been heard of within seconds; which databases beside it answer; and how far the server lags, and its memory. */
export function healthRoutes(app: App, { database, settings, beside }: EdgeServices): void {
  app.get(
    '/api/health',
    {
      config: { tellsHealth: true, withTemporary: true },
      schema: { response: { 200: HealthView, 503: HealthView } },
    },
    async (_request, reply) => {
      const answers = (one: Database, name: string): Promise<boolean> =>
        Promise.race([
          one.raw('select').then(
            () => true,
            (error: unknown) => {
              app.log.warn({ err: error }, `health: the database ${name} does not answer`)
              return false
            },
          ),
          // Whoever asks for the health of the server does not wait for another's.
          pause(ANSWERS_MS, false, { ref: false }),
        ])
      const alive = await database('worker_heartbeat')
        .whereRaw(
          'at between now() - make_interval(secs => :heard) and now() + make_interval(secs => :heard)',
          {
            heard: settings.waits.heardOf,
          },
        )
        .first('worker_id')
        .then(
          (row) => ({ database: true, worker: row !== undefined }),
          (error: unknown) => {
            app.log.warn({ err: error }, 'health: the database does not answer')
            return { database: false, worker: false }
          },
        )
      const others = await Promise.all(
        beside.map(async ({ name, database: one }) => ({ name, answers: await answers(one, name) })),
      )
      const { eventLoopDelay, heapUsed, rssBytes } = app.memoryUsage()
      const figures = {
        // A server that did not come to measure it lags beyond all telling, and JSON knows no infinity.
        eventLoopDelayMs: Number.isFinite(eventLoopDelay) ? Math.round(eventLoopDelay) : null,
        heapMegabytes: Math.round(heapUsed / MEGABYTE),
        heapLimitMegabytes: Math.round(getHeapStatistics().heap_size_limit / MEGABYTE),
        residentMegabytes: Math.round(rssBytes / MEGABYTE),
        underPressure: app.isUnderPressure(),
      }
      const ok = alive.database && alive.worker && !figures.underPressure
      if (!ok) app.log.warn({ ...alive, ...figures }, 'health: failing')
      return reply
        .code(ok ? 200 : 503)
        .send({ status: ok ? 'ok' : 'failing', ...alive, ...figures, databases: others })
    },
  )
}
