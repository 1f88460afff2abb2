import { ALIGN_KINDS, GridNames, GridQuery, GridView, SentFile, TimelineView } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requireRole } from '../access/sessions.ts'
import { inEntity } from '../database/connection.ts'
import { sendTables } from '../lists/sent.ts'
import type { App, Services } from '../services/services.ts'
import { shouldHold } from './exported.ts'
import { agreementGrid, gridNames } from './grid/grid.ts'
import { timelineOf } from './timeline.ts'

const kinds = z.enum(ALIGN_KINDS)

/** The grids of a month: their rows, names, timelines, and what systems should hold. */
export function gridRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/align/:kind',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ kind: kinds }),
        querystring: GridQuery,
        response: { 200: GridView },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        agreementGrid(books, request.params.month, request.params.kind, request.query),
      )
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/align/:kind/names',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ kind: kinds }),
        querystring: z.object({ search: z.string().max(200).default('') }),
        response: { 200: GridNames },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        gridNames(books, request.params.month, request.params.kind, request.query.search),
      )
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/align/rates/:rate/timeline',
    {
      config: { role: 'viewer' },
      schema: { params: monthParams.extend({ rate: z.string().max(300) }), response: { 200: TimelineView } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        timelineOf(books, request.params.month, request.params.rate),
      )
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/align/:kind/should-hold',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ kind: kinds }),
        querystring: z.object({ system: z.string().max(60), format: z.enum(['csv', 'xlsx']).default('csv') }),
        response: { 200: SentFile },
      },
    },
    async (request, reply) => {
      const entity = requireRole(request)
      const { kind, month } = request.params
      const table = await inEntity(database, entity.id, (books) =>
        shouldHold(books, month, kind, request.query.system),
      )
      const name = `${entity.id}-${request.query.system}-${kind}-should-hold`
      return sendTables(database, reply, {
        entityId: entity.id,
        format: request.query.format,
        name,
        tables: [table],
      })
    },
  )
}
