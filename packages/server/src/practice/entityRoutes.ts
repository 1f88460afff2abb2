import { EntityChange, EntityView, Founding } from '@axion/contract'
import { z } from 'zod'
import { requirePractice, requireRole } from '../access/sessions.ts'
import type { App, Services } from '../services/services.ts'
import { changeEntity, closeEntity, entityView, foundEntity } from './entities.ts'

const params = z.object({ entity: z.string() })

/** Legal entities: founded by whoever runs the practice; renamed, closed and opened again by their administrators. */
export function entityRoutes(app: App, { database, today }: Services): void {
  app.post(
    '/api/entities',
    { schema: { body: Founding, response: { 200: z.object({ id: z.string() }) } } },
    async (request) => {
      requirePractice(request)
      await foundEntity(database, request.body)
      return { id: request.body.id }
    },
  )

  app.get(
    '/api/entities/:entity',
    { config: { role: 'viewer' }, schema: { params, response: { 200: EntityView } } },
    (request) => entityView(database, requireRole(request).id),
  )

  app.put(
    '/api/entities/:entity',
    {
      config: { role: 'administrator' },
      schema: { params, body: EntityChange, response: { 200: EntityView } },
    },
    async (request) => {
      const { id } = requireRole(request)
      await changeEntity(database, id, request.body)
      return entityView(database, id)
    },
  )

  app.put(
    '/api/entities/:entity/closed',
    {
      config: { role: 'administrator', evenClosed: true },
      schema: { params, body: z.object({ closed: z.boolean() }), response: { 200: EntityView } },
    },
    async (request) => {
      const { id, timeZone } = requireRole(request)
      await closeEntity(database, id, request.body.closed ? today(timeZone) : null)
      return entityView(database, id)
    },
  )
}
