import {
  CollectingRequest,
  CollectingView,
  ProvedBy,
  RegistrationsRequest,
  RegistrationsView,
  ThresholdsRequest,
} from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { requirePerson, requireRole } from '../../access/sessions.ts'
import { changing, inEntity } from '../../database/connection.ts'
import { proveAfter } from '../../jobs/proveAfter.ts'
import type { App, Services } from '../../services/services.ts'
import { collectingView, keepCollecting } from './collecting.ts'
import { keepRegistrations, keepThresholds, registrationsView } from './registrations.ts'

const about = monthParams.extend({ id: z.string().min(1).max(60) })

/** Registrations and thresholds, with their dates. */
export function registrationRoutes(app: App, services: Services): void {
  spanRoutes(app, services)
  collectingRoutes(app, services)
}

function spanRoutes(app: App, services: Services): void {
  const { database } = services
  app.get(
    '/api/entities/:entity/months/:month/registrations',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: RegistrationsView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => registrationsView(books, request.params.month))
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/registrations/:id',
    {
      config: { role: 'preparer' },
      schema: {
        params: about,
        body: RegistrationsRequest,
        response: { 200: z.object({ versions: z.number(), run: ProvedBy }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await keepRegistrations(books, request.params.id, request.body.versions)
        const run = await proveAfter(services, books, {
          month: request.params.month,
          startedBy: requirePerson(request).name,
        })
        return { versions: request.body.versions.length, run }
      })
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/thresholds/:id',
    {
      config: { role: 'preparer' },
      schema: {
        params: about,
        body: ThresholdsRequest,
        response: { 200: z.object({ versions: z.number() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await keepThresholds(books, request.params.id, request.body.versions)
        return { versions: request.body.versions.length }
      })
    },
  )
}

/** Who collects in each country and region. It decides no figure. */
function collectingRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/collecting',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: CollectingView } } },
    (request) =>
      inEntity(database, requireRole(request).id, (books) => collectingView(books, request.params.month)),
  )

  app.put(
    '/api/entities/:entity/months/:month/collecting/:id',
    {
      config: { role: 'preparer' },
      schema: {
        params: about,
        body: CollectingRequest,
        response: { 200: z.object({ versions: z.number() }) },
      },
    },
    (request) => {
      const { versions } = request.body
      return changing(database, requireRole(request).id, async (books) => {
        await keepCollecting(books, requirePerson(request).name, {
          jurisdiction: request.params.id,
          versions,
        })
        return { versions: versions.length }
      })
    },
  )
}
