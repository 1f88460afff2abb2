import {
  selectorText,
  type CauseView,
  type Evidence,
  type FullProofView,
  type GridView,
  type LastFullProof,
  type PostView,
  type RemedyPreview,
  type TieOutView,
} from '@axion/contract'
import { answers, SEED } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { changing, inOrder } from '../src/database/connection.ts'
import { provenInFull } from './inFull.ts'
import { touchedKinds } from './touched.ts'
import { bookAll, demoPair, makeReadyWorld, MONTH, type World } from './world.ts'

let world: World
beforeAll(async () => {
  world = await makeReadyWorld({ ...demoPair(), lockedThrough: '2026-06-30' })
  await bookAll(world)
})
afterAll(() => world.close())

const tieOut = (query = ''): Promise<TieOutView> => world.ok('GET', `${MONTH}/tie-out${query}`)
const kindOf = ({ facts, headline }: CauseView): string =>
  facts.kind === 'unexplained' ? headline : facts.kind
const causes = async (): Promise<Map<string, number>> =>
  new Map(
    (await tieOut()).causes.map((c) => [
      `${kindOf(c)}${c.facts.kind === 'liability-account' ? ` ${c.facts.agency}` : ''}`,
      c.documents,
    ]),
  )
const idOf = async (party: string): Promise<string[]> =>
  (
    await world.billingSql<{ id: string }>(
      `select id from object where resource = 'documents' and value->'party'->>'name' = $1 and value->>'documentDate' like '2026-09-%' order by id`,
      [party],
    )
  ).map((r) => r.id)

async function mend(kind: string, remedy: string): Promise<void> {
  const cause = (await tieOut()).causes.find((c) => kindOf(c) === kind)
  const chosen = cause?.remedies.find((r) => r.kind === remedy)
  const { revision } = await world.ok<RemedyPreview>('POST', `${MONTH}/mend/preview`, { remedy: chosen })
  expect(await world.run('/mend', { remedy: chosen, revision }), kind).toMatchObject({
    state: 'done',
    failed: 0,
  })
}

