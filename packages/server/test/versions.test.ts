import { describe, expect, inject, it } from 'vitest'
import { Cluster } from '../../../scripts/lib/cluster.mjs'
import { connect, type Database } from '../src/database/connection.ts'
import { migrationSource } from '../src/database/migrations/index.ts'
import { migrate } from '../src/main/migrate.ts'

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
      const pull = { ...system, run_id: '00000000-0000-4000-8000-000000000001', counts: '[]' }
      await old<Old>('run').insert({ ...entity, run_id: pull.run_id, kind: 'pull', started_by: 'P' })
      for (let at = 0; at < 3; at++) await old<Old>('pull').insert(pull)
      await migrate(address)
      // Numbers that every entity took from one sequence go on by themselves.
      await old<Old>('pull').insert(pull)
      expect(await old<Old>('pull').orderBy('pull_id').pluck('pull_id')).toEqual(['1', '2', '3', '4'])
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
