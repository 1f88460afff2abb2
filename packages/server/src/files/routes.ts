import { date, FilesView, ImportView, SentFile, Started } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { changing, inEntity } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { startRun } from '../jobs/runs.ts'
import { sendTables } from '../lists/sent.ts'
import type { App, Services } from '../services/services.ts'
import { advance, beginApplying, discard, requireTarget } from './imports.ts'
import { connectByFiles, SystemOfFiles } from './systems.ts'
import { filesView, importView, tablesOut } from './view.ts'

const MOST_BYTES = 64 * 1024 * 1024
const importParams = monthParams.extend({ import: z.uuid() })
const Mapping = z.record(z.string().max(80), z.int().min(0).max(1000).nullable())

/** Set-up in and out as spreadsheets: the baseline's, and that of systems that have no bridge. */
export function fileRoutes(app: App, services: Services): void {
  app.addContentTypeParser(
    'application/octet-stream',
    { parseAs: 'buffer', bodyLimit: MOST_BYTES },
    (_request, body, done) => done(null, body),
  )
  sheetRoutes(app, services)
  importRoutes(app, services)
  importStepRoutes(app, services)
}

/** What there is to take out, and systems that are kept by files alone. */
function sheetRoutes(app: App, { database, settings }: Services): void {
  app.put(
    '/api/entities/:entity/systems/:system/files',
    {
      config: { role: 'administrator' },
      schema: {
        params: z.object({ entity: z.string(), system: z.string().regex(/^[a-z0-9-]{1,40}$/) }),
        body: SystemOfFiles,
        response: { 200: z.object({ system: z.string(), resources: z.array(z.string()).readonly() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const { system: id } = request.params
      return changing(database, entity.id, (books) =>
        connectByFiles(books, { id, ...request.body }, settings.AXION_SECRET_KEY),
      )
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/files',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: FilesView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => filesView(books))
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/files/:target/:sheet',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ target: z.string().max(60), sheet: z.string().max(60) }),
        querystring: z.object({ format: z.enum(['csv', 'xlsx']).default('csv') }),
        response: { 200: SentFile },
      },
    },
    async (request, reply) => {
      const entity = requireRole(request)
      const { target, sheet } = request.params
      const tables = await inEntity(database, entity.id, (books) => tablesOut(books, target, sheet))
      if (tables.length === 0) throw new Problem('AXION_NOT_FOUND', { what: 'such sheet' })
      const name = `${entity.id}-${target}-${sheet}`
      return sendTables(database, reply, { entityId: entity.id, format: request.query.format, name, tables })
    },
  )
}

/** A file that is brought, and how far it has come. */
function importRoutes(app: App, { database }: Services): void {
  app.post(
    '/api/entities/:entity/months/:month/files/imports',
    {
      config: { role: 'preparer' },
      bodyLimit: MOST_BYTES,
      schema: {
        params: monthParams,
        querystring: z.object({
          target: z.string().max(60),
          sheet: z.string().max(60).optional(),
          name: z.string().min(1).max(200),
        }),
        response: { 200: z.object({ import: z.string(), run: z.string() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const { target, sheet = null, name } = request.query
      const content = request.body as Buffer | undefined
      if (!Buffer.isBuffer(content) || content.length === 0)
        throw new Problem('AXION_FILE_UNREADABLE', { file: name, problem: 'nothing came' })
      return changing(database, entity.id, async (books) => {
        await requireTarget(books, target, sheet)
        const [row] = await books
          .trx('file_import')
          .insert({
            entity_id: entity.id,
            target,
            sheet,
            file_name: name,
            content,
            state: 'opening',
            person: requirePerson(request).name,
          })
          .returning('import_id')
        const importId = row?.import_id ?? ''
        return {
          import: importId,
          run: await startRun(books, {
            kind: 'import',
            payload: { month: request.params.month, importId, phase: 'open' },
            startedBy: requirePerson(request).name,
          }),
        }
      })
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/files/imports/:import',
    { config: { role: 'viewer' }, schema: { params: importParams, response: { 200: ImportView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => importView(books, request.params.import))
    },
  )
}

/** Its steps: read by its columns, applied, or discarded. */
function importStepRoutes(app: App, { database }: Services): void {
  app.post(
    '/api/entities/:entity/months/:month/files/imports/:import/read',
    {
      config: { role: 'preparer' },
      schema: {
        params: importParams,
        body: z.object({ mappings: z.record(z.string().max(200), Mapping) }),
        response: { 200: Started },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await advance(books, request.params.import, ['mapping', 'read'], 'reading')
        const { month, import: importId } = request.params
        return {
          run: await startRun(books, {
            kind: 'import',
            payload: { month, importId, phase: 'read', mappings: request.body.mappings },
            startedBy: requirePerson(request).name,
          }),
        }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/files/imports/:import/apply',
    {
      config: { role: 'preparer' },
      schema: {
        params: importParams,
        body: z.object({
          mode: z.enum(['whole', 'part']),
          goodOnly: z.boolean(),
          changesFrom: date.nullable().optional(),
        }),
        response: { 200: Started },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const { month, import: importId } = request.params
      return changing(database, entity.id, async (books) => {
        const { total } = await beginApplying(books, { importId, month, ...request.body })
        return {
          run: await startRun(books, {
            kind: 'import',
            payload: { month, importId, phase: 'apply', ...request.body },
            startedBy: requirePerson(request).name,
            total,
          }),
        }
      })
    },
  )

  app.delete(
    '/api/entities/:entity/months/:month/files/imports/:import',
    {
      config: { role: 'preparer' },
      schema: { params: importParams, response: { 200: z.object({ discarded: z.boolean() }) } },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        await discard(books, request.params.import)
        return { discarded: true }
      })
    },
  )
}
