import type { FastifyReply, FastifyRequest } from 'fastify'
import { newToken, tokenHash } from '../access/passwords.ts'
import { SESSION_COOKIE } from '../access/sessions.ts'
import { inPractice, type Database } from '../database/connection.ts'

const SESSION_SECONDS = 12 * 3600
/** What is kept of a browser's name for itself. */
const MOST_OF_AGENT = 200

/** Opens a session for somebody of whom it is known who they are, and hands its token to their browser. @param keys under the role that lets people in */
export async function letIn(
  keys: Database,
  request: FastifyRequest,
  reply: FastifyReply,
  personId: string,
): Promise<void> {
  const token = newToken()
  await inPractice(keys, (trx) =>
    trx.raw('select let_in(?, ?, ?, ?)', [
      personId,
      tokenHash(token),
      SESSION_SECONDS,
      (request.headers['user-agent'] ?? '').slice(0, MOST_OF_AGENT),
    ]),
  )
  reply.setCookie(SESSION_COOKIE, token, {
    path: '/',
    httpOnly: true,
    sameSite: 'strict',
    secure: request.protocol === 'https',
    maxAge: SESSION_SECONDS,
  })
}
