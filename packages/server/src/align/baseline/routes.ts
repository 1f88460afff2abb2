import {
  AgreedChange,
  AgreedKindKey,
  AgreedNamesQuery,
  AgreedObject,
  AgreedPreview,
  AgreedQuery,
  AgreedView,
  GridNames,
  PlacesMet,
  ProvedBy,
} from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { requirePerson, requireRole } from '../../access/sessions.ts'
import { changing, inEntity } from '../../database/connection.ts'
import { proveAfter } from '../../jobs/proveAfter.ts'
import type { App, Services } from '../../services/services.ts'
import { keepChange, previewChange } from './keep.ts'
import { placesMet } from './placesMet.ts'
import { agreedNames, agreedObject, agreedView } from './view.ts'

const of = monthParams.extend({ kind: AgreedKindKey })

/** What is agreed, kind by kind and object by object: looked at through its versions, made, changed from a day on, ended. */
export function agreedObjectRoutes(app: App, services: Services): void {
  lookRoutes(app, services)
  changeRoutes(app, services)
}

function lookRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/baseline/:kind',
    {
      config: { role: 'viewer' },
      schema: { params: of, querystring: AgreedQuery, response: { 200: AgreedView } },
    },
    (request) => {
      const { month, kind } = request.params
      return inEntity(database, requireRole(request).id, (books) =>
        agreedView(books, month, kind, request.query),
      )
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/baseline/:kind/object',
    {
      config: { role: 'viewer' },
      schema: {
        params: of,
        querystring: z.object({ id: z.string().min(1).max(400) }),
        response: { 200: AgreedObject },
      },
    },
    (request) =>
      inEntity(database, requireRole(request).id, (books) =>
        agreedObject(books, request.params.kind, request.query.id),
      ),
  )

  app.get(
    '/api/entities/:entity/months/:month/baseline/names',
    {
      config: { role: 'viewer' },
      schema: { params: monthParams, querystring: AgreedNamesQuery, response: { 200: GridNames } },
    },
    (request) =>
      inEntity(database, requireRole(request).id, (books) =>
        agreedNames(books, request.query.of, request.query.search),
      ),
  )

  app.get(
    '/api/entities/:entity/months/:month/baseline/places-met',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: PlacesMet } } },
    (request) => inEntity(database, requireRole(request).id, placesMet),
  )
}

function changeRoutes(app: App, services: Services): void {
  const { database, settings } = services
  app.post(
    '/api/entities/:entity/months/:month/baseline/:kind/preview',
    {
      config: { role: 'preparer' },
      schema: { params: of, body: z.object({ change: AgreedChange }), response: { 200: AgreedPreview } },
    },
    (request) =>
      // It is made and taken back: nobody else changes anything meanwhile.
      changing(database, requireRole(request).id, (books) =>
        previewChange(books, { ...request.params, change: request.body.change }),
      ),
  )

  app.post(
    '/api/entities/:entity/months/:month/baseline/:kind',
    {
      config: { role: 'preparer' },
      schema: {
        params: of,
        body: z.object({ change: AgreedChange, revision: z.string().max(200) }),
        response: { 200: z.object({ id: z.string(), run: ProvedBy }) },
      },
    },
    (request) =>
      changing(database, requireRole(request).id, async (books) => {
        const { name } = requirePerson(request)
        const id = await keepChange(
          books,
          { person: name, atOnce: settings.AXION_AT_ONCE },
          { ...request.params, ...request.body },
        )
        const run = await proveAfter(services, books, { month: request.params.month, startedBy: name })
        return { id, run }
      }),
  )
}
