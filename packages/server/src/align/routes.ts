import {
  AccountChoices,
  AgreedDefaults,
  ALIGN_KINDS,
  BaselineImport,
  BatchView,
  BulkPreview,
  BulkRequest,
  DefaultsView,
  GridNames,
  GridQuery,
  GridView,
  LeaveRequest,
  LINK_KINDS,
  SentFile,
  Started,
  TimelineView,
} from '@axion/contract'
import { POSTING_KINDS } from '@axion/core'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { audit } from '../audit/audit.ts'
import { importBaseline, recordedAt } from '../baseline/import.ts'
import { changing, inEntity } from '../database/connection.ts'
import { startRun } from '../jobs/runs.ts'
import { LISTED_BYTES } from '../lists/body.ts'
import { sendTables } from '../lists/sent.ts'
import { proveAll } from '../proof/prove.ts'
import type { App, Services } from '../services/services.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { latestBatches } from './batches.ts'
import { previewBulk } from './bulk.ts'
import { accountChoices } from './choices.ts'
import { agreeDefaults, defaultsView } from './defaults/defaults.ts'
import { shouldHold } from './exported.ts'
import { agreementGrid, gridNames } from './grid/grid.ts'

import { leave } from './left.ts'
import { link, linkClear, unlink } from './links.ts'
import { keepAccountFor } from './purposes.ts'
import { timelineOf } from './timeline.ts'

const kinds = z.enum(ALIGN_KINDS)
const Link = z.object({
  systemId: z.string().max(60),
  kind: z.enum(LINK_KINDS),
  objectId: z.string().max(200),
  baselineId: z.string().max(60),
})

/** The baseline, and the links between it and each system. After either changes, every month is proved anew. */
export function alignRoutes(app: App, { database, queue }: Services): void {
  app.put(
    '/api/entities/:entity/months/:month/baseline',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: BaselineImport,
        response: { 200: z.object({ added: z.number(), ended: z.number() }) },
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
        await proveAll(books, request.params.month)
        return report
      })
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/align/:kind',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ kind: kinds }),
        querystring: GridQuery,
        response: { 200: GridView },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        agreementGrid(books, request.params.month, request.params.kind, request.query),
      )
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/align/:kind/names',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ kind: kinds }),
        querystring: z.object({ search: z.string().max(200).default('') }),
        response: { 200: GridNames },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        gridNames(books, request.params.month, request.params.kind, request.query.search),
      )
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/align/rates/:rate/timeline',
    {
      config: { role: 'viewer' },
      schema: { params: monthParams.extend({ rate: z.string().max(300) }), response: { 200: TimelineView } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        timelineOf(books, request.params.month, request.params.rate),
      )
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/align/:kind/should-hold',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ kind: kinds }),
        querystring: z.object({ system: z.string().max(60), format: z.enum(['csv', 'xlsx']).default('csv') }),
        response: { 200: SentFile },
      },
    },
    async (request, reply) => {
      const entity = requireRole(request)
      const { kind, month } = request.params
      const table = await inEntity(database, entity.id, (books) =>
        shouldHold(books, month, kind, request.query.system),
      )
      const name = `${entity.id}-${request.query.system}-${kind}-should-hold`
      return sendTables(database, reply, {
        entityId: entity.id,
        format: request.query.format,
        name,
        tables: [table],
      })
    },
  )

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
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => ({
        run: await startRun(books, queue, {
          kind: 'bulk',
          payload: { month: request.params.month, ...request.body },
          startedBy: requirePerson(request).name,
        }),
      }))
    },
  )

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
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => ({
        run: await startRun(books, queue, {
          kind: 'undo',
          payload: { month: request.params.month, batchId: request.body.batchId },
          startedBy: requirePerson(request).name,
        }),
      }))
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/links',
    {
      config: { role: 'preparer' },
      schema: { params: monthParams, body: Link, response: { 200: z.object({ linked: z.number() }) } },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await link(books, request.params.month, requirePerson(request).name, request.body)
        await noteSetUp(books)
        await proveAll(books, request.params.month)
        return { linked: 1 }
      })
    },
  )

  app.delete(
    '/api/entities/:entity/months/:month/links',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: Link.omit({ baselineId: true }),
        response: { 200: z.object({ unlinked: z.number() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await unlink(books, requirePerson(request).name, request.body)
        await noteSetUp(books)
        await proveAll(books, request.params.month)
        return { unlinked: 1 }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/links/clear',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: z.object({ kinds: z.array(kinds).min(1) }),
        response: { 200: z.object({ linked: z.number() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        const linked = await linkClear(
          books,
          request.params.month,
          requirePerson(request).name,
          request.body.kinds,
        )
        await noteSetUp(books)
        await proveAll(books, request.params.month)
        return { linked }
      })
    },
  )
}
