import { randomUUID } from 'node:crypto'
import { CATALOGUE, type Code, type FactsOf, type Sentence } from '@axion/contract'
import { Fault, type Facts } from '@axion/core'
import type { FastifyError, FastifyInstance, FastifyReply } from 'fastify'
import { hasZodFastifySchemaValidationErrors } from 'fastify-type-provider-zod'
import { BooksAway, isDataException, isMoving, NotHere, passes } from './errors.ts'

/** What the application refuses: a code of the catalogue and the facts in it. */
export class Problem<C extends Code = Code> extends Error {
  readonly facts: Facts
  readonly retryAfterSeconds: number | undefined
  constructor(
    readonly code: C,
    ...[facts, retryAfterSeconds]: object extends FactsOf<C>
      ? [facts?: FactsOf<C>, retryAfterSeconds?: number]
      : [facts: FactsOf<C>, retryAfterSeconds?: number]
  ) {
    super(`${code} ${JSON.stringify(facts ?? {})}`)
    this.name = 'Problem'
    this.facts = (facts ?? {}) as Facts
    this.retryAfterSeconds = retryAfterSeconds
  }
}

/** The one place that turns errors into RFC 9457 problem details. What nobody foresaw is logged, with a reference. */
export function answerWithProblems(app: FastifyInstance): void {
  app.setNotFoundHandler((_request, reply) => send(reply, 'AXION_NOT_FOUND', { what: 'such address' }))
  app.setErrorHandler((error: FastifyError, request, reply) => {
    if (error instanceof Problem || error instanceof Fault) return send(reply, error.code, error.facts)
    if (hasZodFastifySchemaValidationErrors(error)) {
      const [first] = error.validation
      return send(reply, 'AXION_BAD_REQUEST', {
        path: first?.instancePath.replaceAll('/', '.').slice(1) ?? '',
        problem: first?.message ?? '',
      })
    }
    if (error.statusCode === 413) return send(reply, 'AXION_TOO_LARGE', {})
    if (error.statusCode === 429) return send(reply, 'AXION_TOO_MANY_REQUESTS', {})
    if (error.statusCode !== undefined && error.statusCode < 500)
      return send(reply, 'AXION_BAD_REQUEST', { path: '', problem: `cannot be read: ${error.message}` })
    if (error instanceof NotHere) return send(reply, 'AXION_NOT_FOUND', { what: 'such legal entity' })
    if (passes(error)) {
      request.log.warn({ err: error }, 'not now')
      void reply.header('retry-after', '2')
      if (error instanceof BooksAway) return send(reply, 'AXION_BOOKS_AWAY', { database: error.database })
      return send(reply, isMoving(error) ? 'AXION_BOOKS_MOVING' : 'AXION_NOT_NOW', {})
    }
    if (isDataException(error)) {
      request.log.warn({ err: error }, 'not kept')
      return send(reply, 'AXION_BAD_REQUEST', { path: '', problem: 'holds a value that cannot be kept' })
    }
    const reference = randomUUID().slice(0, 8)
    request.log.error({ err: error, reference }, 'unforeseen')
    return send(reply, 'AXION_INTERNAL', { reference })
  })
}

function send(reply: FastifyReply, code: Code, facts: Facts): FastifyReply {
  const { status, says, mend } = CATALOGUE[code] as Sentence
  return reply
    .code(status)
    .type('application/problem+json')
    .send({ type: `urn:axion:${code}`, title: says(facts), status, code, detail: mend, facts })
}
