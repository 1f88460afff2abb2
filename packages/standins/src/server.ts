import formbody from '@fastify/formbody'
import Fastify, { type FastifyInstance } from 'fastify'
import { billing } from './billing/billing.ts'
import { ledger } from './ledger/ledger.ts'
import { load, type Loadable } from './load.ts'
import { Refusal, sendProblem } from './shared/problems.ts'
import { Store } from './shared/store.ts'

const STANDINS = { ledger, billing } as const
export type StandinName = keyof typeof STANDINS

export interface StandinsOptions {
  readonly port: number
  readonly token: string
  readonly databases: Readonly<Record<StandinName, string>>
}

/** Starts the simulated systems on loopback, each under its own path, with its own database. */
export async function startStandins({ port, token, databases }: StandinsOptions): Promise<FastifyInstance> {
  const app = Fastify({ bodyLimit: 64 * 1024 * 1024, forceCloseConnections: true })
  await app.register(formbody)
  app.setErrorHandler((error, _request, reply) =>
    sendProblem(reply, error instanceof Refusal ? error : new Refusal((error as { statusCode?: number }).statusCode ?? 500, 'failed', (error as Error).message)),
  )
  const names = Object.keys(STANDINS) as StandinName[]
  const stores = await Promise.all(names.map((name) => Store.open(databases[name])))
  names.forEach((name, at) => {
    const store = stores[at] as Store
    void app.register(async (scope) => {
      STANDINS[name](scope, { store, token, address: `http://127.0.0.1:${port}/${name}` })
      scope.post<{ Body: Loadable }>('/load', async (request) => {
        if (request.headers.authorization !== `Bearer ${token}`) throw new Refusal(401, 'unauthorized', 'The bearer token is missing or wrong.')
        await load(store, name, request.body)
        return { loaded: request.body.objects.length }
      })
    }, { prefix: `/${name}` })
  })
  app.addHook('onClose', async () => void (await Promise.all(stores.map((store) => store.close()))))
  await app.listen({ host: '127.0.0.1', port })
  return app
}
