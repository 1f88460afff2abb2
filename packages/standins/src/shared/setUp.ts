import type { FastifyInstance } from 'fastify'
import { Refusal } from './problems.ts'
import type { Store } from './store.ts'

/** Set-up that others may change, under the revision it was read at. */
export function setUp(app: FastifyInstance, store: Store, resources: readonly string[]): void {
  for (const resource of resources) {
    app.patch<{ Params: { id: string }; Body: Record<string, unknown> }>(`/${resource}/:id`, async (request, reply) => {
      // Answered after the commit: who reads on hearing of it finds it.
      const changed = await store.write(async (writer) => {
        const current = await writer.get<Record<string, unknown>>(resource, request.params.id)
        if (!current) throw new Refusal(404, 'unknown-object', `There is no ${resource}/${request.params.id}.`)
        if (request.headers['if-match'] === undefined) throw new Refusal(428, 'if-match-needed', 'A change states the revision it is based on in If-Match.')
        if (request.headers['if-match'] !== `"${current.revision}"`) throw new Refusal(412, 'revision-moved', `It is at revision ${current.revision}.`)
        const account = request.body['liabilityAccountId']
        if (typeof account === 'string' && !(await writer.get('accounts', account))) throw new Refusal(422, 'unknown-account', `There is no account "${account}".`)
        const value = { ...current.value, ...request.body }
        const revision = await writer.put(resource, request.params.id, value)
        return { id: request.params.id, revision, value }
      })
      return reply.header('etag', `"${changed.revision}"`).send(changed)
    })
  }
}
