import { currency, locale, timeZone, type MembersView } from '@axion/contract'
import { z } from 'zod'
import type { App, Services } from '../services.ts'
import { type Transaction, changing, inEntity, isDouble } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { audit } from '../audit/audit.ts'
import { hashPassword, newPassword, newToken, passwordHolds, tokenHash } from './passwords.ts'
import { entitiesOf, requirePerson, requireRole, ROLES, SESSION_COOKIE } from './sessions.ts'

const SESSION_SECONDS = 12 * 3600
const SELDOM = { max: 10, timeWindow: '1 minute' } as const
/** What anybody may send without being known, in bytes. */
const LITTLE = 4096

/** Signing in and out, and the legal entities somebody belongs to. */
export function peopleRoutes(app: App, { database, today }: Services): void {
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
      schema: { body: z.object({ email: z.string().max(200), password: z.string().max(200) }) },
    },
    async (request, reply) => {
      const { email, password } = request.body
      const account = await ofAccount(request)
      if (!account.isAllowed && account.isExceeded) throw new Problem('AXION_TOO_MANY_REQUESTS')
      const person = (await database('person').where({ email: email.trim().toLowerCase() }).first()) as
        { person_id: string; password_hash: string } | undefined
      if (!(await passwordHolds(person?.password_hash, password)) || !person)
        throw new Problem('AXION_WRONG_SIGN_IN')
      await database('session').whereRaw('expires_at < now()').delete()
      const token = newToken()
      await database('session').insert({
        token_hash: tokenHash(token),
        person_id: person.person_id,
        expires_at: database.raw(`now() + make_interval(secs => ?)`, [SESSION_SECONDS]),
      })
      reply.setCookie(SESSION_COOKIE, token, {
        path: '/',
        httpOnly: true,
        sameSite: 'strict',
        secure: request.protocol === 'https',
        maxAge: SESSION_SECONDS,
      })
      return { signedIn: true }
    },
  )

  app.delete('/api/session', { config: { anonymous: true }, bodyLimit: LITTLE }, async (request, reply) => {
    const token = request.cookies[SESSION_COOKIE]
    if (token)
      await database('session')
        .where({ token_hash: tokenHash(token) })
        .delete()
    reply.clearCookie(SESSION_COOKIE, { path: '/' })
    return { signedIn: false }
  })

  app.get('/api/session', async (request) => {
    const person = requirePerson(request)
    const entities = await entitiesOf(database, person.id)
    return {
      person: { name: person.name, email: person.email },
      entities: entities.map((e) => ({ ...e, today: today(e.timeZone) })),
    }
  })

  app.post(
    '/api/entities',
    {
      schema: {
        body: z.object({
          id: z.string().regex(/^[a-z0-9][a-z0-9-]{0,59}$/),
          name: z.string().min(1).max(200),
          country: z.string().regex(/^[A-Z]{2}$/),
          currency,
          timeZone,
          locale,
        }),
      },
    },
    async (request) => {
      const person = requirePerson(request)
      const { id, name, country, currency: code } = request.body
      try {
        await database.raw('select found_entity(?, ?, ?, ?, ?, ?, ?)', [
          id,
          name,
          country,
          code,
          request.body.timeZone,
          request.body.locale,
          person.id,
        ])
      } catch (error) {
        if (isDouble(error)) throw new Problem('AXION_ALREADY_EXISTS', { what: `The legal entity ${id}` })
        throw (error as { code?: string }).code === '42501'
          ? new Problem('AXION_FORBIDDEN', { role: 'practice administrator' })
          : error
      }
      return { id }
    },
  )

  app.put(
    '/api/session/password',
    {
      config: { rateLimit: SELDOM },
      schema: {
        body: z
          .object({ password: z.string().max(200), next: newPassword })
          .refine(({ password, next }) => password !== next, {
            path: ['next'],
            error: 'is the password as it was',
          }),
      },
    },
    async (request) => {
      const { id } = requirePerson(request)
      const held = (await database('person').where({ person_id: id }).first('password_hash')) as {
        password_hash: string
      }
      if (!(await passwordHolds(held.password_hash, request.body.password)))
        throw new Problem('AXION_WRONG_SIGN_IN')
      await database.raw('select change_password(?, ?)', [id, await hashPassword(request.body.next)])
      // Whoever was signed in elsewhere knew the old one.
      const ended = await database('session')
        .where({ person_id: id })
        .whereNot({ token_hash: tokenHash(request.cookies[SESSION_COOKIE] ?? '') })
        .delete()
      return { changed: true, ended }
    },
  )

  app.post(
    '/api/people',
    {
      schema: {
        body: z.object({
          email: z.email().max(200),
          name: z.string().trim().min(1).max(200),
          password: newPassword,
        }),
      },
    },
    async (request) => {
      const { id } = requirePerson(request)
      const { email, name, password } = request.body
      try {
        const { rows } = (await database.raw('select add_person(?, ?, ?, ?) as added', [
          email.toLowerCase(),
          name,
          await hashPassword(password),
          id,
        ])) as { rows: { added: boolean }[] }
        if (!rows[0]?.added) throw new Problem('AXION_ALREADY_EXISTS', { what: email })
        return { email: email.toLowerCase() }
      } catch (error) {
        throw (error as { code?: string }).code === '42501'
          ? new Problem('AXION_FORBIDDEN', { role: 'practice administrator' })
          : error
      }
    },
  )

  app.get(
    '/api/entities/:entity/members',
    { config: { role: 'viewer' }, schema: { params: z.object({ entity: z.string() }) } },
    async (request): Promise<MembersView> => {
      const entity = requireRole(request)
      return { members: await inEntity(database, entity.id, (trx) => membersOf(trx, entity.id)) }
    },
  )

  app.delete(
    '/api/entities/:entity/members/:email',
    {
      config: { role: 'administrator' },
      schema: { params: z.object({ entity: z.string(), email: z.string().max(200) }) },
    },
    async (request) => {
      const entity = requireRole(request)
      const { email } = request.params
      return changing(database, entity.id, async (trx) => {
        const members = await membersOf(trx, entity.id)
        const leaving = members.find((m) => m.email === email)
        if (!leaving) throw new Problem('AXION_NOT_FOUND', { what: `person ${email}` })
        requireAnAdministrator(members.filter((m) => m !== leaving))
        await trx('membership')
          .where({ entity_id: entity.id })
          .whereIn('person_id', trx('person').where({ email }).select('person_id'))
          .delete()
        await audit(
          trx,
          entity.id,
          requirePerson(request).name,
          'member',
          email,
          { role: leaving.role },
          null,
        )
        return { removed: email }
      })
    },
  )

  app.put(
    '/api/entities/:entity/members',
    {
      config: { role: 'administrator' },
      schema: {
        params: z.object({ entity: z.string() }),
        body: z.object({ email: z.string().max(200), role: z.enum(ROLES) }),
      },
    },
    async (request) => {
      const entity = requireRole(request)
      const member = (await database('person').where({ email: request.body.email.toLowerCase() }).first()) as
        { person_id: string } | undefined
      if (!member) throw new Problem('AXION_NOT_FOUND', { what: `person ${request.body.email}` })
      await changing(database, entity.id, async (trx) => {
        const members = await membersOf(trx, entity.id)
        const before = members.find((m) => m.email === request.body.email.toLowerCase())
        requireAnAdministrator([...members.filter((m) => m !== before), { role: request.body.role }])
        await trx('membership')
          .insert({ entity_id: entity.id, person_id: member.person_id, role: request.body.role })
          .onConflict(['entity_id', 'person_id'])
          .merge()
        await audit(
          trx,
          entity.id,
          requirePerson(request).name,
          'member',
          request.body.email,
          before ? { role: before.role } : null,
          { role: request.body.role },
        )
      })
      return { email: request.body.email, role: request.body.role }
    },
  )
}

function membersOf(trx: Transaction, entityId: string): Promise<MembersView['members'][number][]> {
  return trx('membership')
    .join('person', 'person.person_id', 'membership.person_id')
    .where('membership.entity_id', entityId)
    .orderBy('person.name')
    .select('person.name', 'person.email', 'membership.role')
}

/** An entity that nobody administers could never be changed again. */
function requireAnAdministrator(members: readonly { readonly role: string }[]): void {
  if (!members.some((m) => m.role === 'administrator')) throw new Problem('AXION_LAST_ADMINISTRATOR')
}
