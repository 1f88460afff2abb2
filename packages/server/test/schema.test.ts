import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { Cluster } from '../../../scripts/lib/cluster.mjs'
import { changing, connect, type Database } from '../src/database/connection.ts'
import { migrationSource } from '../src/database/migrations/index.ts'
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
  'knex_migrations',
  'knex_migrations_lock',
]

/** A row of a schema that was: of columns that nobody knows any more. */
type Old = Record<string, unknown>

/** The migrations up to one. */
const onlyThe = (last: string): typeof migrationSource => ({
  ...migrationSource,
  getMigrations: async (extensions) =>
    (await migrationSource.getMigrations(extensions)).filter((name) => name <= last),
})

/** A legal entity with one system, as every version of the schema has them. */
async function founded(old: Database, systemId: string, role: string): Promise<void> {
  await old<Old>('legal_entity').insert({
    entity_id: 'old',
    name: 'Old',
    country: 'XA',
    base_currency: 'USD',
    time_zone: 'UTC',
    locale: 'en',
  })
  await old<Old>('system').insert({
    entity_id: 'old',
    system_id: systemId,
    role,
    name: systemId,
    address: 'http://127.0.0.1:1',
    token_sealed: Buffer.from('x'),
    about: '{}',
  })
}

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
    expect(across.map(({ name }) => name)).toEqual(['entity_home', 'pull_due', 'run_unfinished', 'trail_end'])
    const trusted = await rows<{ name: string }>(
      `select proname as name from pg_proc where pronamespace = 'public'::regnamespace and prosecdef order by 1`,
    )
    expect(trusted.map(({ name }) => name)).toEqual([
      ...['acting_person', 'add_person', 'change_password', 'end_session'],
      // It writes rows of one entity, that which is founded.
      'found_entity',
      // People of the directory, to a database beside it.
      'introduce',
      // A row's own past.
      'keep_past',
      'keys_of',
      // What the planner knows of whole tables: no row is given.
      ...['learn_align', 'learn_facts', 'learn_grown', 'learn_sizes'],
      ...['let_in', 'must_run_the_practice'],
      // Lines of the entity that is open.
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

describe('a schema of the version before, with data in it', () => {
  it('comes up with everything that was there, in the base currency, and is worked out anew', async () => {
    const cluster = await new Cluster(inject('clusterHome')).start()
    const { owner: address } = cluster.prepare(`old_${process.pid}`, [])
    const old = connect(address, 1)
    try {
      await old.migrate.latest({ migrationSource: onlyThe('001_foundation') })
      const [entity, system] = [{ entity_id: 'old' }, { entity_id: 'old', system_id: 's' }]
      await founded(old, 's', 'billing')
      await old<Old>('source_document').insert({
        ...system,
        document_id: 'd',
        revision: '1',
        number: 'N-1',
        status: 'open',
        document_date: '2026-09-01',
        period: '2026-09',
        currency: 'USD',
        party: 'P',
        value: '{}',
      })
      await old<Old>('booking').insert({
        ...system,
        external_id: 'old/s/d/invoice',
        document_id: 'd',
        number: 'N-1',
        period: '2026-09',
        currency: 'USD',
        state: 'booked',
        source_revision: '1',
        tax: 7,
        total: 107,
      })
      await old<Old>('tie_unit').insert({
        ...system,
        unit_id: 'doc:s:d',
        period: '2026-09',
        document_id: 'd',
        number: 'N-1',
        party: 'P',
        document_date: '2026-09-01',
        currency: 'USD',
        expected_complete: true,
        bookings: 1,
        edited: false,
        voided: false,
      })
      await old<Old>('tax_fact').insert({
        ...entity,
        unit_id: 'doc:s:d',
        voice: 'stated',
        place: 0,
        currency: 'USD',
        period: '2026-09',
        tax: 7,
      })
      await old<Old>('audit_entry').insert({ ...entity, person: 'P', action: 'posted', object: 'N-1' })
      await migrate(address)
      expect(await old<Old>('booking').first('kind', 'action', 'state', 'tax')).toEqual({
        kind: 'invoice',
        action: 'book',
        state: 'booked',
        tax: '7',
      })
      expect(await old<Old>('source_document').first('kind', 'number')).toEqual({
        kind: 'invoice',
        number: 'N-1',
      })
      expect(await old<Old>('tax_fact').first('tax', 'in_base')).toEqual({ tax: '7', in_base: '7' })
      expect(await old<Old>('audit_entry').first('object', 'from_address')).toEqual({
        object: 'N-1',
        from_address: null,
      })
    } finally {
      await old.destroy()
    }
  })
})

describe('receipts of the version before they were documents', () => {
  it('become documents and units with their stakes and lines, and go back as they were', async () => {
    const cluster = await new Cluster(inject('clusterHome')).start()
    const { owner: address } = cluster.prepare(`records_${process.pid}`, [])
    const old = connect(address, 1)
    try {
      await old.migrate.latest({ migrationSource: onlyThe('027_clocks') })
      const [entity, system] = [{ entity_id: 'old' }, { entity_id: 'old', system_id: 'pos' }]
      await founded(old, 'pos', 'pos')
      const record = (id: string, removed: boolean, kind = 'receipt', resource = 'documents'): Old => ({
        ...system,
        resource,
        record_id: id,
        revision: '1',
        number: id,
        kind,
        day: '2026-09-02',
        trading_day: '2026-09-01',
        period: '2026-09',
        currency: 'USD',
        removed,
        value: { status: 'paid', party: { name: 'Walk-in' }, creditsDocumentId: null },
      })
      await old<Old>('held_record').insert([
        record('r1', false),
        record('r2', true),
        record('p1', false, 'payout', 'settlements'),
      ])
      const unit = { ...entity, unit_id: 'rec:pos:r1', period: '2026-09' }
      await old<Old>('record_unit').insert({
        ...system,
        ...unit,
        record_id: 'r1',
        revision: '1',
        number: 'r1',
        party: 'Walk-in',
        document_date: '2026-09-02',
        kind: 'receipt',
        currency: 'USD',
        combined_rates: [],
        stated: 7,
        expected: 7,
        complete: true,
        agrees: true,
      })
      await old<Old>('record_stake').insert({ ...unit, finding_key: 'k', currency: 'USD', amount: 3 })
      await old<Old>('special_line').insert({
        ...system,
        period: '2026-09',
        record_unit: 'rec:pos:r1',
        place: 0,
        what: 'no-item',
        wording: 'x',
        region: 'XA',
        amount: 1,
        taxed: 'none',
        open: true,
        rules: [],
      })
      const there = async (): Promise<object[]> => [
        await old<Old>('document').orderBy('document_id').select('document_id', 'status', 'posted', 'party'),
        await old<Old>('unit').select('unit_id', 'document_id', 'posted', 'differs', 'taken'),
        await old<Old>('stake_share').select('unit_id', 'amount'),
        await old<Old>('special_line').select('unit_id'),
        await old<Old>('held_record').select('record_id'),
        await old<Old>('source_document').select('document_id'),
        await old<Old>('tie_unit').select('unit_id'),
      ]
      await old.migrate.latest({ migrationSource: onlyThe('028_documents') })
      const after = await there()
      expect(after).toEqual([
        [
          { document_id: 'r1', status: 'paid', posted: false, party: 'Walk-in' },
          { document_id: 'r2', status: 'void', posted: false, party: 'Walk-in' },
        ],
        [{ unit_id: 'doc:pos:r1', document_id: 'r1', posted: false, differs: false, taken: true }],
        [{ unit_id: 'doc:pos:r1', amount: '3' }],
        [{ unit_id: 'doc:pos:r1' }],
        [{ record_id: 'p1' }],
        [],
        [],
      ])
      await old.migrate.rollback({ migrationSource })
      expect(
        await old<Old>('held_record').orderBy('record_id').select('record_id', 'resource', 'removed'),
      ).toEqual([
        { record_id: 'p1', resource: 'settlements', removed: false },
        { record_id: 'r1', resource: 'documents', removed: false },
        { record_id: 'r2', resource: 'documents', removed: true },
      ])
      // What units come to is worked out anew with the next pull, there as here.
      await old.migrate.latest({ migrationSource: onlyThe('028_documents') })
      expect((await there())[0]).toEqual(after[0])
      for (const own of [
        { unit_id: 'entry:pos:e:1', kind: 'entry', document_id: null, booked_signature: 'b' },
        { unit_id: 'doc:pos:r1', kind: 'receipt', document_id: 'r1', stated_signature: 'a' },
      ])
        await old<Old>('unit').insert({
          ...system,
          period: '2026-09',
          number: 'N',
          party: '',
          document_date: '2026-09-02',
          currency: 'USD',
          expected_complete: true,
          bookings: 1,
          edited: false,
          voided: false,
          posted: true,
          ...own,
        })
      await old<Old>('stake_share').insert({
        ...unit,
        unit_id: 'doc:pos:r1',
        finding_key: 'k',
        currency: 'USD',
        amount: 3,
      })
      await old<Old>('work_tick').insert({
        ...entity,
        unit_id: 'entry:pos:e:1',
        cause: 'orphan',
        person: 'P',
      })
      const numbered = async (): Promise<object[]> => [
        await old<Old>('unit').orderBy('unit_id').select('*'),
        await old<Old>('stake_share').select('*'),
        await old<Old>('work_tick').select('*'),
      ]
      const before = await numbered()
      await old.migrate.latest({ migrationSource })
      expect([
        await old<Old>('unit').orderBy('named').select('unit_id', 'named', 'members_agree', 'differs'),
        await old<Old>('stake_share').select('unit_id'),
        await old<Old>('determination').select('document_id', 'unit_id', 'stated_signature'),
        await old<Old>('work_tick').select('named'),
      ]).toEqual([
        [
          { unit_id: '2', named: 'pos/e:1', members_agree: true, differs: true },
          { unit_id: '1', named: 'pos/r1', members_agree: false, differs: true },
        ],
        [{ unit_id: '1' }],
        [{ document_id: 'r1', unit_id: '1', stated_signature: 'a' }],
        [{ named: 'pos/e:1' }],
      ])
      await old.migrate.rollback({ migrationSource })
      expect(await numbered()).toEqual(before)
    } finally {
      await old.destroy()
    }
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
