import type { Knex } from 'knex'
import * as foundation from './001_foundation.ts'

/** Every migration in its order. A name, once released, stays. */
const MIGRATIONS: Readonly<Record<string, Knex.Migration>> = { '001_foundation': foundation }

export const migrationSource: Knex.MigrationSource<string> = {
  getMigrations: () => Promise.resolve(Object.keys(MIGRATIONS)),
  getMigrationName: (name) => name,
  getMigration: (name) => Promise.resolve(MIGRATIONS[name] as Knex.Migration),
}
