import { connect } from '../database/connection.ts'
import { migrationSource } from '../database/migrations/index.ts'

/** Brings the schema up to date, as the owner. Safe to run from several hosts: a lock lets one through. */
export async function migrate(ownerDatabase: string): Promise<void> {
  const database = connect(ownerDatabase, 2)
  try {
    await database.migrate.latest({ migrationSource })
  } finally {
    await database.destroy()
  }
}
