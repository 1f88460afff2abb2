import { timingSafeEqual } from 'node:crypto'
import type { FastifyInstance } from 'fastify'
import { Faults } from './faults.ts'
import { Refusal, sendProblem } from './problems.ts'
import type { Store } from './store.ts'

export interface BridgeOptions {
  readonly store: Store
  readonly token: string
  readonly resources: readonly string[]
  about(): Promise<object>
  settings(): Promise<object>
}

/** What every stand-in's bridge has: who it is, its settings, and its resources, paged by change sequence. */
export function bridge(app: FastifyInstance, options: BridgeOptions, faults: Faults): void {
  app.setErrorHandler((error, _request, reply) => {
    if (error instanceof Refusal) return sendProblem(reply, error)
    const status = (error as { statusCode?: number }).statusCode ?? 500
    return sendProblem(
      reply,
      new Refusal(status, status < 500 ? 'bad-request' : 'internal', (error as Error).message),
    )
  })
  app.addHook('onRequest', (request, _reply, done) => {
    requireToken(request.headers.authorization, options.token)
    done()
  })
  // Once the whole request is here: what is slow then is finished, be it that nobody waits any more.
  app.addHook('preHandler', (request) => faults.beforeRequest(request))
  app.setNotFoundHandler((request, reply) =>
    sendProblem(reply, new Refusal(404, 'not-found', `There is nothing at ${request.url}.`)),
  )
  app.get('/about', () => options.about())
  app.get('/settings', () => options.settings())
  for (const resource of options.resources) {
    app.get<{ Querystring: { after?: string; limit?: string } }>(`/${resource}`, async (request) => {
      const { after = '0', limit = '200' } = request.query
      if (!/^\d{1,18}$/.test(after) || !/^\d{1,4}$/.test(limit))
        throw new Refusal(400, 'bad-cursor', '"after" and "limit" are whole numbers.')
      return options.store.page(resource, after, Math.min(Math.max(Number(limit), 1), 1000))
    })
  }
}

function requireToken(header: string | undefined, token: string): void {
  const given = Buffer.from(header ?? '')
  const wanted = Buffer.from(`Bearer ${token}`)
  if (given.length !== wanted.length || !timingSafeEqual(given, wanted))
    throw new Refusal(401, 'unauthorized', 'The bearer token is missing or wrong.')
}
