import { ProvedBy, RulesRequest, RulesTried, RulesView } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { requirePerson, requireRole } from '../../access/sessions.ts'
import { changing, inEntity } from '../../database/connection.ts'
import { LISTED_BYTES } from '../../lists/body.ts'
import { proveAfter } from '../../jobs/proveAfter.ts'
import type { App, Services } from '../../services/services.ts'
import { keepRules, previewRules } from './keepRules.ts'
import { rulesView } from './view.ts'

/** Rules over lines (C4), and the amounts that are no item of the catalogue (C3). */
export function ruleRoutes(app: App, services: Services): void {
  const { database } = services
  app.get(
    '/api/entities/:entity/months/:month/rules',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: RulesView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => rulesView(books, request.params.month))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/rules/try',
    {
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: { params: monthParams, body: RulesRequest, response: { 200: RulesTried } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => previewRules(books, request.body))
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/rules',
    {
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: {
        params: monthParams,
        body: RulesRequest.extend({ revision: z.string().max(200) }),
        response: { 200: z.object({ rules: z.number(), run: ProvedBy }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        const person = requirePerson(request).name
        await keepRules(books, { person, atOnce: services.settings.AXION_AT_ONCE }, request.body)
        const run = await proveAfter(services, books, {
          month: request.params.month,
          startedBy: person,
        })
        return { rules: request.body.rules.length, run }
      })
    },
  )
}
