import type {
  CloseView,
  ConnectView,
  Evidence,
  GridView,
  PostView,
  RemedyPreview,
  Selector,
  TieOutSums,
  TieOutView,
} from '@axion/contract'
import { selectorText } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { makeWorld, MONTH, plainBilling, timesBooked, type World } from './world.ts'

let world: World
beforeAll(async () => void (world = await makeWorld({ billing: plainBilling(4711) })))
afterAll(() => world.close())

const cents = (text: string): bigint => BigInt(text.replace('.', ''))
const open = (selector: Selector): Promise<Evidence> =>
  world.ok('GET', `${MONTH}/evidence?open=${encodeURIComponent(selectorText(selector))}`)
const tieOut = (query = ''): Promise<TieOutView> => world.ok('GET', `${MONTH}/tie-out${query}`)

/** Opens an amount down to its chains, and sees that every level sums to it exactly. */
async function expectExact(selector: Selector, amount: string): Promise<void> {
  const evidence = await open(selector)
  expect(evidence.amount).toBe(amount)
  if (evidence.kind === 'chain')
    return void expect([evidence.departures, ...evidence.chain.map((link) => link.role)]).toEqual([
      [],
      'source',
      'determination',
      'booking',
      'ledger',
      'account',
    ])
  expect(evidence.members.reduce((sum, m) => sum + cents(m.amount), 0n)).toBe(cents(amount))
  const [first] = evidence.members
  if (first?.open) await expectExact(first.open, first.amount)
}

