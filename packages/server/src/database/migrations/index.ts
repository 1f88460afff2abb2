import type { Knex } from 'knex'
import * as foundation from './001_foundation.ts'
import * as variety from './002_variety.ts'
import * as people from './003_people.ts'
import * as slices from './004_slices.ts'
import * as align from './005_align.ts'
import * as records from './006_records.ts'

/** Every migration in its order. A name, once released, stays. */
const MIGRATIONS: Readonly<Record<string, Knex.Migration>> = { '001_foundation': foundation, '002_variety': variety, '003_people': people, '004_slices': slices, '005_align': align, '006_records': records }

export const migrationSource: Knex.MigrationSource<string> = {
  getMigrations: () => Promise.resolve(Object.keys(MIGRATIONS)),
  getMigrationName: (name) => name,
  getMigration: (name) => Promise.resolve(MIGRATIONS[name] as Knex.Migration),
}
