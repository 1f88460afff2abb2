import { FirstView } from '@axion/contract'
import { z } from 'zod'
import { hashPassword, newPassword, newToken, tokenHash } from '../access/passwords.ts'
import { LITTLE, SELDOM } from '../access/unknown.ts'
import { inPractice, type Database } from '../database/connection.ts'
import { isDouble } from '../database/sqlState.ts'
import { Problem } from '../faults/problem.ts'
import type { App, EdgeServices } from '../services/services.ts'
import { letIn } from './letIn.ts'

const linkParams = z.object({ link: z.string().max(100) })
const FirstPerson = z.object({
  email: z.email().max(200),
  name: z.string().trim().min(1).max(200),
  password: newPassword,
})
type FirstPerson = z.infer<typeof FirstPerson>
const signedIn = z.object({ signedIn: z.boolean() })

/** An installation that nobody runs yet: whoever has the link that its start printed becomes its first administrator, once. */
export function firstRoutes(app: App, { database, keys }: EdgeServices): void {
  app.get('/api/first', { schema: { response: { 200: FirstView } } }, async () => ({
    nobody: await nobodyRunsIt(database),
  }))

  app.get(
    '/api/first/:link',
    {
      config: { rateLimit: SELDOM },
      schema: { params: linkParams, response: { 200: z.object({ waits: z.literal(true) }) } },
    },
    async (request) => {
      const { rows } = (await keys.raw('select first_link_waits(?) as waits', [
        tokenHash(request.params.link),
      ])) as { rows: { waits: boolean }[] }
      if (rows[0]?.waits !== true) throw new Problem('AXION_LINK_USED')
      return { waits: true as const }
    },
  )

  app.post(
    '/api/first/:link',
    {
      config: { rateLimit: SELDOM, anonymous: true },
      bodyLimit: LITTLE,
      schema: { params: linkParams, body: FirstPerson, response: { 200: signedIn } },
    },
    async (request, reply) => {
      await letIn(keys, request, reply, await begin(keys, request.params.link, request.body))
      return { signedIn: true }
    },
  )
}

async function nobodyRunsIt(database: Database): Promise<boolean> {
  return !(await database('person').where({ may_create_entities: true }).first('person_id'))
}

/**
 * @returns who runs the practice from now on
 * @throws AXION_LINK_USED where the link is none, or was used; AXION_ALREADY_EXISTS where somebody has that address
 */
async function begin(keys: Database, link: string, { email, name, password }: FirstPerson): Promise<string> {
  const hash = await hashPassword(password)
  const { rows } = (await inPractice(keys, (trx) =>
    trx.raw('select begin_practice(?, ?, ?, ?) as person', [
      tokenHash(link),
      email.toLowerCase(),
      name,
      hash,
    ]),
  ).catch((error: unknown) => {
    throw isDouble(error) ? new Problem('AXION_ALREADY_EXISTS', { what: email }) : error
  })) as { rows: { person: string | null }[] }
  const person = rows[0]?.person
  if (!person) throw new Problem('AXION_LINK_USED')
  return person
}

/**
 * Makes the link anew, as the owner of the schema; the one before holds no more.
 * @returns the secret of it, told once; null where somebody runs the practice
 */
export async function makeFirstLink(owner: Database): Promise<string | null> {
  if (!(await nobodyRunsIt(owner))) return null
  const secret = newToken()
  await owner.transaction(async (trx) => {
    await trx('first_link').delete()
    await trx('first_link').insert({ digest: tokenHash(secret) })
  })
  return secret
}
