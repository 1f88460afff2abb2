import type { FastifyInstance, FastifyRequest } from 'fastify'
import { acting, asPerson, type Database } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { tokenHash } from './passwords.ts'

export const ROLES = ['viewer', 'preparer', 'reviewer', 'administrator'] as const
export type Role = (typeof ROLES)[number]
export const SESSION_COOKIE = 'axion_session'

export interface Person {
  readonly id: string
  readonly name: string
  readonly email: string
  /** Whether they found legal entities, add people and set passwords. */
  readonly runsPractice: boolean
  /** Whether their password was set by somebody else, and has to be changed before anything. */
  readonly mustChange: boolean
}

export interface EntityOfPerson {
  readonly id: string
  readonly name: string
  readonly role: Role
  readonly currency: string
  readonly locale: string
  readonly timeZone: string
  /** Since when it is read, and written no more; null where it is open. */
  readonly closedOn: string | null
}

declare module 'fastify' {
  interface FastifyContextConfig {
    /** The least role that a route under an entity asks for. */
    role?: Role
    /** Of a route outside of entities that writes: nobody has to be signed in. */
    anonymous?: boolean
    /** Whether somebody may use it whose password has to be changed first; so may they what anybody may. */
    withTemporary?: boolean
    /** Of a route under an entity that writes: it goes on where the entity is closed. What a viewer may ask for changes nothing, and goes on anyway. */
    evenClosed?: boolean
  }
  interface FastifyRequest {
    person: Person | null
    entity: EntityOfPerson | null
  }
}

/**
 * Knows who asks, and for which legal entity: before anything of a body is read. A route under an entity is refused to those who are
 * not its members, or have less than its role; one outside that writes, to whoever is not signed in, unless it says otherwise.
 */
export function recogniseSessions(app: FastifyInstance, database: Database): void {
  app.addHook('onRoute', ({ url, method, config }) => {
    if (url.includes(':entity') && config?.role === undefined && String(method) !== 'HEAD')
      throw new Error(`${String(method)} ${url} says nothing of a role`)
  })
  app.decorateRequest('person', null)
  app.decorateRequest('entity', null)
  app.addHook('onRequest', (request, _reply, done) =>
    acting.run({ from: request.ip, token: request.cookies[SESSION_COOKIE] }, done),
  )
  app.addHook('onRequest', async (request) => {
    if (
      request.method !== 'GET' &&
      request.method !== 'HEAD' &&
      request.headers['x-axion-request'] === undefined
    )
      throw new Problem('AXION_CROSS_SITE')
    const token = request.cookies[SESSION_COOKIE]
    if (token) request.person = await personOf(database, token)
    const { anonymous = false, withTemporary = anonymous } = request.routeOptions.config
    if (request.person?.mustChange && request.url.startsWith('/api/') && !withTemporary)
      throw new Problem('AXION_PASSWORD_TEMPORARY')
    const entityId = (request.params as { entity?: string } | null)?.entity
    if (entityId === undefined) {
      if (!isReading(request) && !anonymous) requirePerson(request)
      return
    }
    const { id } = requirePerson(request)
    const own = (await entitiesOf(database, id)).find((entity) => entity.id === entityId)
    if (!own) throw new Problem('AXION_NOT_FOUND', { what: 'such legal entity' })
    request.entity = own
    requireRole(request)
    const { role, evenClosed = role === 'viewer' } = request.routeOptions.config
    if (own.closedOn !== null && !isReading(request) && !evenClosed)
      throw new Problem('AXION_ENTITY_CLOSED', { day: own.closedOn })
  })
}

function isReading({ method }: FastifyRequest): boolean {
  return ['GET', 'HEAD', 'OPTIONS'].includes(method)
}

async function personOf(database: Database, token: string): Promise<Person | null> {
  const row = (await database('session')
    .join('person', 'person.person_id', 'session.person_id')
    .where({ token_hash: tokenHash(token) })
    .whereRaw('expires_at > now()')
    .first(
      'person.person_id as id',
      'person.name',
      'person.email',
      'may_create_entities as runsPractice',
      'must_change as mustChange',
    )) as Person | undefined
  return row ?? null
}

export function entitiesOf(database: Database, personId: string): Promise<EntityOfPerson[]> {
  return asPerson(database, personId, async (trx) =>
    trx('legal_entity')
      .join('membership', 'membership.entity_id', 'legal_entity.entity_id')
      .where('membership.person_id', personId)
      .orderBy('legal_entity.name')
      .select(
        'legal_entity.entity_id as id',
        'legal_entity.name',
        'membership.role',
        'base_currency as currency',
        'locale',
        'time_zone as timeZone',
        'closed_on as closedOn',
      ),
  )
}

/** Somebody who founds legal entities, adds people and sets passwords. */
export function requirePractice(request: FastifyRequest): Person {
  const person = requirePerson(request)
  if (!person.runsPractice) throw new Problem('AXION_FORBIDDEN', { role: 'practice administrator' })
  return person
}

export function requirePerson(request: FastifyRequest): Person {
  if (!request.person) throw new Problem('AXION_SIGN_IN')
  return request.person
}

/** The entity of this request, for somebody with at least the route's role, or the one that is given. */
export function requireRole(
  request: FastifyRequest,
  role = request.routeOptions.config.role,
): EntityOfPerson {
  requirePerson(request)
  if (role === undefined) throw new Error('a route under an entity says nothing of a role')
  if (!request.entity) throw new Problem('AXION_NOT_FOUND', { what: 'such legal entity' })
  if (ROLES.indexOf(request.entity.role) < ROLES.indexOf(role)) throw new Problem('AXION_FORBIDDEN', { role })
  return request.entity
}
