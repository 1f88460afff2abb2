import type { App, Services } from '../services.ts'

const FRESH_SECONDS = 15

/** Says ok only when the database answers and a worker has been heard of within seconds. */
export function healthRoutes(app: App, { database }: Services): void {
  app.get('/api/health', async (_request, reply) => {
    const alive = await database('worker_heartbeat')
      .whereRaw('at > now() - make_interval(secs => ?)', [FRESH_SECONDS])
      .first('worker_id')
      .then(
        (row) => ({ database: true, worker: row !== undefined }),
        (error: unknown) => {
          app.log.warn({ err: error }, 'health: the database does not answer')
          return { database: false, worker: false }
        },
      )
    const ok = alive.database && alive.worker
    return reply.code(ok ? 200 : 503).send({ status: ok ? 'ok' : 'failing', ...alive })
  })
}
