import { AccountChoices, AgreedDefaults, BaselineImport, DefaultsView, ProvedBy } from '@axion/contract'
import { POSTING_KINDS } from '@axion/core'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { audit } from '../audit/audit.ts'
import { importBaseline, recordedAt } from '../baseline/import.ts'
import { changing, inEntity } from '../database/connection.ts'
import { LISTED_BYTES } from '../lists/body.ts'
import { proveAfter } from '../jobs/proveAfter.ts'
import type { App, Services } from '../services/services.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { accountChoices } from './choices.ts'
import { agreeDefaults, defaultsView } from './defaults/defaults.ts'
import { keepAccountFor } from './purposes.ts'

/** What is agreed: the baseline as a whole, defaults, and what accounts are for. */
export function agreedRoutes(app: App, services: Services): void {
  baselineRoutes(app, services)
  purposeRoutes(app, services)
}

function baselineRoutes(app: App, services: Services): void {
  const { database } = services
  app.put(
    '/api/entities/:entity/months/:month/baseline',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: BaselineImport,
        response: { 200: z.object({ added: z.number(), ended: z.number(), run: ProvedBy }) },
      },
      // A larger one comes as a file.
      bodyLimit: LISTED_BYTES,
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        const report = await importBaseline(books, request.body, await recordedAt(books))
        await audit(books.trx, 'imported', 'baseline', { after: report })
        await noteSetUp(books)
        const run = await proveAfter(services, books, {
          month: request.params.month,
          startedBy: requirePerson(request).name,
        })
        return { ...report, run }
      })
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/align/defaults',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: DefaultsView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => defaultsView(books))
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/align/defaults',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: AgreedDefaults,
        response: { 200: z.object({ agreed: z.boolean() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await agreeDefaults(books, request.body)
        return { agreed: true }
      })
    },
  )
}

/** What accounts are for. */
function purposeRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/align/accounts/choices',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        querystring: z.object({ rule: z.string().max(300) }),
        response: { 200: AccountChoices },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        accountChoices(books, request.params.month, request.query.rule),
      )
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/align/accounts/:account/purpose',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams.extend({ account: z.string().min(1).max(40) }),
        body: z.strictObject({ kinds: z.array(z.enum(POSTING_KINDS)).max(POSTING_KINDS.length) }),
        response: { 200: z.object({ kinds: z.number() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await keepAccountFor(books, requirePerson(request).name, request.params.account, request.body.kinds)
        return { kinds: request.body.kinds.length }
      })
    },
  )
}
