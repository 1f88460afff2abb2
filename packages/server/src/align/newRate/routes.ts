import { NewRate, NewRateGround, ProvedBy } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { requirePerson, requireRole } from '../../access/sessions.ts'
import { changing, inEntity } from '../../database/connection.ts'
import { proveAfter } from '../../jobs/proveAfter.ts'
import type { App, Services } from '../../services/services.ts'
import { keepNewRate, newRateGround } from './newRate.ts'

/** A rate with its place, agency, account and registration, entered at once. */
export function newRateRoutes(app: App, services: Services): void {
  const { database } = services
  app.get(
    '/api/entities/:entity/months/:month/new-rate',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: NewRateGround } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => newRateGround(books, request.params.month))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/new-rate',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: NewRate,
        response: { 200: z.object({ code: z.string(), run: ProvedBy }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await keepNewRate(books, request.params.month, requirePerson(request).name, request.body)
        const run = await proveAfter(services, books, {
          month: request.params.month,
          startedBy: requirePerson(request).name,
        })
        return { code: request.body.code, run }
      })
    },
  )
}