describe('a month of every kind of document', () => {
  it('holds rates with dates, reduced, per unit and on top of others, and sees that all agree but the planted ones', async () => {
    const rates = await world.ok<GridView>('GET', `${MONTH}/align/rates`)
    expect(rates.rows.filter((r) => r.cells.some((c) => c.state !== 'agrees')).map((r) => r.id)).toEqual([
      'WN-FEN',
      'WN-PLX',
      'TK-MER',
      'TK',
    ])
  })

  it('books every document, leaves drafts and the void one alone', async () => {
    const { counts } = await world.ok<PostView>('GET', `${MONTH}/post`)
    expect(counts).toEqual({ booked: answers(SEED, '2026-09').length, draft: 2, void: 1 })
  })

  it('finds each planted mistake, with all documents that it touches in one line', async () => {
    expect(Object.fromEntries(await causes())).toEqual({
      'exchange-at-one': 5,
      'liability-account City of Port Lennox': 24,
      'liability-account Merrow County Assessor': 16,
      sign: 3,
      'component-percent': 22,
      'exempted-without-certificate': 1,
      'exemption-ignored': 1,
      orphan: 1,
      'default-code': 2,
      'component-lost': 1,
      'rate-place': 1,
      'rate-date': 2,
      discount: 1,
      prices: 2,
      shipping: 1,
      rounding: 2,
      'one-agency': 1,
      'line-left-out': 1,
    })
  })

  it('has evidence that comes to what is stored, of every document', async () => {
    const units = await world.ownerSql<{ unit: string }>(
      `select named as unit from unit where document_id is not null`,
    )
    const departing: unknown[] = []
    for (const { unit } of units) {
      const open = encodeURIComponent(selectorText({ of: 'total', unit }))
      const { departures } = await world.ok<Extract<Evidence, { kind: 'chain' }>>(
        'GET',
        `${MONTH}/evidence?open=${open}`,
      )
      if (departures.length > 0) departing.push([unit, departures])
    }
    expect([units.length > 150, departing]).toEqual([true, []])
  })

  it('agrees with the full proof from detail, which sees a stored signature that does not', async () => {
    const full = (): Promise<FullProofView> => provenInFull(world)
    expect(await full()).toMatchObject({ documents: answers(SEED, '2026-09').length + 3, disagreeing: 0 })
    const spoil = (signature: string): Promise<unknown> =>
      changing(world.services.database, 'larkspur', ({ trx }) =>
        trx.raw(`update tie_unit set booked_signature = ${signature} where number = 'LA-20887'`),
      )
    await spoil(`expected_signature`)
    expect(await full()).toMatchObject({
      disagreeing: 1,
      otherwise: 0,
      named: [{ number: 'LA-20887', quick: 'agrees' }],
    })
    // What a full proof finds is proved anew with it.
    expect(await full()).toMatchObject({ disagreeing: 0, miscounted: 0 })

    const proved = await world.ownerSql<{ number: string; unit_id: string }>(
      `select number, unit_id from tie_unit u where proved and kind = 'invoice' and (select count(*) from tax_fact f where f.entity_id = u.entity_id and f.unit_id = u.unit_id) > 2 order by number`,
    )
    const spoilt = await inOrder(
      [
        ['tax_fact', 'tax', 'stated'],
        ['tax_fact', 'tax', 'expected'],
        ['tax_fact', 'tax', 'booked'],
        ['tax_fact', 'in_base', 'booked'],
        ['net_fact', 'net', 'stated'],
        ['net_fact', 'net', 'booked'],
      ] as const,
      async ([table, column, voice], at) => {
        const unit = proved[at * 7]
        await world.ownerSql(
          `update ${table} set ${column} = ${column} + 1 where place = 0 and voice = $1 and unit_id = $2`,
          [voice, unit?.unit_id],
        )
        return { number: unit?.number, quick: 'agrees' }
      },
    )
    const { disagreeing, named } = await full()
    expect([disagreeing, named]).toEqual([6, spoilt.map((one) => expect.objectContaining(one) as object)])
    expect(await full()).toMatchObject({ disagreeing: 0, miscounted: 0, otherwise: 0 })

    // What comes to the same in every sum is seen where documents are worked out anew.
    const [unit] = proved
    const of = `entity_id = 'larkspur' and unit_id = (select unit_id from unit where entity_id = 'larkspur' and number = '${unit?.number}' and proved limit 1)`
    for (const sql of [
      `update tax_fact set jurisdiction = 'Elsewhere' where place = 0 and voice = 'expected' and ${of}`,
      `update tax_fact set base = base + 1 where place = 0 and voice = 'expected' and ${of}`,
      `update unit set party = 'Somebody else' where ${of}`,
      `update unit set rests_on = '{}' where ${of}`,
      `update unit set touches = touches || 'items|HIVE-CARRIER'::text where ${of}`,
      `update determination set stated_signature = stated_signature || 'x', expected_at_stated = expected_at_stated || 'x' where ${of}`,
      `update special_line set amount = amount + 1 where (entity_id, unit_id, place) = (select entity_id, unit_id, place from special_line where entity_id = 'larkspur' and period = '2026-09' limit 1)`,
      `delete from stake_share where ctid = (select ctid from stake_share where entity_id = 'larkspur' and period = '2026-09' limit 1)`,
      `delete from net_fact where voice = 'expected' and ${of}`,
      // Whoever reads Yes reads the verdict.
      `update unit set proved = true, headline = null, facets = '{}', odd = '{}', unproved = 0, unproved_net = 0, cause = null where (entity_id, unit_id) = (select entity_id, unit_id from tie_unit where entity_id = 'larkspur' and period = '2026-09' and not proved and headline <> 'missing' limit 1)`,
      `update unit set unproved = unproved + 1 where (entity_id, unit_id) = (select entity_id, unit_id from tie_unit where entity_id = 'larkspur' and period = '2026-09' and not proved and settled is null limit 1)`,
      `insert into unit (entity_id, unit_id, posted, period, system_id, document_id, kind, number, party, document_date, currency, bookings, edited, voided, flaws, members_agree, expected_complete, rests_on, determined_at, core_version)
       select 'larkspur', 999999, false, '2026-09', 'billing', 'nowhere', 'invoice', 'N-1', '', '2026-09-01', 'USD', 0, false, false, '[]', true, true, '{}', now(), max(core_version) from unit`,
    ]) {
      await world.ownerSql(sql)
      const seen = await full()
      expect([sql, seen.disagreeing + seen.otherwise, seen.miscounted <= 1]).toEqual([sql, 1, true])
      expect([sql, await full()]).toMatchObject([sql, { disagreeing: 0, otherwise: 0, miscounted: 0 }])
    }

    // What pages show is kept beside its parts: what stands otherwise is seen, and counted anew.
    const first = (table: string, key: string, which = ''): string =>
      `entity_id = 'larkspur' and ${key} = (select ${key} from ${table} where entity_id = 'larkspur' and period = '2026-09' ${which} limit 1)`
    for (const sql of [
      `update tie_total set booked = booked + 1 where period = '2026-09' and ${first('tie_total', '(agency, account)', 'and members > 0').replace('select (agency, account)', 'select agency, account')}`,
      // What is summed of a unit is seen at the unit, and at the line of Post that follows it.
      `update unit set stated = stated + 1 where ${first('unit', 'unit_id', 'and posted and document_id is not null')}`,
      `update unit set stated_net = stated_net + 1 where ${first('unit', 'unit_id', 'and posted and document_id is not null')}`,
      `update unit_sum set unproved = unproved + 1 where ${first('unit_sum', 'kind')} and period = '2026-09' and posted and proved`,
      `delete from unit_sum where ${first('unit_sum', 'ctid', 'and posted')}`,
      `update touch_sum set documents = documents + 1 where ${first('touch_sum', 'touch')} and period = '2026-09'`,
      `update post_line set booking = 'failed' where ${first('post_line', 'document_id')}`,
      `delete from post_line where ${first('post_line', 'document_id')}`,
      `insert into post_sum (entity_id, period, state, warned, documents, tax, tax_size) values ('larkspur', '2026-09', 'booked', false, 1, 0, 0)`,
      // Of a state in which nothing stands.
      `insert into post_sum (entity_id, period, state, warned, documents, tax, tax_size) values ('larkspur', '2026-09', 'blocked', false, 0, 7, 7)`,
    ]) {
      await world.ownerSql(sql)
      const seen = await full()
      expect([sql, seen.disagreeing, seen.miscounted]).toEqual([sql, 0, 1])
      expect([sql, (await full()).miscounted]).toEqual([sql, 0])
    }
  })

  it('says of each row of the grids how many documents touch it', async () => {
    expect(await touchedKinds(world)).toEqual(['parties', 'rates', 'items', 'codes'])
  })

  it('tells what a full proof found and mended before another worker took it over', async () => {
    const run = await world.begin('/full-proof')
    const named = [{ unit: 'billing/x', number: 'LA-0', quick: 'otherwise' }]
    await world.ownerSql(`update run set report = $1 where run_id = $2`, [
      JSON.stringify({ found: { disagreeing: 0, otherwise: 1, miscounted: 2, named } }),
      run,
    ])
    await world.finish(run)
    const { last } = await world.ok<LastFullProof>('GET', `${MONTH}/full-proof`)
    expect(last).toMatchObject({ stands: true, full: { otherwise: 1, miscounted: 2, named } })
  })

  it('is mended cause by cause: in the ledger, at the source, by booking again, by a correcting entry', async () => {
    await world.desk('ledger', 'settings', {
      keepsDocumentNumbers: 'yes',
      lockedThrough: '2026-06-30',
      taxComputation: 'by-rate',
      exchange: 'as-stated',
      credits: 'as-credits',
      inside: 'taken-out',
      mostLines: 'all',
    })
    await world.desk('ledger', 'rounding', { id: 'tax_TK', rounds: 'document' })
    await world.desk('ledger', 'entries', { id: '47990', action: 'void' })
    const [sandbox] = await idOf('Harbour Row Cooperative')
    await world.desk('billing', 'rate', { id: sandbox ?? '', rate: 'rate_WN-PLX' })
    for (const [party, rate] of [
      ['Gorse Hill Grange', 'rate_WN-HOL'],
      ['Old Mill Preserves', 'rate_WN'],
      ['Whinfell Nursery', 'rate_WN-HOL'],
    ] as const)
      await world.desk('billing', 'rate', { id: (await idOf(party))[0] ?? '', rate })
    for (const id of await idOf('Larder & Loft'))
      await world.desk('billing', 'line', { id, line: '1', rate: '' })
    await world.desk('billing', 'line', {
      id: (await idOf('Ostler Nurseries'))[0] ?? '',
      line: '1',
      rate: 'rate_WN',
    })
    const exempted = await world.billingSql<{ id: string }>(
      `select id from object where resource = 'documents' and value->'party'->>'id' = 'cus_thistledown' and jsonb_array_length(value->'taxes') > 0`,
    )
    await world.desk('billing', 'line', { id: exempted[0]?.id ?? '', line: '1', rate: '' })
    const [shipped] = await world.billingSql<{ id: string }>(
      `select id from object where resource = 'documents' and value->'party'->>'name' = 'Reedmace Farm Stores' and jsonb_array_length(value->'lines') = 3`,
    )
    await world.desk('billing', 'line', { id: shipped?.id ?? '', line: '3', rate: '' })
    await world.run('/pulls', { systemIds: null })
    expect((await world.ok<PostView>('GET', `${MONTH}/post`)).counts).toMatchObject({ changed: 9 })
    await world.run('/post/runs', { states: ['changed'] })
    for (const kind of ['exchange-at-one', 'sign', 'prices', 'rounding', 'line-left-out'])
      await mend(kind, 'book-again')
    await mend('rate-date', 'correct')
    await mend('component-percent', 'component-percent')
    for (let left = 2; left > 0; left--) await mend('liability-account', 'liability-account')
    expect(await tieOut()).toMatchObject({ unproved: '0.00', unprovedNet: '0.00', documents: 0, causes: [] })
  })

  it('then holds in the ledger’s own database just what the generator’s key says', async () => {
    const rows = await world.ledgerSql<{
      external_id: string
      agency: string | null
      number: string
      amount: string
      currency: string
    }>(
      `select e.value->>'externalId' as external_id, l->>'agencyId' as agency, a.value->>'number' as number, sum((l->>'credit')::numeric - (l->>'debit')::numeric)::text as amount, e.value->>'currency' as currency
       from object e cross join jsonb_array_elements(e.value->'lines') l join object a on a.resource = 'accounts' and a.id = l->>'accountId'
       where e.resource = 'journal-entries' and not e.removed and e.value->>'voided' = 'false' group by 1, 2, 3, 5`,
    )
    const numbers = new Map(
      (
        await world.billingSql<{ id: string; number: string }>(
          `select id, value->>'number' as number from object where resource = 'documents'`,
        )
      ).map((r) => [r.id, r.number]),
    )
    const units = (text: string): bigint => BigInt(text.replace('.', ''))
    for (const answer of answers(SEED, '2026-09')) {
      const own = rows.filter((r) => numbers.get(r.external_id.split('/')[2] ?? '') === answer.number)
      const tax = new Map<string, bigint>()
      for (const row of own.filter((r) => r.agency !== null))
        tax.set((row.agency ?? '').slice(7), (tax.get((row.agency ?? '').slice(7)) ?? 0n) + units(row.amount))
      expect(new Map([...tax].filter(([, amount]) => amount !== 0n).sort()), answer.number).toEqual(
        new Map([...answer.tax].filter(([, amount]) => amount !== 0n).sort()),
      )
      expect(
        own
          .filter((r) => r.agency === null && ['4000', '4100'].includes(r.number))
          .reduce((sum, r) => sum + units(r.amount), 0n),
        answer.number,
      ).toBe(answer.net)
    }
  })

  it('works a correction out anew, and replaces it, when its document changes', async () => {
    const [id] = await idOf('Bracken Commons')
    const corrected =
      (
        await world.billingSql<{ id: string }>(
          `select id from object where resource = 'documents' and value->'party'->>'name' = 'Bracken Commons' and value->>'supplyDate' = '2026-09-13' order by id limit 1`,
        )
      )[0]?.id ??
      id ??
      ''
    await world.desk('billing', 'invoices', { id: corrected, amount: '300.00' })
    await world.run('/pulls', { systemIds: null })
    await world.run('/post/runs', { states: ['changed'] })
    await world.run('/pulls', { systemIds: null })
    const [cause] = (await tieOut()).causes
    expect(cause?.documents).toBe(1)
    await mend(kindOf(cause as CauseView), 'correct')
    expect(await tieOut()).toMatchObject({ unproved: '0.00', documents: 0 })
  })
})
