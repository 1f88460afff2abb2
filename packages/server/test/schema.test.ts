import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { changing, connect, type Database } from '../src/database/connection.ts'
import { migrate } from '../src/main/migrate.ts'
import { rowTypes } from './rowTypes.ts'
import { namesInSql } from './sqlNames.ts'
import { makeWorld, type World } from './world.ts'

/** Tables that hold no legal entity's data. */
const SHARED = [
  'person',
  'session',
  'practice_entry',
  'chain_head',
  'worker_heartbeat',
  'first_link',
  'origin',
  'knex_migrations',
  'knex_migrations_lock',
]

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
    const tables = await rows<{
      name: string
      enabled: boolean
      forced: boolean
      policies: string
      owner: string
    }>(
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

  it('has no index of an expression: row-level security lets nobody look rows up by one', async () => {
    const indexes = await rows<{ name: string; of: string }>(
      `select i.indexrelid::regclass::text as name, pg_get_expr(indexprs, indrelid) as of from pg_index i join pg_class t on t.oid = indrelid
       where t.relnamespace = 'public'::regnamespace and t.relrowsecurity and indexprs is not null order by 1`,
    )
    expect(indexes).toEqual([])
  })

  it('keeps foreign keys between entity tables within one entity', async () => {
    const keys = await rows<{ name: string; first: string }>(
      `select conname as name, a.attname as first from pg_constraint join pg_attribute a on a.attrelid = conrelid and a.attnum = conkey[1]
       where contype = 'f' and connamespace = 'public'::regnamespace and conrelid::regclass::text <> all(array['session'])`,
    )
    expect(keys.filter((key) => key.first !== 'entity_id' && !key.name.includes('person'))).toEqual([])
  })

  it('has a foreign key on every table of an entity’s data, but for determinations and facts, which a proof alone writes together with their units, and which go with them', async () => {
    const without = await rows<{ name: string }>(
      `select relname as name from pg_class c join pg_namespace n on n.oid = relnamespace where nspname = 'public' and relkind = 'r' and relname <> all(array['${SHARED.join("','")}'])
         and relname <> 'legal_entity' and not exists (select from pg_constraint where conrelid = c.oid and contype = 'f') order by 1`,
    )
    expect(without.map((t) => t.name)).toEqual([
      'determination',
      'net_fact',
      'special_line',
      'stake_share',
      'tax_fact',
      'unproved_share',
    ])
    await world.run('/pulls', { systemIds: null })
    const facts = (): Promise<{ n: number }[]> =>
      rows(`select count(*)::int as n from tax_fact union all select count(*)::int from net_fact`)
    expect((await facts()).every(({ n }) => n > 0)).toBe(true)
    await rows(`delete from unit`)
    expect(await facts()).toEqual([{ n: 0 }, { n: 0 }])
  })

  it('shares no sequence between entities, and reads across them only in what says whose work is due, and in functions of the practice', async () => {
    expect(
      await rows(
        `select sequencename as name from pg_sequences where schemaname = 'public' and sequencename not like 'knex%'`,
      ),
    ).toEqual([])
    // A view that is read with its owner's rights, and not the reader's, sees every entity.
    const across = await rows<{ name: string }>(
      `select relname as name from pg_class where relnamespace = 'public'::regnamespace and relkind = 'v' and not coalesce('security_invoker=true' = any(reloptions) or 'security_invoker=on' = any(reloptions), false) order by 1`,
    )
    expect(across.map(({ name }) => name)).toEqual([
      'entity_home',
      // Counts alone.
      'post_metric',
      'pull_due',
      'run_metric',
      ...['run_unfinished', 'trail_end'],
    ])
    const trusted = await rows<{ name: string }>(
      `select proname as name from pg_proc where pronamespace = 'public'::regnamespace and prosecdef order by 1`,
    )
    expect(trusted.map(({ name }) => name)).toEqual([
      ...['acting_person', 'add_person'],
      // Who begins where nobody runs the practice.
      'begin_practice',
      ...['change_password', 'end_session'],
      'first_link_waits',
      // It writes rows of one entity, that which is founded.
      'found_entity',
      // Words in the entity that is open, by an index that row-level security keeps from everybody else.
      'found_like',
      // People of the directory, to a database beside it.
      'introduce',
      // A row's own past.
      'keep_past',
      'keys_of',
      // What the planner knows of whole tables: no row is given.
      ...['learn_align', 'learn_facts', 'learn_grown', 'learn_sizes'],
      ...['let_in', 'must_run_the_practice'],
      // Lines of the entity that is open.
      // Whether the database was brought back from a copy: then no entity in it knows what was sent.
      'note_origin',
      'note_trail',
      ...['practice_line', 'set_password', 'trail_write', 'turned_away'],
    ])
  })

  it('has just the columns that the query builder knows', async () => {
    await expect(await rowTypes(owner)).toMatchFileSnapshot('../src/database/rows.d.ts')
  })

  it('has whatever name of more than one word a statement speaks of, but for those that it gives itself', async () => {
    const known = await rows<{ name: string }>(
      `select attname as name from pg_attribute union select relname from pg_class union select proname from pg_proc union select typname from pg_type union select name from pg_settings union select rolname from pg_roles union select 'information_schema' union select 'axion_session'`,
    )
    const names = new Set(known.map(({ name }) => name))
    expect(
      [...namesInSql()]
        .filter(([name]) => !names.has(name))
        .map(([name, files]) => `${name}: ${[...new Set(files)].join(', ')}`),
    ).toEqual([])
  })

  it('lets the application write no line of the trail itself', async () => {
    const grants = await rows<{ privilege_type: string }>(
      `select privilege_type from information_schema.role_table_grants where grantee = 'axion_app' and table_name = 'audit_entry'`,
    )
    expect(grants.map((g) => g.privilege_type).sort()).toEqual(['SELECT'])
  })

  it('is migrated again without harm, with data in it', async () => {
    await migrate(world.databases.owner)
    expect(
      (await world.ok<{ systems: unknown[] }>('GET', '/api/entities/larkspur/months/2026-09/connect'))
        .systems,
    ).toHaveLength(2)
  })
})

describe('one entity at a time', () => {
  it('opens no books of an entity that there is not', async () => {
    await expect(
      changing(world.services.database, 'nobody', () => Promise.resolve('opened')),
    ).rejects.toThrow('there is no legal entity "nobody"')
  })

  it('shows another entity nothing, and takes nothing for it', async () => {
    const { database } = world.services
    const founded = await world.as('administrator', 'POST', '/api/entities', {
      id: 'other',
      name: 'Another',
      country: 'ZZ',
      currency: 'USD',
      timeZone: 'UTC',
      locale: 'en-US',
    })
    expect(founded.statusCode).toBe(200)
    expect(await changing(database, 'other', ({ trx }) => trx('system').select())).toEqual([])
    expect(await database('system').select()).toEqual([])
    const write = changing(database, 'other', ({ trx }) =>
      trx('unproved_history').insert({
        entity_id: 'larkspur',
        period: '2026-09',
        currency: 'USD',
        unproved: '0',
        expected: '0',
      }),
    )
    await expect(write).rejects.toMatchObject({ code: '42501' })
  })

  it('refuses two versions of one rate on one day', async () => {
    const overlap = changing(world.services.database, 'larkspur', ({ trx }) =>
      trx('rate_version').insert({
        entity_id: 'larkspur',
        object_id: 'WN',
        jurisdiction: 'WN',
        percent: '5',
        valid: trx.raw(`daterange('2026-01-01', null)`),
      }),
    )
    await expect(overlap).rejects.toMatchObject({ code: '23P01' })
  })
})
