import { CloseView, SentFile, TieOutListQuery, TieOutSums, TieOutView } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requireRole } from '../access/sessions.ts'
import { inEntity } from '../database/connection.ts'
import { sendTables } from '../lists/sent.ts'
import type { App, Services } from '../services/services.ts'
import { closeSheet } from './closeSheet.ts'
import { TIE_OUT_HEADER, tieOut, tieOutCells, tieOutSums } from './tieOut.ts'

/** Close sheet and tie-out, and the list as it goes out. */
export function listRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/close',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: CloseView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => closeSheet(books, request.params.month))
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/tie-out',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        querystring: TieOutListQuery,
        response: { 200: TieOutView },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => tieOut(books, request.params.month, request.query))
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/tie-out/sums',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        querystring: TieOutListQuery,
        response: { 200: TieOutSums },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => tieOutSums(books, request.params.month, request.query))
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/tie-out/list.:format',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ format: z.enum(['csv', 'xlsx']) }),
        querystring: TieOutListQuery,
        response: { 200: SentFile },
      },
    },
    async (request, reply) => {
      const entity = requireRole(request)
      const { month, format } = request.params
      const cells = await inEntity(database, entity.id, (books) => tieOutCells(books, month, request.query))
      const name = `tie-out-${month}`
      return sendTables(database, reply, {
        entityId: entity.id,
        format,
        name,
        tables: [{ name, header: TIE_OUT_HEADER, rows: cells }],
      })
    },
  )
}
