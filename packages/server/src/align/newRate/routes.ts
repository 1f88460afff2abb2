import { NewRate } from '@axion/contract'
import { changing, inEntity } from '../../database/connection.ts'
import { requirePerson, requireRole } from '../../people/sessions.ts'
import type { App, Services } from '../../services.ts'
import { monthParams } from '../../tieout/routes.ts'
import { keepNewRate, newRateGround } from './newRate.ts'

/** A rate with its place, agency, account and registration, entered at once. */
export function newRateRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/new-rate',
    { config: { role: 'viewer' }, schema: { params: monthParams } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (trx) => newRateGround(trx, entity.id, request.params.month))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/new-rate',
    { config: { role: 'preparer' }, schema: { params: monthParams, body: NewRate } },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (trx) => {
        await keepNewRate(trx, entity.id, request.params.month, requirePerson(request).name, request.body)
        return { code: request.body.code }
      })
    },
  )
}
