import type { FastifyReply } from 'fastify'

/** A refusal, sent as RFC 9457 problem details. A problem always means that nothing was written. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly detail: string,
    readonly retryAfterSeconds?: number,
  ) {
    super(`${code}: ${detail}`)
  }
}

export function sendProblem(reply: FastifyReply, refusal: Refusal): FastifyReply {
  if (refusal.retryAfterSeconds !== undefined) reply.header('retry-after', String(refusal.retryAfterSeconds))
  return reply
    .code(refusal.status)
    .type('application/problem+json')
    .send({
      type: 'about:blank',
      title: refusal.code.replaceAll('-', ' '),
      status: refusal.status,
      code: refusal.code,
      detail: refusal.detail,
    })
}
