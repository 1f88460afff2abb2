import type { MembersView } from '@axion/contract'
import { audit } from '../audit/audit.ts'
import { changingMembers, type Books, type Database } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'

type Member = MembersView['members'][number]

/** Takes somebody out of a legal entity, which keeps an administrator. @throws AXION_NOT_FOUND */
export async function removeMember(database: Database, entityId: string, email: string): Promise<void> {
  await changingMembers(database, entityId, (directory, books) => remove(directory, books, email))
}

async function remove(directory: Books, books: Books, email: string): Promise<void> {
  const { trx, entityId } = directory
  const members = await membersOf(directory)
  const leaving = members.find((m) => m.email === email)
  if (!leaving) throw new Problem('AXION_NOT_FOUND', { what: `person ${email}` })
  requireAnAdministrator(members.filter((m) => m !== leaving))
  await trx('membership')
    .where({ entity_id: entityId })
    .whereIn('person_id', trx('person').where({ email }).select('person_id'))
    .delete()
  await audit(books.trx, 'member', email, { before: { role: leaving.role } })
}

/** Gives somebody a role in a legal entity, which keeps an administrator. @throws AXION_NOT_FOUND */
export async function setMember(
  database: Database,
  entityId: string,
  { email, role }: { readonly email: string; readonly role: Member['role'] },
): Promise<void> {
  const person = await database('person').where({ email: email.toLowerCase() }).first('person_id')
  if (!person) throw new Problem('AXION_NOT_FOUND', { what: `person ${email}` })
  await changingMembers(database, entityId, async (directory, books) => {
    const members = await membersOf(directory)
    const before = members.find((m) => m.email === email.toLowerCase())
    requireAnAdministrator([...members.filter((m) => m !== before), { role }])
    await directory
      .trx('membership')
      .insert({ entity_id: entityId, person_id: person.person_id, role })
      .onConflict(['entity_id', 'person_id'])
      .merge()
    await audit(books.trx, 'member', email, {
      before: before ? { role: before.role } : null,
      after: { role },
    })
  })
}

export function membersOf({ trx, entityId }: Books): Promise<Member[]> {
  return trx('membership')
    .join('person', 'person.person_id', 'membership.person_id')
    .where('membership.entity_id', entityId)
    .orderBy('person.name')
    .select('person.name', 'person.email', 'membership.role')
}

/** An entity that nobody administers could never be changed again. */
function requireAnAdministrator(members: readonly { readonly role: string }[]): void {
  if (!members.some((m) => m.role === 'administrator')) throw new Problem('AXION_LAST_ADMINISTRATOR')
}
