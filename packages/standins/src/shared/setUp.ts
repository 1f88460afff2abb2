import type { FastifyInstance } from 'fastify'
import { Refusal } from './problems.ts'
import type { Store, Writer } from './store.ts'

/** Set-up that others may change, under the revision it was read at. */
export function setUp(
  app: FastifyInstance,
  store: Store,
  resources: readonly string[],
  creates: readonly string[] = [],
): void {
  for (const resource of creates) creation(app, store, resource)
  for (const resource of resources) {
    app.patch<{ Params: { id: string }; Body: Record<string, unknown> }>(
      `/${resource}/:id`,
      async (request, reply) => {
        // Answered after the commit: who reads on hearing of it finds it.
        const changed = await store.write(async (writer) => {
          const current = await writer.get<Record<string, unknown>>(resource, request.params.id)
          if (!current)
            throw new Refusal(404, 'unknown-object', `There is no ${resource}/${request.params.id}.`)
          if (request.headers['if-match'] === undefined)
            throw new Refusal(
              428,
              'if-match-needed',
              'A change states the revision it is based on in If-Match.',
            )
          if (request.headers['if-match'] !== `"${current.revision}"`)
            throw new Refusal(412, 'revision-moved', `It is at revision ${current.revision}.`)
          await requireReferences(writer, request.body)
          const value = { ...current.value, ...request.body }
          const revision = await writer.put(resource, request.params.id, value)
          return { id: request.params.id, revision, value }
        })
        return reply.header('etag', `"${changed.revision}"`).send(changed)
      },
    )
  }
}

/** New objects of a resource: the same key makes no second one, and nothing is made twice under one code, number or name. */
function creation(app: FastifyInstance, store: Store, resource: string): void {
  app.post<{ Body: Readonly<Record<string, unknown>> }>(`/${resource}`, async (request, reply) => {
    const key = request.headers['idempotency-key']
    if (typeof key !== 'string' || key === '')
      throw new Refusal(400, 'key-needed', 'A new object needs an Idempotency-Key.')
    const body = request.body
    const named = resource === 'committed' ? 'number' : 'name'
    if (typeof body?.[named] !== 'string' || body[named] === '')
      throw new Refusal(422, 'no-name', `A new object needs a ${named}.`)
    const made = await store.write(async (writer) => {
      const kept = await writer.keptAnswer(key)
      if (kept && kept.request !== JSON.stringify(body))
        throw new Refusal(422, 'key-reused', 'This Idempotency-Key was used for another request.')
      if (kept) return kept.answer as Made
      await requireReferences(writer, body)
      const identity = (value: Readonly<Record<string, unknown>>): string =>
        resource === 'committed'
          ? `${String(value['kind'])} ${String(value['number'])} ${String(value['documentId'])}`
          : String(
              value['number'] ??
                (value['code'] == null
                  ? value['name']
                  : `${String(value['dimension'] ?? '')} ${String(value['code'])}`),
            )
      const double = (await writer.all<Readonly<Record<string, unknown>>>(resource)).find(
        (one) => one.value['status'] !== 'cancelled' && identity(one.value) === identity(body),
      )
      if (double)
        throw new Refusal(409, 'already-there', `There is ${identity(body)} already, as ${double.id}.`)
      const id = `${resource.replace(/s$/, '').replaceAll('-', '_')}_${await writer.nextNumber(`next ${resource}`, 901)}`
      const answer: Made = { id, revision: await writer.put(resource, id, body), value: body }
      await writer.keepAnswer(key, JSON.stringify(body), answer)
      return answer
    })
    return reply.status(201).header('etag', `"${made.revision}"`).send(made)
  })
}

interface Made {
  readonly id: string
  readonly revision: string
  readonly value: unknown
}

/** What an object names has to be there. */
async function requireReferences(writer: Writer, body: Readonly<Record<string, unknown>>): Promise<void> {
  const account = body['liabilityAccountId']
  if (typeof account === 'string' && !(await writer.get('accounts', account)))
    throw new Refusal(422, 'unknown-account', `There is no account "${account}".`)
  for (const { agencyId } of (body['components'] ?? []) as { agencyId: string }[])
    if (!(await writer.get('agencies', agencyId)))
      throw new Refusal(422, 'unknown-agency', `There is no agency "${agencyId}".`)
}
