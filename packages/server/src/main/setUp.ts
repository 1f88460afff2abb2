import { z } from 'zod'
import { hashPassword } from '../access/passwords.ts'
import { connect } from '../database/connection.ts'
import { makeFirstLink } from '../people/first.ts'
import { ownersOf } from '../settings/settings.ts'
import { migrate } from './migrate.ts'

const People = z.array(
  z.object({
    email: z.email(),
    name: z.string(),
    password: z.string().min(8),
    mayCreateEntities: z.boolean(),
  }),
)

/**
 * Brings the schema of every database up to date, and adds to the directory people that are named on standard input as JSON. Runs as the owner of the schema.
 * People that exist are left as they are. Where nobody runs the practice then, it prints where, under the server's address, its first administrator begins.
 */
const owners = ownersOf(process.env)
for (const [, address] of owners) await migrate(address)
const [[, directory] = ['', '']] = owners
const database = connect(directory, 1)

let input = ''
for await (const chunk of process.stdin) input += String(chunk)
if (input.trim()) {
  for (const { email, name, password, mayCreateEntities } of People.parse(JSON.parse(input))) {
    const added = await database('person')
      .insert({
        email,
        name,
        password_hash: await hashPassword(password),
        may_create_entities: mayCreateEntities,
      })
      .onConflict('email')
      .ignore()
      .returning('person_id')
    if (added.length > 0)
      await database.raw(`select trail_write(null, 'Set-up', ?::jsonb)`, [
        JSON.stringify([{ action: 'added-person', object: email, after: { name } }]),
      ])
  }
}
// A copy that was brought back is noticed before anything is sent from it; one of whole files is told of.
for (const [, address] of owners) {
  const owner = connect(address, 1)
  await owner.raw('select note_origin(?)', [process.env['AXION_RESTORED'] === '1'])
  await owner.destroy()
}
const secret = await makeFirstLink(database)
if (secret !== null) process.stdout.write(`/first/${secret}\n`)
await database.destroy()
