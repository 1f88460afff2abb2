import { SaleAsked, SaleView } from '@axion/contract'
import { monthParams } from '../../access/month.ts'
import { requireRole } from '../../access/sessions.ts'
import { inEntity } from '../../database/connection.ts'
import type { App, Services } from '../../services/services.ts'
import { saleView } from './sale.ts'

/** What tax a sale would bear (F9), asked before there is one. */
export function saleRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/sale',
    {
      config: { role: 'viewer' },
      schema: { params: monthParams, querystring: SaleAsked, response: { 200: SaleView } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => saleView(books, request.query))
    },
  )
}
