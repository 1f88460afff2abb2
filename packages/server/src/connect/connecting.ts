import { MOVING, type About, type SystemRole } from '@axion/contract'
import { audit } from '../audit/audit.ts'
import { seal } from '../bridges/secrets.ts'
import { type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'
import type { Services } from '../services/services.ts'
import { noteDue } from '../proof/due.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { FILES } from '../setUp/held.ts'
import { unstage } from './staged.ts'

export interface Connection {
  readonly systemId: string
  readonly role: SystemRole
  readonly name: string
  readonly address: string
  readonly token: string
}

/** Asks a bridge who it is. @throws AXION_BRIDGE_ROLE where it is of another role, and all that a bridge may refuse with */
export async function ask({ bridges }: Services, { name, address, token, role }: Connection): Promise<About> {
  const about = await bridges.open(name, address, token).about()
  if (about.role !== role)
    throw new Problem('AXION_BRIDGE_ROLE', { system: name, theirs: about.role, ours: role })
  return about
}

interface Kept {
  readonly about: About
  readonly role: string
  readonly address: string
}

/**
 * What a system is kept under stands for one system of one company.
 * @throws AXION_BRIDGE_ROLE, AXION_OTHER_COMPANY where another answers now
 */
export function requireTheSame(name: string, there: Kept, about: About): void {
  if (there.role !== about.role)
    throw new Problem('AXION_BRIDGE_ROLE', { system: name, theirs: about.role, ours: there.role })
  if (there.about.company.id !== about.company.id && there.address !== FILES)
    throw new Problem('AXION_OTHER_COMPANY', {
      system: name,
      before: there.about.company.name,
      now: about.company.name,
    })
}

/** Keeps a system with its bridge, new or anew. @throws AXION_OTHER_COMPANY where it was bound to another */
export async function keepSystem(
  books: Books,
  { settings }: Services,
  { systemId, name, address, token }: Connection,
  about: About,
): Promise<void> {
  const { trx, entityId } = books
  const key = { entity_id: entityId, system_id: systemId }
  const there = (await trx('system')
    .where(key)
    .first('name', 'about', 'role', 'address', 'disconnected_at')) as
    (Kept & { name: string; disconnected_at: Date | null }) | undefined
  if (there) requireTheSame(name, there, about)
  // What comes back is read from its beginning: what went meanwhile shows as gone, and links to it as stale.
  if (there?.disconnected_at || (there && there.address !== address)) await readAnew(books, systemId)
  if (there && (there.disconnected_at || there.name !== name)) await noteComputing(books, systemId)
  const fields = {
    role: about.role,
    name,
    address,
    token_sealed: seal(token, settings.AXION_SECRET_KEY),
    about: json(about),
    disconnected_at: null,
  }
  await trx('system')
    .insert({ ...key, ...fields })
    .onConflict(['entity_id', 'system_id'])
    .merge()
  const again = there && !there.disconnected_at && there.address === address
  await audit(trx, again ? 'changed-token' : 'connected', name, {
    after: {
      role: about.role,
      address,
      company: about.company,
    },
  })
}

/** Takes a system off: what it had is kept, and nothing is asked of it any more. */
export async function disconnect(books: Books, systemId: string): Promise<void> {
  const { trx, entityId } = books
  const taken = await trx('system')
    .where({ entity_id: entityId, system_id: systemId })
    .whereNull('disconnected_at')
    .update({ disconnected_at: trx.fn.now() }, ['name'])
  if (!taken[0]) throw new Problem('AXION_NOT_FOUND', { what: 'such system' })
  await noteComputing(books, systemId)
  await audit(trx, 'disconnected', taken[0].name)
  await noteSetUp(books)
}

/** What a tax service keeps is held against its sources for as long as both are connected: where that ends, begins again, or is called otherwise, all is due. */
async function noteComputing(books: Books, systemId: string): Promise<void> {
  const { trx, entityId } = books
  const { rows } = (await trx.raw(
    'select from computes_for where entity_id = :e and (service_id = :s or source_id = :s) limit 1',
    { e: entityId, s: systemId },
  )) as { rows: object[] }
  if (rows.length > 0) await noteDue(books, 'all')
}

/** The next pull reads all of a system's set-up, and marks what is not there any more as gone. Documents and entries go on where they were. */
async function readAnew({ trx, entityId }: Books, systemId: string): Promise<void> {
  await unstage(trx, { entity_id: entityId, system_id: systemId })
  await trx('pull_cursor')
    .where({ entity_id: entityId, system_id: systemId })
    .whereNotIn('resource', [...MOVING])
    .update({ sequence: '0', whole: true })
}
