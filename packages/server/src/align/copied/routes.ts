import { AgreedPreview, CopyChoice, CopyKeys, CopySources, CopyView, ProvedBy } from '@axion/contract'
import type { FastifyRequest } from 'fastify'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { entitiesOf, requirePerson, requireRole } from '../../access/sessions.ts'
import { changing, inEntity } from '../../database/connection.ts'
import { proveAfter } from '../../jobs/proveAfter.ts'
import { LISTED_BYTES } from '../../lists/body.ts'
import type { App, Services } from '../../services/services.ts'
import { copySources, copyView, sourceFor, type Source } from './compare.ts'
import { follow, leave, previewCopy, takeCopy } from './take.ts'

const of = monthParams.extend({ from: z.string().min(1).max(60) })
const chosen = z.object({ choice: CopyChoice })

/** What agencies say and how codes are named, taken from another legal entity of the practice: by whoever is a member of both. */
export function copyRoutes(app: App, services: Services): void {
  lookRoutes(app, services)
  takeRoutes(app, services)
}

/** The other legal entity, as far as whoever asks may read it. */
async function asked({ database }: Services, request: FastifyRequest): Promise<Source> {
  const { from } = request.params as z.infer<typeof of>
  const own = await entitiesOf(database, requirePerson(request).id)
  return sourceFor(database, own, { to: requireRole(request).id, from })
}

function lookRoutes(app: App, services: Services): void {
  const { database } = services
  app.get(
    '/api/entities/:entity/months/:month/copied',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: CopySources } } },
    async (request) =>
      copySources(database, await entitiesOf(database, requirePerson(request).id), requireRole(request).id),
  )

  app.get(
    '/api/entities/:entity/months/:month/copied/:from',
    { config: { role: 'viewer' }, schema: { params: of, response: { 200: CopyView } } },
    async (request) => {
      const source = await asked(services, request)
      return inEntity(database, requireRole(request).id, (books) => copyView(books, source))
    },
  )
}

function takeRoutes(app: App, services: Services): void {
  const { database } = services
  app.post(
    '/api/entities/:entity/months/:month/copied/:from/preview',
    {
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: { params: of, body: chosen, response: { 200: AgreedPreview } },
    },
    async (request) => {
      const source = await asked(services, request)
      return changing(database, requireRole(request).id, (books) =>
        previewCopy(books, source, request.body.choice),
      )
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/copied/:from',
    {
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: {
        params: of,
        body: chosen.extend({ follows: z.boolean(), revision: z.string().max(200) }),
        response: { 200: z.object({ taken: z.int(), run: ProvedBy }) },
      },
    },
    async (request) => {
      const source = await asked(services, request)
      const { name } = requirePerson(request)
      return changing(database, requireRole(request).id, async (books) => {
        const taken = await takeCopy(books, source, { ...request.body, person: name })
        const run = await proveAfter(services, books, { month: request.params.month, startedBy: name })
        return { taken, run }
      })
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/copied/:from',
    {
      config: { role: 'preparer' },
      schema: {
        params: of,
        body: z.strictObject({ follows: z.boolean() }),
        response: { 200: z.object({ follows: z.boolean() }) },
      },
    },
    async (request) => {
      const source = await asked(services, request)
      return changing(database, requireRole(request).id, async (books) => {
        await follow(books, source, request.body)
        return request.body
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/copied/:from/left',
    {
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: {
        params: of,
        body: z.strictObject({ keys: CopyKeys }),
        response: { 200: z.object({ left: z.int() }) },
      },
    },
    async (request) => {
      const source = await asked(services, request)
      return changing(database, requireRole(request).id, async (books) => ({
        left: await leave(books, source, request.body.keys),
      }))
    },
  )
}
