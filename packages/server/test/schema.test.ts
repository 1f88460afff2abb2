import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { connect, inEntity, type Database } from '../src/database/connection.ts'
import { migrate } from '../src/database/migrate.ts'
import { makeWorld, type World } from './world.ts'

/** Tables that hold no legal entity's data. */
const SHARED = ['person', 'session', 'worker_heartbeat', 'knex_migrations', 'knex_migrations_lock']

let world: World
let owner: Database
beforeAll(async () => {
  world = await makeWorld()
  owner = connect(world.databases.owner, 1)
})
afterAll(async () => {
  await owner.destroy()
  await world.close()
})
const rows = async <T>(sql: string): Promise<T[]> => ((await owner.raw(sql)) as { rows: T[] }).rows

describe('the catalogue', () => {
  it('guards every table of an entity’s data by row-level security, forced, with a policy for the application', async () => {
    const tables = await rows<{ name: string; enabled: boolean; forced: boolean; policies: string; owner: string }>(
      `select c.relname as name, relrowsecurity as enabled, relforcerowsecurity as forced, pg_get_userbyid(relowner) as owner,
         (select count(*) from pg_policy p where p.polrelid = c.oid and 'axion_app'::regrole = any(p.polroles) and p.polcmd = '*') as policies
       from pg_class c join pg_namespace n on n.oid = relnamespace where nspname = 'public' and relkind = 'r'`,
    )
    const entity = tables.filter((t) => !SHARED.includes(t.name))
    expect(entity.length).toBeGreaterThan(25)
    expect(entity.filter((t) => !t.enabled || !t.forced || t.policies !== '1')).toEqual([])
    expect(tables.filter((t) => t.owner === 'axion_app')).toEqual([])
  })

  it('begins every key and index of an entity’s data with the entity', async () => {
    const indexes = await rows<{ name: string; first: string }>(
      `select i.indexrelid::regclass::text as name, coalesce(a.attname, '') as first from pg_index i join pg_class t on t.oid = indrelid join pg_namespace n on n.oid = t.relnamespace
       left join pg_attribute a on a.attrelid = indrelid and a.attnum = indkey[0] where nspname = 'public' and t.relname <> all(array['${SHARED.join("','")}'])`,
    )
    expect(indexes.filter((index) => index.first !== 'entity_id')).toEqual([])
    const keyless = await rows<{ relname: string }>(
      `select relname from pg_class c join pg_namespace n on n.oid = relnamespace where nspname = 'public' and relkind = 'r' and not exists (select from pg_index where indrelid = c.oid and indisprimary)`,
    )
    expect(keyless.filter((t) => !t.relname.startsWith('knex'))).toEqual([])
  })

  it('keeps foreign keys between entity tables within one entity', async () => {
    const keys = await rows<{ name: string; first: string }>(
      `select conname as name, a.attname as first from pg_constraint join pg_attribute a on a.attrelid = conrelid and a.attnum = conkey[1]
       where contype = 'f' and connamespace = 'public'::regnamespace and conrelid::regclass::text <> all(array['session'])`,
    )
    expect(keys.filter((key) => key.first !== 'entity_id' && !key.name.includes('person'))).toEqual([])
  })

  it('lets the audit trail only grow', async () => {
    const grants = await rows<{ privilege_type: string }>(`select privilege_type from information_schema.role_table_grants where grantee = 'axion_app' and table_name = 'audit_entry'`)
    expect(grants.map((g) => g.privilege_type).sort()).toEqual(['INSERT', 'SELECT'])
  })

  it('is migrated again without harm, with data in it', async () => {
    await migrate(world.databases.owner)
    expect((await world.ok<{ systems: unknown[] }>('GET', '/api/entities/larkspur/months/2026-09/connect')).systems).toHaveLength(2)
  })
})

describe('one entity at a time', () => {
  it('shows another entity nothing, and takes nothing for it', async () => {
    const { database } = world.services
    expect(await inEntity(database, 'other', (trx) => trx('system').select())).toEqual([])
    expect(await database('system').select()).toEqual([])
    const write = inEntity(database, 'other', (trx) => trx('unproved_history').insert({ entity_id: 'larkspur', period: '2026-09', currency: 'USD', unproved: 0, expected: 0 }))
    await expect(write).rejects.toMatchObject({ code: '42501' })
  })

  it('refuses two versions of one rate on one day', async () => {
    const overlap = inEntity(world.services.database, 'larkspur', (trx) =>
      trx('rate_version').insert({ entity_id: 'larkspur', object_id: 'WN', jurisdiction: 'WN', percent: '5', valid: trx.raw(`daterange('2026-01-01', null)`) }),
    )
    await expect(overlap).rejects.toMatchObject({ code: '23P01' })
  })
})
