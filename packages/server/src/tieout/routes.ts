import {
  CloseView,
  Concerned,
  Evidence,
  FullProofView,
  KeepPreview,
  KeptView,
  parseSelector,
  Remedy,
  RemedyPreview,
  SentFile,
  Started,
  TieOutListQuery,
  TieOutView,
  TriedRemedy,
  WorkList,
} from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { audit } from '../audit/audit.ts'
import { changing, inEntity } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { startRun } from '../jobs/runs.ts'
import { LISTED_BYTES } from '../lists/body.ts'
import { sendTables } from '../lists/sent.ts'
import { doubt } from '../proof/doubt.ts'
import { settleMonth } from '../proof/prove.ts'
import type { App, Services } from '../services/services.ts'
import { causeInWords } from './causes.ts'
import { closeSheet } from './closeSheet.ts'
import { evidence } from './evidence.ts'
import { fullProof } from './fullProof.ts'
import { keepDifferences, keptView, previewKeeping, reviewKept } from './kept.ts'
import { previewRemedy } from './remedies.ts'
import { TIE_OUT_HEADER, tieOut, tieOutCells } from './tieOut.ts'
import { triedRemedies } from './tried.ts'
import { tick, workList } from './workList.ts'

/** The close sheet, the tie-out, the evidence behind any amount, and mending a cause. */
export function tieOutRoutes(app: App, { database, queue }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/close',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: CloseView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => closeSheet(books, request.params.month))
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/tie-out',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        querystring: TieOutListQuery,
        response: { 200: TieOutView },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => tieOut(books, request.params.month, request.query))
    },
  )

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

  app.get(
    '/api/entities/:entity/months/:month/tie-out/kept',
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: KeptView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => keptView(books, request.params.month))
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/tie-out/kept/preview',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        querystring: z.object({ cause: z.string().max(400) }),
        response: { 200: KeepPreview },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) =>
        previewKeeping(books, request.params.month, request.query.cause),
      )
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/tie-out/kept',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: z.object({
          cause: z.string().max(400),
          reason: z.string().trim().min(1).max(500),
          revision: z.string().max(2000),
        }),
        response: { 200: Concerned },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => ({
        documents: await keepDifferences(
          books,
          request.params.month,
          requirePerson(request).name,
          request.body,
        ),
      }))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/tie-out/kept/review',
    {
      config: { role: 'preparer' },
      bodyLimit: LISTED_BYTES,
      schema: {
        params: monthParams,
        body: z.object({ units: z.array(z.string().max(300)).min(1).max(10_000), agree: z.boolean() }),
        response: { 200: Concerned },
      },
    },
    (request) => {
      const { agree } = request.body
      const { month } = request.params
      const entity = agree ? requireRole(request, 'reviewer') : requireRole(request)
      return changing(database, entity.id, async (books) => {
        const documents = await reviewKept(books, month, requirePerson(request).name, request.body)
        await settleMonth(books, month)
        return { documents }
      })
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/tie-out/list.:format',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams.extend({ format: z.enum(['csv', 'xlsx']) }),
        querystring: TieOutListQuery,
        response: { 200: SentFile },
      },
    },
    async (request, reply) => {
      const entity = requireRole(request)
      const { month, format } = request.params
      const cells = await inEntity(database, entity.id, (books) => tieOutCells(books, month, request.query))
      const name = `tie-out-${month}`
      return sendTables(database, reply, {
        entityId: entity.id,
        format,
        name,
        tables: [{ name, header: TIE_OUT_HEADER, rows: cells }],
      })
    },
  )

  app.get(
    '/api/entities/:entity/months/:month/evidence',
    {
      config: { role: 'viewer' },
      schema: {
        params: monthParams,
        querystring: z.object({ open: z.string().max(3000) }),
        response: { 200: Evidence },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const read = z
        .string()
        .transform((text, context) => {
          try {
            return parseSelector(text)
          } catch {
            context.addIssue({ code: 'custom', message: 'selects no amount' })
            return z.NEVER
          }
        })
        .safeParse(request.query.open)
      if (!read.success)
        throw new Problem('AXION_BAD_REQUEST', { path: 'open', problem: 'selects no amount' })
      return inEntity(database, entity.id, (books) => evidence(books, request.params.month, read.data))
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/evidence/doubt',
    {
      config: { role: 'preparer' },
      schema: {
        params: monthParams,
        body: z.object({ unit: z.string().max(300) }),
        response: { 200: z.object({ number: z.string() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      return changing(database, entity.id, async (books) => {
        const [number] = await doubt(books, [request.body.unit])
        if (number === undefined) throw new Problem('AXION_NOT_FOUND', { what: 'such document' })
        await audit(books.trx, 'doubted', number)
        return { number }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/full-proof',
    { config: { role: 'preparer' }, schema: { params: monthParams, response: { 200: FullProofView } } },
    async (request) => {
      const entity = requireRole(request)
      const { month } = request.params
      const { view, disagreeing: named } = await inEntity(database, entity.id, async (books) => {
        const found = await fullProof(books, month)
        const { documents, facts, disagreeing } = found.view
        await audit(books.trx, 'proved-in-full', month, { after: { documents, facts, disagreeing } })
        return found
      })
      if (named.length > 0) await changing(database, entity.id, (books) => doubt(books, named))
      return view
    },
  )

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
        const run = await startRun(books, queue, {
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
