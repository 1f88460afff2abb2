import { Remedy, RemedyPreview, Started, TriedRemedy, WorkList } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { audit } from '../audit/audit.ts'
import { changing, inEntity } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { startRun } from '../jobs/runs.ts'
import type { App, Services } from '../services/services.ts'
import { causeInWords } from './causes.ts'
import { previewRemedy } from './remedies.ts'
import { triedRemedies } from './tried.ts'
import { tick, workList } from './workList.ts'

/** What mends a cause from here, and the work list of what is mended elsewhere. */
export function mendRoutes(app: App, services: Services): void {
  workListRoutes(app, services)
  remedyRoutes(app, services)
}

/** What is mended elsewhere, ticked off as it is done. */
function workListRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/tie-out/work',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        querystring: z.object({ cause: z.string().max(400) }),
        response: { 200: WorkList },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        workList(books, request.params.month, request.query.cause),
      )
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/tie-out/ticks',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: z.object({ unit: z.string().max(300), done: z.boolean() }),
        response: { 200: z.object({ done: z.boolean() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const { unit, done } = request.body
      return changing(database, entity.id, async (books) => {
        await tick(books, request.params.month, { unit, done, person: requirePerson(request).name })
        return { done }
      })
    },
  )
}

/** Remedies that the bridges allow: what was tried, what one would change, and doing it. */
function remedyRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/mend/tried',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        querystring: z.object({ cause: z.string().max(400) }),
        response: { 200: z.array(TriedRemedy).readonly() },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        triedRemedies(books, request.params.month, request.query.cause),
      )
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/mend/preview',
    {
      config: { role: 'viewer' },
      schema: { params: monthParams, body: z.object({ remedy: Remedy }), response: { 200: RemedyPreview } },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        previewRemedy(books, request.params.month, request.body.remedy),
      )
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/mend',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: z.object({ remedy: Remedy, revision: z.string().max(200) }),
        response: { 200: Started },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const { remedy, revision } = request.body
      return changing(database, entity.id, async (books) => {
        const preview = await previewRemedy(books, request.params.month, remedy)
        if (preview.revision !== revision)
          throw new Problem('AXION_STALE', {
            what: preview.object === '' ? 'This cause' : `${preview.object} in ${preview.system}`,
          })
        await audit(
          books.trx,
          'asked-to-mend',
          preview.object ||
            ('cause' in remedy ? await causeInWords(books, request.params.month, remedy.cause) : ''),
          { after: { remedy: remedy.kind, documents: preview.documents, unproved: preview.unproved } },
        )
        const run = await startRun(books, {
          kind: 'mend',
          payload: { month: request.params.month, remedy, revision },
          startedBy: requirePerson(request).name,
          total: preview.documents,
        })
        return { run }
      })
    },
  )
}