describe('a month from pull to proof', () => {
  it('fails one readiness check that holds posting up, and passes once it is mended', async () => {
    const pulled = await world.run('/pulls', { systemIds: null })
    expect(pulled.pulled.flatMap((p) => p.counts).find((c) => c.resource === 'documents')?.added).toBe(144)
    const failing = async (): Promise<string[]> =>
      (await world.ok<ConnectView>('GET', `${MONTH}/connect`)).systems
        .flatMap((s) => s.checks)
        .filter((c) => c.state !== 'passes' && c.blocks)
        .map((c) => c.code)
    expect(await failing()).toEqual(['keeps-numbers'])
    await world.run('/post/rehearsal')
    expect(
      (await world.as('preparer', 'POST', `${MONTH}/post/runs`, { states: ['rehearsed'] })).json().code,
    ).toBe('AXION_NOT_READY')
    await world.desk('ledger', 'settings', {
      keepsDocumentNumbers: 'yes',
      lockedThrough: '2026-08-31',
      taxComputation: 'by-rate',
    })
    await world.ok('POST', `${MONTH}/checks`)
    expect(await failing()).toEqual([])
  })

  it('pulls only what changed, and says what', async () => {
    const again = await world.run('/pulls', { systemIds: null })
    expect(again.pulled.flatMap((p) => p.counts).every((c) => c.added + c.changed + c.unreadable === 0)).toBe(
      true,
    )
    const [rate] = await world.ledgerSql<{ id: string }>(
      `select id from object where resource = 'tax-rates' and value->>'code' = 'TK'`,
    )
    await world.desk('ledger', 'rates', { id: rate?.id ?? '', component: '0', percent: '6.10' })
    await world.run('/pulls', { systemIds: ['ledger'] })
    const changes = (await world.ok<ConnectView>('GET', `${MONTH}/connect`)).systems[0]?.changes
    expect(changes?.[0]?.fields).toEqual([
      { field: 'percent', from: '6.00', to: '6.10' },
      { field: 'components.0.percent', from: '6.00', to: '6.10' },
    ])
    await world.desk('ledger', 'rates', { id: rate?.id ?? '', component: '0', percent: '6.00' })
    await world.run('/pulls', { systemIds: ['ledger'] })
  })

  it('proposes links from evidence, asks about the rest, and shows what a wrong rate puts at stake', async () => {
    const rates = await world.ok<GridView>('GET', `${MONTH}/align/rates`)
    const fenwick = rates.rows.find((r) => r.id === 'WN-FEN')
    expect(fenwick?.cells.map((c) => [c.state, c.words])).toEqual([
      ['differs', '7.25, not 7.45'],
      ['proposed', '7.45 %'],
    ])
    expect(
      rates.rows
        .filter((r) => r.extra)
        .map((r) => [
          r.name,
          r.cells[1]?.words,
          r.extra?.candidates.map((c) => c.evidence),
          r.findings.map((f) => f.code),
        ]),
    ).toEqual([
      [
        'Port Lenox, Wendover',
        '8.95 by hand, no parts',
        [['near-name']],
        ['AXION_ALIGN_TWICE', 'AXION_RATE_FLAT'],
      ],
    ])
    expect(fenwick?.findings.map((f) => f.code)).toEqual([
      'AXION_RATE_PERCENT',
      'AXION_ALIGN_NOT_LINKED',
      'AXION_ALIGN_NOT_LINKED',
    ])
    await expectExact({ of: 'stake', finding: fenwick?.keys ?? '' }, fenwick?.stake ?? '')
    await world.ok('POST', `${MONTH}/links/clear`, { kinds: ['agencies', 'rates'] })
    const after = await world.ok<GridView>('GET', `${MONTH}/align/rates`)
    expect(after.rows.find((r) => r.id === 'WN-FEN')?.cells.map((c) => c.words)).toEqual([
      '7.25, not 7.45',
      '7.45 %',
    ])
    const agencies = await world.ok<GridView>('GET', `${MONTH}/align/agencies`)
    expect(agencies.clearLinks).toBe(0)
    expect(agencies.rows.find((r) => r.id === 'HCT')?.cells[0]?.objects[0]).toMatchObject({
      linked: false,
      evidence: ['near-name'],
      name: 'Hollis County Tresurer',
    })
    await world.ok('PUT', `${MONTH}/links`, {
      systemId: 'ledger',
      kind: 'agency',
      objectId: 'agency_HCT',
      baselineId: 'HCT',
    })
  })

  it('warns in the rehearsal, sends nothing, and books once the hand-typed rate is linked', async () => {
    await world.run('/post/rehearsal')
    const rehearsed = await world.ok<PostView>('GET', `${MONTH}/post?warned=yes`)
    const told = rehearsed.rows.map((r) => r.remarks.map((m) => m.code))
    expect(told.filter((codes) => !codes.every((code) => code.startsWith('AXION_FORETOLD')))).toEqual([
      ['AXION_RATE_NOT_LINKED', 'AXION_SPLIT_NOT_STATED', 'AXION_FORETOLD_REFUSAL'],
    ])
    expect((await timesBooked(world)).size).toBe(0)
    const [first, second] = (await world.ok<PostView>('GET', `${MONTH}/post`)).rows.filter(
      (r) => r.remarks.length === 0,
    )
    expect((await world.run('/post/runs', { units: [first?.unit, second?.unit] })).done).toBe(2)
    expect(await world.run('/post/runs', { states: ['rehearsed'] })).toMatchObject({ done: 141, failed: 1 })
    const failed = await world.ok<PostView>('GET', `${MONTH}/post?state=failed`)
    expect(failed.rows[0]?.reason?.says).toContain('Port Lenox, Wendover')
    await world.ok('PUT', `${MONTH}/links`, {
      systemId: 'billing',
      kind: 'combined-rate',
      objectId: 'rate_typed',
      baselineId: 'WN-PLX',
    })
    expect(await world.run('/post/runs', { states: ['failed'] })).toMatchObject({ done: 1, failed: 0 })
    expect([...(await timesBooked(world)).values()]).toEqual(Array.from({ length: 144 }, () => 1))
  })

  it('calls nothing booked before a pull has shown it', async () => {
    expect((await world.ok<PostView>('GET', `${MONTH}/post`)).counts).toEqual({ sent: 144 })
    await world.run('/pulls', { systemIds: null })
    expect((await world.ok<PostView>('GET', `${MONTH}/post`)).counts).toEqual({ booked: 144 })
  })

  it('finds both causes by recomputation, each with its documents and remedy', async () => {
    const { causes } = await tieOut()
    expect(causes.map((c) => [c.facts.kind, c.documents, c.others.length]).sort()).toEqual([
      ['component-percent', 22, 1],
      ['liability-account', 16, 0],
      ['liability-account', 24, 0],
    ])
    expect(causes.every((c) => c.remedies.length > 0)).toBe(true)
  })

  it('has members or a chain behind every amount of the close sheet and the tie-out', async () => {
    const close = await world.ok<CloseView>('GET', `${MONTH}/close`)
    for (const row of close.rows) {
      const at = { agency: row.agency ?? '', account: row.account ?? '' }
      for (const voice of ['stated', 'expected', 'booked'] as const)
        await expectExact({ of: 'tax', voice, ...at }, row[voice] ?? '0.00')
      await expectExact({ of: 'unproved', ...at }, row.unproved)
      if (row.balance !== null) await expectExact({ of: 'balance', account: row.account ?? '' }, row.balance)
    }
    const sums = await world.ok<TieOutSums>('GET', `${MONTH}/tie-out/sums?show=all`)
    expect([sums.stated, sums.expected, sums.booked, sums.unproved]).toEqual(
      (['stated', 'expected', 'booked', 'unproved'] as const).map((of) => close.totals[of]),
    )
    expect(sums.unproved).toBe((await tieOut()).unproved)
    await expectExact({ of: 'balance' }, close.totals.balance)
    await expectExact({ of: 'unproved' }, close.unproved)
  })

  it('marks the first broken link of a wrong rate and of a wrong account', async () => {
    const { causes } = await world.ok<CloseView>('GET', `${MONTH}/close`)
    const breaks = await Promise.all(
      causes.map(async ({ key, unit, agency }) => {
        const evidence = await open({ of: 'unproved', unit, agency: agency ?? '' })
        return [
          key.split('|')[0]?.replace('booked: ', ''),
          evidence.kind === 'chain' ? evidence.chain[evidence.breaksAt ?? 0]?.role : null,
          evidence.kind === 'chain' ? evidence.chain.at(-1)?.lines.map((line) => line.amiss) : null,
        ]
      }),
    )
    expect(breaks.sort()).toEqual([
      ['component-percent', 'ledger', [false]],
      ['liability-account', 'account', [true, false]],
      ['liability-account', 'account', [true, false]],
    ])
  })

  it('mends each cause, and is proved only by the pull after', async () => {
    for (let left = 3; left > 0; left--) {
      const [cause] = (await tieOut()).causes
      const preview = await world.ok<RemedyPreview>('POST', `${MONTH}/mend/preview`, {
        remedy: cause?.remedies[0],
      })
      expect(preview.documents).toBe(cause?.documents)
      expect(
        (
          await world.as('preparer', 'POST', `${MONTH}/mend`, {
            remedy: cause?.remedies[0],
            revision: 'older',
          })
        ).json().code,
      ).toBe('AXION_STALE')
      expect(
        await world.run('/mend', { remedy: cause?.remedies[0], revision: preview.revision }),
      ).toMatchObject({ state: 'done', failed: 0 })
    }
    expect(await tieOut()).toMatchObject({ unproved: '0.00', documents: 0, proved: 144 })
    expect([...(await timesBooked(world)).values()].every((n) => n === 1)).toBe(true)
    const trail = await world.services.database.transaction(async (trx) => {
      await trx.raw(`select set_config('axion.entity', 'larkspur', true)`)
      return trx('audit_entry').where({ action: 'sent-to-system' }).select('before', 'after')
    })
    expect(trail).toHaveLength(3)
  })

  it('agrees with the ledger’s own database, account by account', async () => {
    const booked = await world.ledgerSql<{ number: string; tax: string }>(
      `select a.value->>'number' as number, sum((l->>'credit')::numeric - (l->>'debit')::numeric)::text as tax
       from object e cross join jsonb_array_elements(e.value->'lines') l join object a on a.resource = 'accounts' and a.id = l->>'accountId'
       where e.resource = 'journal-entries' and a.value->>'type' = 'current-liability' group by 1 order by 1`,
    )
    const close = await world.ok<CloseView>('GET', `${MONTH}/close`)
    const ours = close.rows
      .filter((r) => r.booked !== null && cents(r.booked) !== 0n)
      .map((r) => ({ number: r.account, tax: r.booked }))
    expect(ours).toEqual(booked)
  })

  it('sees an entry made and a line changed by hand, and says whose it was', async () => {
    const [entry] = await world.ledgerSql<{
      id: string
      value: { lines: { agencyId: string | null; credit: string }[] }
    }>(`select id, value from object where resource = 'journal-entries' order by id limit 1`)
    const line = entry?.value.lines.findIndex((l) => l.agencyId !== null) ?? 0
    await world.desk('ledger', 'entries', {
      id: entry?.id ?? '',
      action: 'change',
      line: String(line),
      credit: '1.23',
    })
    await world.run('/pulls', { systemIds: ['ledger'] })
    const { rows, causes } = await tieOut()
    expect(rows.find((r) => r.first)?.facets).toEqual(expect.arrayContaining(['amount', 'edited']))
    expect(causes[0]).toMatchObject({
      facts: { kind: 'unexplained' },
      remedies: [{ kind: 'book-again' }, { kind: 'correct' }],
    })
    await world.desk('ledger', 'entries', { id: entry?.id ?? '', action: 'void' })
    await world.run('/pulls', { systemIds: ['ledger'] })
    expect((await tieOut()).causes[0]?.headline).toBe('voided')
  })

  it('books a document again when its source changes', async () => {
    const [invoice] = await world.billingSql<{ id: string }>(
      `select id from object where resource = 'documents' and value->'lines'->0->>'taxRateId' = 'rate_TK' limit 1`,
    )
    await world.desk('billing', 'invoices', { id: invoice?.id ?? '', amount: '999.99' })
    await world.run('/pulls', { systemIds: null })
    expect((await world.ok<PostView>('GET', `${MONTH}/post`)).counts).toMatchObject({
      changed: 1,
      'voided-there': 1,
    })
    await world.run('/post/runs', { states: ['changed'] })
    expect((await world.ok<PostView>('GET', `${MONTH}/post`)).counts['voided-there']).toBe(1)
    await world.run('/post/runs', { filter: { state: 'voided-there' } })
    await world.run('/pulls', { systemIds: null })
    const rows = (await tieOut(`?show=all&limit=1000`)).rows.filter((r) => r.unit.endsWith(invoice?.id ?? ''))
    expect(rows.every((r) => r.proved && r.booked === r.expected)).toBe(true)
  })

  it('books again what was mended by hand in the ledger, where no value is left to send', async () => {
    const [rate] = await world.ledgerSql<{ id: string }>(
      `select id from object where resource = 'tax-rates' and value->>'code' = 'TK'`,
    )
    const [invoice] = await world.billingSql<{ id: string }>(
      `select id from object where resource = 'documents' and value->'lines'->0->>'taxRateId' = 'rate_TK' order by id desc limit 1`,
    )
    const percent = (to: string) =>
      world.desk('ledger', 'rates', { id: rate?.id ?? '', component: '0', percent: to })
    await percent('5.00')
    await world.desk('billing', 'invoices', { id: invoice?.id ?? '', amount: '700.00' })
    await world.run('/pulls', { systemIds: null })
    await world.run('/post/runs', { states: ['changed'] })
    await percent('6.00')
    await world.run('/pulls', { systemIds: null })
    const cause = (await tieOut()).causes.find(
      (c) => c.facts.kind === 'unexplained' && c.headline === 'amount',
    )
    expect(cause).toMatchObject({ documents: 1, remedies: [{ kind: 'book-again' }, { kind: 'correct' }] })
    expect(await world.run('/post/runs', { cause: cause?.key })).toMatchObject({ done: 1, failed: 0 })
    await world.run('/pulls', { systemIds: null })
    const rows = (await tieOut(`?show=all&limit=1000`)).rows.filter((r) => r.unit.endsWith(invoice?.id ?? ''))
    expect(rows.every((r) => r.proved)).toBe(true)
  })

  it('has a document that moves to a month before in that month alone, also where the whole is proved anew with it', async () => {
    await world.billingSql(
      `update object set value = jsonb_set(value, '{documentDate}', '"2026-08-20"'), revision = revision + 1, sequence = nextval('change_sequence') where resource = 'documents' and value->>'number' = 'LA-20884'`,
    )
    await world.ledgerSql(
      `update object set value = jsonb_set(value, '{name}', '"Moved"'), revision = revision + 1, sequence = nextval('change_sequence') where resource = 'accounts' and value->>'number' = '4000'`,
    )
    expect(await world.run('/pulls', { systemIds: null })).toMatchObject({ state: 'done' })
    const months = await world.ownerSql(`select period from unit where number = 'LA-20884'`)
    expect(months).toEqual([{ period: '2026-08' }])
  })

  // But for runs, of which each notes that it goes on, and which are found by their keys.
  it('leaves no table that the planner takes for less than half of what it is', async () => {
    expect(
      await world.ownerSql(
        `select relname, relpages from pg_class where relnamespace = 'public'::regnamespace and relkind = 'r' and relname <> 'run' and pg_relation_size(oid) / 8192 > greatest(2 * relpages, 7)`,
      ),
    ).toEqual([])
  })
})
