import { GenericCustomer, GenericView, ProvedBy } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { requirePerson, requireRole } from '../../access/sessions.ts'
import { changing, inEntity } from '../../database/connection.ts'
import { proveAfter } from '../../jobs/proveAfter.ts'
import type { App, Services } from '../../services/services.ts'
import { genericView, setGeneric } from './generic.ts'

/** One customer for all of a source whom nobody knows (C5). */
export function genericRoutes(app: App, services: Services): void {
  const { database } = services
  app.get(
    '/api/entities/:entity/months/:month/align/generic',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: GenericView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => genericView(books))
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/align/generic',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: GenericCustomer,
        response: { 200: z.object({ agreed: z.boolean(), run: ProvedBy }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const person = requirePerson(request).name
      return changing(database, entity.id, async (books) => {
        await setGeneric(books, person, request.body)
        const run = await proveAfter(services, books, { month: request.params.month, startedBy: person })
        return { agreed: true, run }
      })
    },
  )
}
