import { CertificateRequest, CertificatesView, SentFile } from '@axion/contract'
import { z } from 'zod'
import { monthParams } from '../../access/month.ts'
import { requirePerson, requireRole } from '../../access/sessions.ts'
import { audit } from '../../audit/audit.ts'
import { loadBaseline } from '../../baseline/load.ts'
import { introduce, revise } from '../../baseline/revise.ts'
import { changing, inEntity, type Books } from '../../database/connection.ts'
import { Problem } from '../../faults/problem.ts'
import { proveAll } from '../../proof/prove.ts'
import type { App, Services } from '../../services/services.ts'
import { noteSetUp } from '../../setUp/clock.ts'
import { recordBatch } from '../../setUp/steps.ts'
import { keepFile, MOST_BYTES, readFile } from './files.ts'

const partyParams = monthParams.extend({ party: z.string().max(60) })
const fileParams = monthParams.extend({ file: z.uuid() })

/** Exemption certificates of a party, with the files that prove them. */
export function certificateRoutes(app: App, { database }: Services): void {
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
        response: { 200: z.object({ certificate: z.string() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const person = requirePerson(request).name
      return changing(database, entity.id, async (books) => {
        const code = await keepCertificate(books, request.params.party, request.body, person)
        await noteSetUp(books)
        await proveAll(books, request.params.month)
        return { certificate: code }
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
        const file = await keepFile(books, certificate, { name, content }, person)
        await audit(books.trx, 'attached', `certificate ${certificate}`, {
          after: {
            file: name,
            bytes: content.length,
          },
        })
        return { file }
      })
    },
  )

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
        const { trx } = books
        const file = await readFile(books, request.params.file)
        await trx('certificate_file')
          .where({ entity_id: entity.id, file_id: file.file_id })
          .update({ removed_at: trx.fn.now(), removed_by: person })
        await audit(trx, 'detached', `certificate ${file.certificate}`, { before: { file: file.name } })
        return { removed: true }
      })
    },
  )
}

/** Records a certificate, new or with other values; what was recorded before stays readable. */
async function keepCertificate(
  books: Books,
  partyId: string,
  { code, number, reason, regions, from, to }: CertificateRequest,
  person: string,
): Promise<string> {
  const index = await loadBaseline(books)
  const party = index.party(partyId)
  if (!party) throw new Problem('AXION_NOT_FOUND', { what: 'such party in the baseline' })
  if (party.catchAll)
    throw new Problem('AXION_CANNOT_TAKE_IN', {
      what: `A certificate for ${party.name}`,
      why: 'whoever stands for many buyers is never exempt',
    })
  for (const region of regions)
    if (!index.jurisdiction(region))
      throw new Problem('AXION_BASELINE_INCONSISTENT', { where: 'The certificate', what: region })
  const known = code === null ? undefined : index.certificatesOf(partyId).find((one) => one.id === code)
  if (code !== null && !known) throw new Problem('AXION_NOT_FOUND', { what: 'such certificate' })
  const taken = new Set(index.baseline.certificates.map((one) => one.id))
  const id = known?.id ?? fresh(`crt-${number.replace(/[^\p{L}\p{N}]+/gu, '-').slice(0, 40)}`, taken)
  const values = { number, party: partyId, reason, regions }
  const step = known
    ? await revise(books, {
        table: 'certificate',
        objectId: id,
        values: { ...values, valid: `[${from},${to ?? ''}]` },
        from: null,
      })
    : await introduce(books, { table: 'certificate', objectId: id, values, from, to })
  await recordBatch(books, { person, action: 'certificate', says: `${number}, ${party.name}` }, [
    { did: 'revised', ...step },
  ])
  await audit(books.trx, 'certificate', party.name, {
    before: known
      ? {
          number: known.number,
          reason: known.reason,
          regions: known.regionIds,
          from: known.valid.from,
          to: known.valid.to,
        }
      : null,
    after: { number, reason, regions, from, to },
  })
  return id
}

function fresh(wanted: string, taken: ReadonlySet<string>): string {
  for (let at = 1; ; at++) {
    const code = at === 1 ? wanted : `${wanted}-${at}`
    if (!taken.has(code)) return code
  }
}

async function certificatesView(books: Books, partyId: string): Promise<CertificatesView> {
  const index = await loadBaseline(books)
  const party = index.party(partyId)
  const own = index.certificatesOf(partyId)
  const files = await books
    .trx('certificate_file')
    .where({ entity_id: books.entityId })
    .whereNull('removed_at')
    .whereRaw('certificate = any(?)', [own.map((one) => one.id)])
    .orderBy('at')
    .select('file_id', 'certificate', 'name', 'size', 'person', 'at')
  return {
    claims: party?.claims ?? null,
    certificates: [...own]
      .sort((a, b) => (a.valid.from < b.valid.from ? 1 : -1))
      .map((one) => ({
        code: one.id,
        number: one.number,
        reason: one.reason,
        regions: one.regionIds,
        from: one.valid.from,
        to: one.valid.to,
        files: files
          .filter((file) => file.certificate === one.id)
          .map((file) => ({
            id: file.file_id,
            name: file.name,
            size: file.size,
            person: file.person,
            at: file.at.toISOString(),
          })),
      })),
    regions: index.baseline.jurisdictions
      .filter((j) => j.level === 'region')
      .map((j) => ({
        id: j.id,
        name: j.name,
        reasons: [
          ...new Set(
            index.baseline.regionRules
              .filter((rule) => rule.jurisdictionId === j.id)
              .flatMap((rule) => rule.exemptionReasons),
          ),
        ],
      })),
  }
}
