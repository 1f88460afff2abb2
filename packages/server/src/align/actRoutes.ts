import { BatchView, BulkPreview, BulkRequest, LeaveRequest, Started } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { changing, inEntity } from '../database/connection.ts'
import { startFor } from '../jobs/starting.ts'
import { LISTED_BYTES } from '../lists/body.ts'
import type { App, Services } from '../services/services.ts'
import { latestBatches } from './batches.ts'
import { previewBulk } from './bulk.ts'
import { leave } from './left.ts'

/** What is done to many rows at once, or left with a reason; and what takes it back. */
export function actRoutes(app: App, services: Services): void {
  manyRoutes(app, services)
  undoRoutes(app, services)
}

function manyRoutes(app: App, { database }: Services): void {
  app.put(
    '/api/entities/:entity/months/:month/align/left',
    {
      config: { role: 'preparer' },
      schema: { params: monthParams, body: LeaveRequest, response: { 200: z.object({ left: z.boolean() }) } },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await leave(books, request.params.month, requirePerson(request).name, request.body)
        return { left: request.body.reason !== null }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/align/bulk/preview',
    {
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: { params: monthParams, body: BulkRequest, response: { 200: BulkPreview } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => previewBulk(books, request.params.month, request.body))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/align/bulk',
    {
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: {
        params: monthParams,
        body: z.object({ request: BulkRequest, revision: z.string().max(200) }),
        response: { 200: Started },
      },
    },
    (request) => startFor(database, request, 'bulk', { month: request.params.month, ...request.body }),
  )
}

function undoRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/align/batches',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        response: { 200: z.object({ batches: z.array(BatchView).readonly() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, async (books) => ({ batches: await latestBatches(books) }))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/align/undo',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: z.object({ batchId: z.string().regex(/^\d{1,18}$/) }),
        response: { 200: Started },
      },
    },
    (request) =>
      startFor(database, request, 'undo', { month: request.params.month, batchId: request.body.batchId }),
  )
}
