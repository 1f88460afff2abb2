import { AskedView, InvitationView, role, type SystemRole } from '@axion/contract'
import { z } from 'zod'
import { newToken, tokenHash } from '../access/passwords.ts'
import { requirePerson, requireRole } from '../access/sessions.ts'
import { LITTLE, SELDOM } from '../access/unknown.ts'
import { audit } from '../audit/audit.ts'
import { acting, changing, inEntity, type Books, type Database } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'
import type { App, Services } from '../services/services.ts'
import { askAlone } from './asked.ts'
import { ask, keepSystem, type Connection } from './connecting.ts'

const LASTS_DAYS = 7
/** Where a bridge is, and what it lets in. */
const address = z.object({ address: z.url().max(500), token: z.string().min(8).max(500) })
/** The legal entity, and what only the link knows. */
const linkParams = z.object({ link: z.string().regex(/^[a-z0-9-]{1,60}\.[\w-]{20,60}$/) })

interface Invited {
  readonly entity_id: string
  readonly entity_name: string
  readonly invitation_id: string
  readonly system_id: string
  readonly role: SystemRole
  readonly name: string
  readonly created_by: string
  readonly expires_at: Date
  readonly closed_on: string | null
}

/** Inviting whoever has the rights on the other side to complete a connection: a link that works once, and for that alone. */
export function invitationRoutes(app: App, services: Services): void {
  const { database } = services

  app.post(
    '/api/entities/:entity/invitations',
    {
      config: { role: 'administrator' },
      schema: {
        params: z.object({ entity: z.string() }),
        body: z.object({
          systemId: z.string().regex(/^[a-z0-9-]{1,40}$/),
          role,
          name: z.string().min(1).max(100),
        }),
        response: { 200: z.object({ link: z.string(), days: z.number() }) },
      },
    },
    (request) => {
      const entity = requireRole(request)
      const { systemId, role: of, name } = request.body
      const wanted = { systemId, role: of, name, person: requirePerson(request).name }
      return changing(database, entity.id, async (books) => {
        // It is told once, and kept nowhere.
        return { link: `/invitation/${entity.id}.${await invite(books, wanted)}`, days: LASTS_DAYS }
      })
    },
  )

  app.get(
    '/api/invitations/:link',
    { config: { rateLimit: SELDOM }, schema: { params: linkParams, response: { 200: InvitationView } } },
    async (request): Promise<InvitationView> => {
      const invited = await find(database, request.params.link)
      return {
        entity: invited.entity_name,
        system: invited.name,
        role: invited.role,
        by: invited.created_by,
        until: invited.expires_at.toISOString(),
      }
    },
  )

  app.post(
    '/api/invitations/:link/asked',
    {
      config: { rateLimit: SELDOM, anonymous: true },
      bodyLimit: LITTLE,
      schema: { params: linkParams, body: address, response: { 200: AskedView } },
    },
    async (request) =>
      askAlone(services, connectionOf(await find(database, request.params.link), request.body)),
  )

  app.post(
    '/api/invitations/:link',
    {
      config: { rateLimit: SELDOM, anonymous: true },
      bodyLimit: LITTLE,
      schema: {
        params: linkParams,
        body: address,
        response: { 200: z.object({ system: z.string(), company: z.string() }) },
      },
    },
    async (request) => {
      const invited = await find(database, request.params.link)
      const connection = connectionOf(invited, request.body)
      const about = await ask(services, connection)
      const [, link = ''] = request.params.link.split('.')
      await acting.run({ from: request.ip, link }, () =>
        changing(database, invited.entity_id, async (books) => {
          await use(books, invited)
          await keepSystem(books, services, connection, about)
        }),
      )
      return { system: invited.name, company: about.company.name }
    },
  )
}

function connectionOf(
  { system_id: systemId, role: of, name }: Invited,
  where: z.infer<typeof address>,
): Connection {
  return { systemId, role: of, name, ...where }
}

interface Wanted {
  readonly systemId: string
  readonly role: SystemRole
  readonly name: string
  readonly person: string
}

/** @returns the secret of the link */
async function invite(
  { trx, entityId }: Books,
  { systemId, role: of, name, person }: Wanted,
): Promise<string> {
  const link = newToken()
  await trx('invitation').insert({
    entity_id: entityId,
    digest: tokenHash(link),
    system_id: systemId,
    role: of,
    name,
    created_by: person,
    expires_at: trx.raw(`now() + make_interval(days => ${LASTS_DAYS})`),
  })
  await audit(trx, 'invited', name, { after: { role: of, days: LASTS_DAYS } })
  return link
}

/** Used in the same breath as the system is kept: of two who follow the link at once, one is too late. */
async function use({ trx }: Books, { entity_id, invitation_id }: Invited): Promise<void> {
  const used = await trx('invitation')
    .where({ entity_id, invitation_id })
    .whereNull('used_at')
    .update({ used_at: trx.fn.now() })
  if (used === 0) throw new Problem('AXION_NOT_FOUND', { what: 'such invitation any more' })
}

async function find(database: Database, link: string): Promise<Invited> {
  const [entityId = '', secret = ''] = link.split('.')
  const invited = (await inEntity(database, entityId, ({ trx }) =>
    trx('invitation as i')
      .join('legal_entity as e', 'e.entity_id', 'i.entity_id')
      .where({ 'i.entity_id': entityId, 'i.digest': tokenHash(secret) })
      .whereNull('i.used_at')
      .whereRaw('i.expires_at > now()')
      .first('i.*', 'e.name as entity_name', 'e.closed_on'),
  )) as Invited | undefined
  if (!invited) throw new Problem('AXION_NOT_FOUND', { what: 'such invitation any more' })
  if (invited.closed_on !== null) throw new Problem('AXION_ENTITY_CLOSED', { day: invited.closed_on })
  return invited
}
