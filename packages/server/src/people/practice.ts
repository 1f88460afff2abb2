import { hashPassword } from '../access/passwords.ts'
import { inPractice, type Database } from '../database/connection.ts'
import { Problem } from '../faults/problem.ts'

/** Somebody new, who belongs to no legal entity yet. @throws AXION_ALREADY_EXISTS */
export async function addPerson(
  database: Database,
  person: { readonly email: string; readonly name: string; readonly password: string },
): Promise<string> {
  const email = person.email.toLowerCase()
  const hash = await hashPassword(person.password)
  const { rows } = await inPractice(
    database,
    async (trx) =>
      (await trx.raw('select add_person(?, ?, ?) as added', [email, person.name, hash])) as {
        rows: { added: boolean }[]
      },
  )
  if (!rows[0]?.added) throw new Problem('AXION_ALREADY_EXISTS', { what: email })
  return email
}

/** Another password, that they have to change when they sign in with it. @throws AXION_NOT_FOUND */
export async function setPassword(database: Database, of: string, password: string): Promise<string> {
  const email = of.toLowerCase()
  const hash = await hashPassword(password)
  const { rows } = await inPractice(
    database,
    async (trx) =>
      (await trx.raw('select set_password(?, ?) as found', [email, hash])) as { rows: { found: boolean }[] },
  )
  if (!rows[0]?.found) throw new Problem('AXION_NOT_FOUND', { what: `person ${email}` })
  return email
}
