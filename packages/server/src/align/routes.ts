import { ALIGN_KINDS, BaselineImport, GridQuery, LeaveRequest, LINK_KINDS } from '@axion/contract'
import { z } from 'zod'
import { audit } from '../audit/audit.ts'
import { importBaseline } from '../baseline/import.ts'
import { inEntity } from '../database/connection.ts'
import { requirePerson, requireRole } from '../people/sessions.ts'
import type { App, Services } from '../services.ts'
import { proveAll } from '../tieout/prove.ts'
import { monthParams } from '../tieout/routes.ts'
import { noteSetUp } from './build.ts'
import { agreementGrid, gridNames } from './grid.ts'
import { leave } from './left.ts'
import { link, linkClear, unlink } from './links.ts'

const kinds = z.enum(ALIGN_KINDS)
const Link = z.object({ systemId: z.string().max(60), kind: z.enum(LINK_KINDS), objectId: z.string().max(200), baselineId: z.string().max(60) })

/** The baseline, and the links between it and each system. After either changes, every month is proved anew. */
export function alignRoutes(app: App, { database }: Services): void {
  app.put('/api/entities/:entity/months/:month/baseline', { schema: { params: monthParams, body: BaselineImport }, bodyLimit: 32 * 1024 * 1024 }, (request) => {
    const entity = requireRole(request, 'preparer')
    return inEntity(database, entity.id, async (trx) => {
      const report = await importBaseline(trx, entity.id, request.body)
      await audit(trx, entity.id, requirePerson(request).name, 'imported', 'baseline', null, report)
      await noteSetUp(trx, entity.id)
      await proveAll(trx, entity.id, request.params.month)
      return report
    })
  })

  app.get('/api/entities/:entity/months/:month/align/:kind', { schema: { params: monthParams.extend({ kind: kinds }), querystring: GridQuery } }, (request) => {
    const entity = requireRole(request, 'viewer')
    return inEntity(database, entity.id, (trx) => agreementGrid(trx, entity.id, request.params.month, entity.currency, request.params.kind, request.query))
  })

  app.get('/api/entities/:entity/months/:month/align/:kind/names', { schema: { params: monthParams.extend({ kind: kinds }), querystring: z.object({ search: z.string().max(200).default('') }) } }, (request) => {
    const entity = requireRole(request, 'viewer')
    return inEntity(database, entity.id, (trx) => gridNames(trx, entity.id, request.params.month, request.params.kind, request.query.search))
  })

  app.put('/api/entities/:entity/months/:month/align/left', { schema: { params: monthParams, body: LeaveRequest } }, (request) => {
    const entity = requireRole(request, 'preparer')
    return inEntity(database, entity.id, async (trx) => {
      await leave(trx, entity.id, request.params.month, requirePerson(request).name, request.body)
      return { left: request.body.reason !== null }
    })
  })

  app.put('/api/entities/:entity/months/:month/links', { schema: { params: monthParams, body: Link } }, (request) => {
    const entity = requireRole(request, 'preparer')
    return inEntity(database, entity.id, async (trx) => {
      await link(trx, entity.id, request.params.month, requirePerson(request).name, request.body)
      await noteSetUp(trx, entity.id)
      await proveAll(trx, entity.id, request.params.month)
      return { linked: 1 }
    })
  })

  app.delete('/api/entities/:entity/months/:month/links', { schema: { params: monthParams, body: Link.omit({ baselineId: true }) } }, (request) => {
    const entity = requireRole(request, 'preparer')
    return inEntity(database, entity.id, async (trx) => {
      await unlink(trx, entity.id, requirePerson(request).name, request.body)
      await noteSetUp(trx, entity.id)
      await proveAll(trx, entity.id, request.params.month)
      return { unlinked: 1 }
    })
  })

  app.post('/api/entities/:entity/months/:month/links/clear', { schema: { params: monthParams, body: z.object({ kinds: z.array(kinds).min(1) }) } }, (request) => {
    const entity = requireRole(request, 'preparer')
    return inEntity(database, entity.id, async (trx) => {
      const linked = await linkClear(trx, entity.id, request.params.month, requirePerson(request).name, request.body.kinds)
      await noteSetUp(trx, entity.id)
      await proveAll(trx, entity.id, request.params.month)
      return { linked }
    })
  })
}
