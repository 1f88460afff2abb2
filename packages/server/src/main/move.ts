import pg from 'pg'
import { moveBooks } from '../database/moving.ts'
import { ownersOf } from '../settings/settings.ts'

/** Moves the books of a legal entity to another database of the installation, as the owner of its schemas: what is moved, and where to. */
const [entityId, to] = process.argv.slice(2)
const owners = new Map<string, pg.Client>()
try {
  if (!entityId || !to) throw new Error('say which legal entity, and which database: larkspur north')
  for (const [name, connectionString] of ownersOf(process.env)) {
    const client = new pg.Client({ connectionString })
    await client.connect()
    owners.set(name, client)
  }
  await moveBooks(owners, { entityId, to, say: (line) => process.stdout.write(`axion: ${line}\n`) })
} catch (error) {
  process.stderr.write(`axion: ${(error as Error).message}\n`)
  process.exitCode = 1
} finally {
  for (const client of owners.values()) await client.end()
}
