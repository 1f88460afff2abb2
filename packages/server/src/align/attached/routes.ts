import { SentFile } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { requirePerson, requireRole } from '../../access/sessions.ts'
import { audit } from '../../audit/audit.ts'
import { changing, inEntity } from '../../database/connection.ts'
import type { App, Services } from '../../services/services.ts'
import { readFile, removeFile } from './files.ts'

const fileParams = monthParams.extend({ file: z.uuid() })

/** Files that prove something, as they were brought. */
export function attachedRoutes(app: App, { database }: Services): void {
  app.get(
    '/api/entities/:entity/months/:month/attached/:file',
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
    '/api/entities/:entity/months/:month/attached/:file',
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
