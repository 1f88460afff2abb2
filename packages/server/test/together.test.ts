import type { PostView, TieOutView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { changing, inEntity } from '../src/database/connection.ts'
import { prove } from '../src/proof/prove.ts'
import { perform } from '../src/runs/perform.ts'
import { makeReadyWorld, MONTH, plainLedger, type World } from './world.ts'

/** Many at once: no statement of one entity's work waits for another's, locks are taken in one order, and twice at once is once. */
let world: World
beforeAll(async () => {
  // How long somebody waits for others is tried elsewhere: here a slow machine has its time.
  world = await makeReadyWorld({ ledger: plainLedger(), patience: 600 })
})
afterAll(() => world.close())

/** More than the proof takes for many, so that it does what it does for the planner's sake. */
const COPIES = 2100
const copied = (entity: string): Promise<object[]> =>
  world.ownerSql(
    `insert into document (entity_id, system_id, document_id, revision, number, kind, status, credits_document, document_date, trading_day, period, currency, party, posted, value)
     select $1, 'billing', 'copy-' || n, '1', 'C-' || n, kind, status, null, document_date, document_date, '2026-09', currency, party, true, value
     from generate_series(1, ${COPIES}) n, (select * from document where entity_id = 'larkspur' and period = '2026-09' and kind = 'invoice' and status <> 'void' order by document_id limit 1) one`,
    [entity],
  )

describe('two large entities', () => {
  it('are proved at once: one ends while the other’s transaction still holds all that it wrote', async () => {
    await world.as('administrator', 'POST', '/api/entities', {
      id: 'twin',
      name: 'Twin',
      country: 'XA',
      currency: 'USD',
      timeZone: 'America/Chicago',
      locale: 'en-US',
    })
    await world.ownerSql(
      `insert into system (entity_id, system_id, role, name, address, token_sealed, about, settings) select 'twin', system_id, role, name, address, token_sealed, about, settings from system where entity_id = 'larkspur'`,
    )
    for (const entity of ['twin', 'larkspur']) await copied(entity)
    const { database } = world.services
    const units = (entity: string): Promise<number> =>
      inEntity(database, entity, async ({ trx }) => {
        const [row] = (await trx('tie_unit')
          .where({ entity_id: entity })
          .whereLike('document_id', 'copy-%')
          .count('* as n')) as [{ n: string }]
        return Number(row.n)
      })
    const order: string[] = []
    await changing(database, 'larkspur', async (books) => {
      await prove(books, '2026-09')
      await changing(database, 'twin', (books) => prove(books, '2026-09'))
      order.push(`twin has ${await units('twin')}`, `larkspur has ${await units('larkspur')}`)
    })
    order.push(`larkspur has ${await units('larkspur')}`)
    expect(order).toEqual([`twin has ${COPIES}`, 'larkspur has 0', `larkspur has ${COPIES}`])
  })

  it('have the planner told of their size, once all is done', async () => {
    const [row] = await world.ownerSql<{ n: number }>(
      `select reltuples::int as n from pg_class where relname = 'unit'`,
    )
    expect(row?.n).toBeGreaterThanOrEqual(2 * COPIES)
    await world.ownerSql(`delete from document where document_id like 'copy-%'`)
    await world.run('/pulls', { systemIds: null })
  })
})

describe('at once', () => {
  it('linking, certificates, pulls, posts, proofs and reading give no deadlock and no 500', async () => {
    const link = {
      systemId: 'ledger',
      kind: 'agency',
      objectId: 'agency_HCT',
      baselineId: 'HCT',
    }
    const [party] = await world.ownerSql<{ object_id: string }>(
      `select object_id from party where entity_id = 'larkspur' and upper_inf(recorded) order by 1 limit 1`,
    )
    const { rows } = await world.ok<PostView>('GET', `${MONTH}/post`)
    const acts: (() => Promise<{ statusCode: number; body: string }>)[] = [
      () => world.as('preparer', 'PUT', `${MONTH}/links`, link),
      () =>
        world.as('preparer', 'PUT', `${MONTH}/certificates/${party?.object_id ?? ''}`, {
          number: 'C-1',
          reason: 'resale',
          regions: ['WN'],
          from: '2026-01-01',
          to: null,
        }),
      () => world.as('preparer', 'POST', `${MONTH}/pulls`, { systemIds: null }),
      () => world.as('preparer', 'POST', `${MONTH}/post/rehearsal`, {}),
      () =>
        world.as('preparer', 'POST', `${MONTH}/post/runs`, {
          units: rows.slice(0, 5).map(({ unit }) => unit),
        }),
      () => world.as('preparer', 'POST', `${MONTH}/full-proof`, {}),
      () => world.as('viewer', 'GET', `${MONTH}/align/rates`),
      () => world.as('viewer', 'GET', `${MONTH}/align/agencies`),
      () => world.as('viewer', 'GET', `${MONTH}/tie-out`),
      () =>
        world.as('administrator', 'PUT', '/api/entities/larkspur/members', {
          email: 'stranger@example.org',
          role: 'viewer',
        }),
    ]
    const answers: { statusCode: number; body: string }[] = []
    for (let round = 0; round < 3; round++) {
      const runs = await world.ownerSql<{ run_id: string }>(
        `select run_id from run where state in ('queued', 'running')`,
      )
      answers.push(
        ...(
          await Promise.all([
            ...acts.flatMap((act) => [act(), act()]),
            ...runs.map(({ run_id: runId }) =>
              perform(world.services, { entityId: 'larkspur', runId }).then(() => []),
            ),
          ])
        ).flat(),
      )
    }
    expect(answers.filter(({ statusCode }) => statusCode >= 500).map(({ body }) => body)).toEqual([])
    const refused = answers.filter(({ statusCode }) => ![200, 409, 422].includes(statusCode))
    expect(refused.map(({ body }) => body)).toEqual([])
    const [found] = await world.ownerSql<{ deadlocks: string }>(
      `select deadlocks::text from pg_stat_database where datname = current_database()`,
    )
    expect(found).toEqual({ deadlocks: '0' })
  })

  it('the same pull twice is one, and the second is told by whom', async () => {
    for (const { run_id: run } of await world.ownerSql<{ run_id: string }>(
      `select run_id from run where state in ('queued', 'running')`,
    ))
      await world.finish(run)
    const both = await Promise.all(
      [1, 2].map(() => world.as('preparer', 'POST', `${MONTH}/pulls`, { systemIds: null })),
    )
    const [started, told] = both.sort((a, b) => a.statusCode - b.statusCode)
    expect([started?.statusCode, told?.statusCode, told?.json()]).toEqual([
      200,
      409,
      expect.objectContaining({
        code: 'AXION_UNDER_WAY',
        title: 'preparer started the same already, and it is under way.',
      }),
    ])
    const { run } = started?.json<{ run: string }>() as { run: string }
    expect((await world.finish(run)).state).toBe('done')
    expect((await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)).documents).toBeGreaterThan(0)
  })
})
