import type { Columns } from '../database/row.ts'
import { SessionsView } from '@axion/contract'
import { z } from 'zod'
import { hashPassword, newPassword, passwordHolds, tokenHash } from '../access/passwords.ts'
import { requirePerson, SESSION_COOKIE } from '../access/sessions.ts'
import { LITTLE, SELDOM } from '../access/unknown.ts'
import { inPractice, type Database } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import type { App, EdgeServices } from '../services/services.ts'
import { letIn } from './letIn.ts'

type Keys = Columns<'person', 'person_id' | 'password_hash'>

/** Signing in and out, one's own password, and where one is signed in. */
export function accountRoutes(app: App, services: EdgeServices): void {
  signInRoutes(app, services)
  passwordRoutes(app, services)
  sessionRoutes(app, services)
}

async function keysOf(keys: Database, email: string): Promise<Keys | undefined> {
  return ((await keys.raw('select * from keys_of(?)', [email])) as { rows: Keys[] }).rows[0]
}

/** @returns whether there was such a session of whoever asks */
function endSession(database: Database, id: string): Promise<boolean> {
  return inPractice(database, async (trx) => {
    const { rows } = (await trx.raw('select end_session(?::uuid) as ended', [id])) as {
      rows: { ended: boolean }[]
    }
    return rows[0]?.ended === true
  })
}

function signInRoutes(app: App, { database, keys }: EdgeServices): void {
  /** Beside the limit of an address: whoever tries one account from many is slowed down too, known or not. */
  const ofAccount = app.createRateLimit({
    ...SELDOM,
    keyGenerator: (request) =>
      String((request.body as { email?: string }).email)
        .trim()
        .toLowerCase(),
  })
  app.post(
    '/api/session',
    {
      config: { anonymous: true, rateLimit: SELDOM },
      bodyLimit: LITTLE,
      schema: {
        body: z.object({ email: z.string().max(200), password: z.string().max(200) }),
        response: { 200: z.object({ signedIn: z.boolean() }) },
      },
    },
    async (request, reply) => {
      const email = request.body.email.trim().toLowerCase()
      const account = await ofAccount(request)
      if (!account.isAllowed && account.isExceeded) throw new Problem('AXION_TOO_MANY_REQUESTS')
      const person = await keysOf(keys, email)
      if (!(await passwordHolds(person?.password_hash, request.body.password)) || !person) {
        await inPractice(keys, (trx) => trx.raw('select turned_away(?)', [email]))
        throw new Problem('AXION_WRONG_SIGN_IN')
      }
      await letIn(keys, request, reply, person.person_id)
      return { signedIn: true }
    },
  )

  app.delete(
    '/api/session',
    {
      config: { anonymous: true },
      bodyLimit: LITTLE,
      schema: { response: { 200: z.object({ signedIn: z.boolean() }) } },
    },
    async (request, reply) => {
      const own = (await database('session')
        .where({ token_hash: tokenHash(request.cookies[SESSION_COOKIE] ?? '') })
        .first('session_id')) as { session_id: string } | undefined
      if (own) await endSession(database, own.session_id)
      reply.clearCookie(SESSION_COOKIE, { path: '/' })
      return { signedIn: false }
    },
  )
}

function passwordRoutes(app: App, { keys }: EdgeServices): void {
  app.put(
    '/api/session/password',
    {
      config: { rateLimit: SELDOM, withTemporary: true },
      schema: {
        body: z
          .object({ password: z.string().max(200), next: newPassword })
          .refine(({ password, next }) => password !== next, {
            path: ['next'],
            error: 'is the password as it was',
          }),
        response: { 200: z.object({ changed: z.boolean() }) },
      },
    },
    async (request) => {
      const { id, email } = requirePerson(request)
      const held = await keysOf(keys, email)
      if (!(await passwordHolds(held?.password_hash, request.body.password)))
        throw new Problem('AXION_WRONG_SIGN_IN')
      const hash = await hashPassword(request.body.next)
      // Whoever was signed in elsewhere knew the old one.
      await inPractice(keys, (trx) => trx.raw('select change_password(?, ?)', [id, hash]))
      return { changed: true }
    },
  )
}

/** Where one is signed in. */
function sessionRoutes(app: App, { database }: EdgeServices): void {
  app.get(
    '/api/session/all',
    { config: { withTemporary: true }, schema: { response: { 200: SessionsView } } },
    async (request): Promise<SessionsView> => {
      const { id } = requirePerson(request)
      const own = tokenHash(request.cookies[SESSION_COOKIE] ?? '')
      const rows = (await database('session')
        .where({ person_id: id })
        .whereRaw('expires_at > now()')
        .orderBy('began_at', 'desc')) as {
        session_id: string
        token_hash: string
        began_at: Date
        expires_at: Date
        from_address: string | null
        agent: string | null
      }[]
      return {
        sessions: rows.map((row) => ({
          id: row.session_id,
          began: row.began_at.toISOString(),
          ends: row.expires_at.toISOString(),
          from: row.from_address,
          agent: row.agent ?? '',
          own: row.token_hash === own,
        })),
      }
    },
  )

  app.delete(
    '/api/session/all/:session',
    {
      config: { withTemporary: true },
      schema: { params: z.object({ session: z.uuid() }), response: { 200: z.object({ ended: z.string() }) } },
    },
    async (request) => {
      requirePerson(request)
      if (!(await endSession(database, request.params.session)))
        throw new Problem('AXION_NOT_FOUND', { what: 'such session' })
      return { ended: request.params.session }
    },
  )
}
