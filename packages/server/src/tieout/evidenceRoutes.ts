import { Evidence, LastFullProof, parseSelector, Started } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../access/month.ts'
import { requireRole } from '../access/sessions.ts'
import { audit } from '../audit/audit.ts'
import { changing, inEntity } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import { startFor } from '../jobs/starting.ts'
import { doubt } from '../proof/doubt.ts'
import type { App, Services } from '../services/services.ts'
import { evidence } from './evidence.ts'
import { lastFullProof } from './lastFullProof.ts'

/** The evidence of an amount, and the proofs that are asked for anew. */
export function evidenceRoutes(app: App, { database }: Services): void {
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

  const fullProof = '/api/entities/:entity/months/:month/full-proof'
  app.post(
    fullProof,
    { config: { role: 'preparer' }, schema: { params: monthParams, response: { 200: Started } } },
    (request) => startFor(database, request, 'full-proof', { month: request.params.month }),
  )

  app.get(
    fullProof,
    { config: { role: 'viewer' }, schema: { params: monthParams, response: { 200: LastFullProof } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, async (books) => ({
        last: await lastFullProof(books, request.params.month),
      }))
    },
  )
}
