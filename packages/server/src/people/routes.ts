import { MembersView } from '@axion/contract'
import { z } from 'zod'
import { newPassword } from '../access/passwords.ts'
import { entitiesOf, requirePerson, requirePractice, requireRole, ROLES } from '../access/sessions.ts'
import { inDirectory, type Database } from '../database/connection.ts'
import type { App, Services } from '../services/services.ts'
import { membersOf, removeMember, setMember } from './members.ts'
import { addPerson, setPassword } from './practice.ts'

/** The legal entities somebody belongs to, the people of the practice, and who may do what. */
export function peopleRoutes(app: App, services: Services): void {
  whoRoutes(app, services)
  practiceRoutes(app, services.database)
  memberRoutes(app, services.database)
}

/** Who somebody is, and where. */
function whoRoutes(app: App, { database, today }: Services): void {
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
                  closedOn: z.string().nullable(),
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
}

/** People are let in by whoever runs the practice. */
function practiceRoutes(app: App, database: Database): void {
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
      return { email: await addPerson(database, request.body) }
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
      return { email: await setPassword(database, request.params.email, request.body.password) }
    },
  )
}

/** Who belongs to a legal entity, and what each may do there. */
function memberRoutes(app: App, database: Database): void {
  app.get(
    '/api/entities/:entity/members',
    {
      config: { role: 'viewer' },
      schema: { params: z.object({ entity: z.string() }), response: { 200: MembersView } },
    },
    async (request): Promise<MembersView> => {
      const entity = requireRole(request)
      return { members: await inDirectory(database, entity.id, (books) => membersOf(books)) }
    },
  )

  app.delete(
    '/api/entities/:entity/members/:email',
    {
      config: { role: 'administrator', evenClosed: true },
      schema: {
        params: z.object({ entity: z.string(), email: z.string().max(200) }),
        response: { 200: z.object({ removed: z.string() }) },
      },
    },
    async (request) => {
      const { id } = requireRole(request)
      const { email } = request.params
      await removeMember(database, id, email)
      return { removed: email }
    },
  )

  app.put(
    '/api/entities/:entity/members',
    {
      config: { role: 'administrator', evenClosed: true },
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
      const { id } = requireRole(request)
      await setMember(database, id, request.body)
      return { email: request.body.email, role: request.body.role }
    },
  )
}
