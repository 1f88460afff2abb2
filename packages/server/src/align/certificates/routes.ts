import { CertificateRequest, CertificatesView, ProvedBy, SentFile } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { requirePerson, requireRole } from '../../access/sessions.ts'
import { audit } from '../../audit/audit.ts'
import { changing, inEntity } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { proveAfter } from '../../jobs/proveAfter.ts'
import type { App, Services } from '../../services/services.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { certificatesView, keepCertificate } from './certificates.ts'
import { keepFile, MOST_BYTES, readFile, removeFile } from './files.ts'

const partyParams = monthParams.extend({ party: z.string().max(60) })
const fileParams = monthParams.extend({ file: z.uuid() })

/** Exemption certificates of a party, with the files that prove them. */
export function certificateRoutes(app: App, services: Services): void {
  partyRoutes(app, services)
  fileRoutes(app, services)
}

function partyRoutes(app: App, services: Services): void {
  const { database } = services
  app.get(
    '/api/entities/:entity/months/:month/certificates/:party',
    { config: { role: 'viewer' }, schema: { params: partyParams, response: { 200: CertificatesView } } },
    (request) => {
      const entity = requireRole(request)
      return inEntity(database, entity.id, (books) => certificatesView(books, request.params.party))
    },
  )

  app.put(
    '/api/entities/:entity/months/:month/certificates/:party',
    {
      config: { role: 'preparer' },
      schema: {
        params: partyParams,
        body: CertificateRequest,
        response: { 200: z.object({ certificate: z.string(), run: ProvedBy }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const person = requirePerson(request).name
      return changing(database, entity.id, async (books) => {
        const code = await keepCertificate(books, request.params.party, request.body, person)
        await noteSetUp(books)
        const run = await proveAfter(services, books, {
          month: request.params.month,
          startedBy: person,
        })
        return { certificate: code, run }
      })
    },
  )

  app.post(
    '/api/entities/:entity/months/:month/certificates/:party/files',
    {
      config: { role: 'preparer' },
      bodyLimit: MOST_BYTES + 1024,
      schema: {
        params: partyParams,
        querystring: z.object({ certificate: z.string().max(60), name: z.string().min(1).max(200) }),
        response: { 200: z.object({ file: z.string() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const { certificate, name } = request.query
      const person = requirePerson(request).name
      return changing(database, entity.id, async (books) => {
        const { certificates } = await certificatesView(books, request.params.party)
        if (!certificates.some((one) => one.code === certificate))
          throw new Problem('AXION_NOT_FOUND', { what: 'such certificate' })
        const content = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0)
        return { file: await keepFile(books, certificate, { name, content }, person) }
      })
    },
  )
}

/** What proves a certificate, as it was brought. */
function fileRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/certificate-files/:file',
    { config: { role: 'viewer' }, schema: { params: fileParams, response: { 200: SentFile } } },
    async (request, reply) => {
      const entity = requireRole(request)
      const file = await inEntity(database, entity.id, async (books) => {
        const found = await readFile(books, request.params.file)
        await audit(books.trx, 'exported', found.name)
        return found
      })
      // It is handed out to be saved, never run: no script of it has anything to do with this page.
      return reply
        .type(file.type)
        .header('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(file.name)}`)
        .header('content-security-policy', `default-src 'none'; sandbox`)
        .header('x-content-type-options', 'nosniff')
        .header('cache-control', 'private, no-store')
        .send(file.content)
    },
  )

  app.delete(
    '/api/entities/:entity/months/:month/certificate-files/:file',
    {
      config: { role: 'preparer' },
      schema: { params: fileParams, response: { 200: z.object({ removed: z.boolean() }) } },
    },
    (request) => {
      const entity = requireRole(request)
      const person = requirePerson(request).name
      return changing(database, entity.id, async (books) => {
        await removeFile(books, request.params.file, person)
        return { removed: true }
      })
    },
  )
}
