import formbody from '@fastify/formbody'
import Fastify, { type FastifyInstance } from 'fastify'
import { billing } from './billing/billing.ts'
import { ledger } from './ledger/ledger.ts'
import { load, type Loadable } from './load.ts'
import { Refusal, sendProblem } from './shared/problems.ts'
import { Store } from './shared/store.ts'
import { source } from './sources/source.ts'

const KINDS = {
  ledger,
  billing,
  pos: source('pos'),
  commerce: source('commerce'),
  purchasing: source('purchasing'),
  payments: source('payments'),
  bank: source('bank'),
  'tax-service': source('tax-service'),
} as const
export type StandinKind = keyof typeof KINDS

/** A simulated system: what it is, the path it answers under, and its own database. */
export interface Standin {
  readonly path: string
  readonly kind: StandinKind
  readonly database: string
}

export interface StandinsOptions {
  readonly port: number
  readonly token: string
  readonly systems: readonly Standin[]
}

/** Starts the simulated systems on loopback, each under its own path, with its own database. */
export async function startStandins({ port, token, systems }: StandinsOptions): Promise<FastifyInstance> {
  const app = Fastify({ bodyLimit: 64 * 1024 * 1024, forceCloseConnections: true })
  await app.register(formbody)
  app.setErrorHandler((error, _request, reply) =>
    sendProblem(
      reply,
      error instanceof Refusal
        ? error
        : new Refusal(
            (error as { statusCode?: number }).statusCode ?? 500,
            'failed',
            (error as Error).message,
          ),
    ),
  )
  const stores = await Promise.all(systems.map(({ database }) => Store.open(database)))
  systems.forEach(({ path, kind }, at) => {
    const store = stores[at] as Store
    void app.register(
      async (scope) => {
        KINDS[kind](scope, { store, token, address: `http://127.0.0.1:${port}/${path}` })
        scope.post<{ Body: Loadable }>('/load', async (request) => {
          if (request.headers.authorization !== `Bearer ${token}`)
            throw new Refusal(401, 'unauthorized', 'The bearer token is missing or wrong.')
          await load(store, path, request.body, { charges: kind === 'billing' })
          return { loaded: request.body.objects.length }
        })
      },
      { prefix: `/${path}` },
    )
  })
  app.addHook('onClose', async () => void (await Promise.all(stores.map((store) => store.close()))))
  await app.listen({ host: '127.0.0.1', port })
  return app
}
