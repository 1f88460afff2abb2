import { ALIGN_KINDS, LINK_KINDS, ProvedBy } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { changing } from '../database/connection.ts'
import { proveAfter } from '../jobs/proveAfter.ts'
import type { App, Services } from '../services/services.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { link, linkClear, unlink } from './links.ts'
import { noteMoved } from './moved.ts'

const kinds = z.enum(ALIGN_KINDS)

const Link = z.object({
  systemId: z.string().max(60),
  kind: z.enum(LINK_KINDS),
  objectId: z.string().max(200),
  baselineId: z.string().max(60),
})

/** Links between what systems hold and the baseline. */
export function linkRoutes(app: App, services: Services): void {
  const { database } = services
  app.put(
    '/api/entities/:entity/months/:month/links',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: Link,
        response: { 200: z.object({ linked: z.number(), run: ProvedBy }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        const moved = await link(books, request.params.month, requirePerson(request).name, request.body)
        await noteMoved(books, [moved])
        const run = await proveAfter(services, books, {
          month: request.params.month,
          startedBy: requirePerson(request).name,
        })
        return { linked: 1, run }
      })
    },
  )

  app.delete(
    '/api/entities/:entity/months/:month/links',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: Link.omit({ baselineId: true }),
        response: { 200: z.object({ unlinked: z.number(), run: ProvedBy }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await noteMoved(books, [await unlink(books, requirePerson(request).name, request.body)])
        const run = await proveAfter(services, books, {
          month: request.params.month,
          startedBy: requirePerson(request).name,
        })
        return { unlinked: 1, run }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/links/clear',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: z.object({ kinds: z.array(kinds).min(1) }),
        response: { 200: z.object({ linked: z.number(), run: ProvedBy }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        const linked = await linkClear(
          books,
          request.params.month,
          requirePerson(request).name,
          request.body.kinds,
        )
        await noteSetUp(books)
        const run = await proveAfter(services, books, {
          month: request.params.month,
          startedBy: requirePerson(request).name,
        })
        return { linked, run }
      })
    },
  )
}
