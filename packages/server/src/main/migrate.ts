import PgBoss from 'pg-boss'
import { connect } from '../database/connection.ts'
import { migrationSource } from '../database/migrations/index.ts'
import { RUN_QUEUE, QUEUE_OPTIONS } from '../queue/queue.ts'

/** Brings the schema and the job queue's up to date, as the owner. Safe to run from several hosts: a lock lets one through. */
export async function migrate(ownerDatabase: string): Promise<void> {
  const database = connect(ownerDatabase, 2)
  try {
    await database.migrate.latest({ migrationSource })
    const boss = new PgBoss({
      connectionString: ownerDatabase,
      schema: 'pgboss',
      supervise: false,
      schedule: false,
    })
    await boss.start()
    await boss.createQueue(RUN_QUEUE, QUEUE_OPTIONS)
    await boss.stop({ graceful: false })
    await database.raw(`grant usage on schema pgboss to axion_app;
      grant select, insert, update, delete on all tables in schema pgboss to axion_app;
      grant execute on all functions in schema pgboss to axion_app`)
  } finally {
    await database.destroy()
  }
}
