import { currency, locale, MembersView, timeZone } from '@axion/contract'
import { z } from 'zod'
import { hashPassword, newPassword } from '../access/passwords.ts'
import { entitiesOf, requirePerson, requirePractice, requireRole, ROLES } from '../access/sessions.ts'
import { audit } from '../audit/audit.ts'
import { changing, inEntity, inPractice, isDouble, type Books } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import type { App, Services } from '../services/services.ts'

/** The legal entities somebody belongs to, the people of the practice, and who may do what. */
export function peopleRoutes(app: App, { database, today }: Services): void {
  app.get(
    '/api/session',
    {
      config: { withTemporary: true },
      schema: {
        response: {
          200: z.object({
            person: z.object({
              name: z.string(),
              email: z.string(),
              runsPractice: z.boolean(),
              mustChange: z.boolean(),
            }),
            entities: z
              .array(
                z.object({
                  today: z.string(),
                  id: z.string(),
                  name: z.string(),
                  role: z.enum(['viewer', 'preparer', 'reviewer', 'administrator']),
                  currency: z.string(),
                  locale: z.string(),
                  timeZone: z.string(),
                }),
              )
              .readonly(),
          }),
        },
      },
    },
    async (request) => {
      const { id, name, email, runsPractice, mustChange } = requirePerson(request)
      const entities = await entitiesOf(database, id)
      return {
        person: { name, email, runsPractice, mustChange },
        entities: entities.map((e) => ({ ...e, today: today(e.timeZone) })),
      }
    },
  )

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
        response: { 200: z.object({ id: z.string() }) },
      },
    },
    async (request) => {
      requirePractice(request)
      const { id, name, country, currency: code } = request.body
      try {
        await inPractice(database, (trx) =>
          trx.raw('select found_entity(?, ?, ?, ?, ?, ?)', [
            id,
            name,
            country,
            code,
            request.body.timeZone,
            request.body.locale,
          ]),
        )
      } catch (error) {
        throw isDouble(error)
          ? new Problem('AXION_ALREADY_EXISTS', { what: `The legal entity ${id}` })
          : error
      }
      return { id }
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
        response: { 200: z.object({ email: z.string() }) },
      },
    },
    async (request) => {
      requirePractice(request)
      const { name, password } = request.body
      const email = request.body.email.toLowerCase()
      const hash = await hashPassword(password)
      const { rows } = await inPractice(
        database,
        async (trx) =>
          (await trx.raw('select add_person(?, ?, ?) as added', [email, name, hash])) as {
            rows: { added: boolean }[]
          },
      )
      if (!rows[0]?.added) throw new Problem('AXION_ALREADY_EXISTS', { what: email })
      return { email }
    },
  )

  app.put(
    '/api/people/:email/password',
    {
      schema: {
        params: z.object({ email: z.string().max(200) }),
        body: z.object({ password: newPassword }),
        response: { 200: z.object({ email: z.string() }) },
      },
    },
    async (request) => {
      requirePractice(request)
      const email = request.params.email.toLowerCase()
      const hash = await hashPassword(request.body.password)
      const { rows } = await inPractice(
        database,
        async (trx) =>
          (await trx.raw('select set_password(?, ?) as found', [email, hash])) as {
            rows: { found: boolean }[]
          },
      )
      if (!rows[0]?.found) throw new Problem('AXION_NOT_FOUND', { what: `person ${email}` })
      return { email }
    },
  )

  app.get(
    '/api/entities/:entity/members',
    {
      config: { role: 'viewer' },
      schema: { params: z.object({ entity: z.string() }), response: { 200: MembersView } },
    },
    async (request): Promise<MembersView> => {
      const entity = requireRole(request)
      return { members: await inEntity(database, entity.id, (books) => membersOf(books)) }
    },
  )

  app.delete(
    '/api/entities/:entity/members/:email',
    {
      config: { role: 'administrator' },
      schema: {
        params: z.object({ entity: z.string(), email: z.string().max(200) }),
        response: { 200: z.object({ removed: z.string() }) },
      },
    },
    async (request) => {
      const entity = requireRole(request)
      const { email } = request.params
      return changing(database, entity.id, async (books) => {
        const { trx } = books
        const members = await membersOf(books)
        const leaving = members.find((m) => m.email === email)
        if (!leaving) throw new Problem('AXION_NOT_FOUND', { what: `person ${email}` })
        requireAnAdministrator(members.filter((m) => m !== leaving))
        await trx('membership')
          .where({ entity_id: entity.id })
          .whereIn('person_id', trx('person').where({ email }).select('person_id'))
          .delete()
        await audit(trx, 'member', email, { before: { role: leaving.role } })
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
        response: {
          200: z.object({
            email: z.string(),
            role: z.enum(['viewer', 'preparer', 'reviewer', 'administrator']),
          }),
        },
      },
    },
    async (request) => {
      const entity = requireRole(request)
      const member = (await database('person')
        .where({ email: request.body.email.toLowerCase() })
        .first('person_id')) as { person_id: string } | undefined
      if (!member) throw new Problem('AXION_NOT_FOUND', { what: `person ${request.body.email}` })
      await changing(database, entity.id, async (books) => {
        const members = await membersOf(books)
        const before = members.find((m) => m.email === request.body.email.toLowerCase())
        requireAnAdministrator([...members.filter((m) => m !== before), { role: request.body.role }])
        await books
          .trx('membership')
          .insert({ entity_id: entity.id, person_id: member.person_id, role: request.body.role })
          .onConflict(['entity_id', 'person_id'])
          .merge()
        await audit(books.trx, 'member', request.body.email, {
          before: before ? { role: before.role } : null,
          after: {
            role: request.body.role,
          },
        })
      })
      return { email: request.body.email, role: request.body.role }
    },
  )
}

function membersOf({ trx, entityId }: Books): Promise<MembersView['members'][number][]> {
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
