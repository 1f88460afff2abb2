import { Concerned, KeepPreview, KeptView } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { changing, inEntity } from '../database/connection.ts'
import { LISTED_BYTES } from '../lists/body.ts'
import { settleMonth } from '../proof/prove.ts'
import type { App, Services } from '../services/services.ts'
import { keepDifferences, keptView, previewKeeping, reviewKept } from './kept.ts'

/** Differences that somebody keeps with a reason, and another reviews. */
export function keptRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/tie-out/kept',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: KeptView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => keptView(books, request.params.month))
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/tie-out/kept/preview',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        querystring: z.object({ cause: z.string().max(400) }),
        response: { 200: KeepPreview },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        previewKeeping(books, request.params.month, request.query.cause),
      )
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/tie-out/kept',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: z.object({
          cause: z.string().max(400),
          reason: z.string().trim().min(1).max(500),
          revision: z.string().max(2000),
        }),
        response: { 200: Concerned },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => ({
        documents: await keepDifferences(
          books,
          request.params.month,
          requirePerson(request).name,
          request.body,
        ),
      }))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/tie-out/kept/review',
    {
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: {
        params: monthParams,
        body: z.object({ units: z.array(z.string().max(300)).min(1).max(10_000), agree: z.boolean() }),
        response: { 200: Concerned },
      },
    },
    (request) => {
      const { agree } = request.body
      const { month } = request.params
      const entity = agree ? requireRole(request, 'reviewer') : requireRole(request)
      return changing(database, entity.id, async (books) => {
        const documents = await reviewKept(books, month, requirePerson(request).name, request.body)
        await settleMonth(books, month)
        return { documents }
      })
    },
  )
}
