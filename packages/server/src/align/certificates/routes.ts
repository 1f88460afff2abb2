import { CertificateRequest, CertificatesView, ProvedBy } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { requirePerson, requireRole } from '../../access/sessions.ts'
import { changing, inEntity } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { proveAfter } from '../../jobs/proveAfter.ts'
import type { App, Services } from '../../services/services.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { certificatesView, keepCertificate } from './certificates.ts'
import { contentOf, keepFile, MOST_BYTES } from '../attached/files.ts'

const partyParams = monthParams.extend({ party: z.string().max(60) })

/** Exemption certificates of a party, with the files that prove them. */
export function certificateRoutes(app: App, services: Services): void {
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
        const content = contentOf(request.body)
        return {
          file: await keepFile(
            books,
            { about: 'certificate', object: certificate },
            { name, content },
            person,
          ),
        }
      })
    },
  )
}
