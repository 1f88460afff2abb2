import type {
  AccountChoices,
  AlignKind,
  BatchView,
  BulkInput,
  BulkPreview,
  GridRow,
  GridView,
  Remedy,
  RemedyPreview,
} from '@axion/contract'
import { otherSystems, SEED } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readBaseline } from '../src/baseline/read.ts'
import { inEntity } from '../src/database/connection.ts'
import { bookAll, demoPair, makeReadyWorld, MONTH, type World } from './world.ts'

let world: World
beforeAll(async () => {
  world = await makeReadyWorld({
    ...demoPair(),
    others: otherSystems(SEED),
  })
})
afterAll(() => world.close())

const grid = (kind: AlignKind): Promise<GridView> =>
  world.ok<GridView>('GET', `${MONTH}/align/${kind}?limit=500`)
const rowOf = async (kind: AlignKind, id: string): Promise<GridRow> =>
  (await grid(kind)).rows.find((row) => row.id === id) as GridRow
const preview = (request: BulkInput): Promise<BulkPreview> =>
  world.ok<BulkPreview>('POST', `${MONTH}/align/bulk/preview`, request)
const batches = async (): Promise<readonly BatchView[]> =>
  (await world.ok<{ batches: BatchView[] }>('GET', `${MONTH}/align/batches`)).batches
async function does(request: BulkInput): Promise<Awaited<ReturnType<World['run']>>> {
  const { revision } = await preview(request)
  return world.run('/align/bulk', { request, revision })
}
const undo = async (): Promise<Awaited<ReturnType<World['run']>>> =>
  world.run('/align/undo', { batchId: (await batches())[0]?.id })
const undoes = async (): Promise<void> => expect((await undo()).state).toBe('done')
async function mend(remedy: Remedy): Promise<RemedyPreview> {
  const shown = await world.ok<RemedyPreview>('POST', `${MONTH}/mend/preview`, { remedy })
  expect((await world.run('/mend', { remedy, revision: shown.revision })).problem).toBeNull()
  return shown
}
const refusal = async (remedy: Remedy): Promise<string> =>
  (await world.as('preparer', 'POST', `${MONTH}/mend/preview`, { remedy })).json<{ code: string }>().code
const versions = (table: string): Promise<unknown[]> =>
  world.ownerSql(
    `select object_id, to_jsonb(t) - 'version_id' - 'recorded' as row from ${table} t where entity_id = 'larkspur' and upper_inf(recorded) order by object_id, valid`,
  )

describe('many rows at once', () => {
  it('have their clear links accepted, and nothing that is not clear', async () => {
    const request: BulkInput = { kind: 'methods', action: 'link', rows: { filter: {} } }
    const shown = await preview(request)
    expect(shown.does.map((d) => [d.row, d.system])).toEqual([
      ['Cash', 'Tills'],
      ['Card', 'Tills'],
      ['Gift card', 'Tills'],
      ['Card on the web', 'Web shop'],
      ['Bank transfer', 'Purchasing'],
      ['Company card, yard', 'Purchasing'],
    ])
    expect(shown.skips).toContainEqual({
      row: 'Commonfair balance',
      system: 'Web shop',
      why: 'its name nearly matches, and nothing more: look at it',
    })
    expect(shown.skips).toContainEqual({
      row: 'Company card, office',
      system: 'Purchasing',
      why: 'nothing in the baseline looks like it',
    })
    expect((await does(request)).state).toBe('done')
    expect((await rowOf('methods', 'CASH')).cells.find((c) => c.systemId === 'pos')?.state).toBe('agrees')
    expect((await batches())[0]).toMatchObject({ action: 'link', size: 6, canUndo: true, person: 'preparer' })
    await undoes()
    expect([
      (await rowOf('methods', 'CASH')).cells.find((c) => c.systemId === 'pos')?.state,
      (await batches())[0]?.undoneBy,
    ]).toEqual(['proposed', 'preparer'])
    expect((await undo()).problem?.says).toContain('taken back already')
    await does(request)
  })

  it('are sent the baseline’s values one by one, and are given back what they held', async () => {
    const held = (): Promise<unknown[]> =>
      world.billingSql(
        `select id, value->>'itemTaxCode' as code, value->>'name' as name, value->>'taxable' as taxable from object where resource = 'items' order by id`,
      )
    const before = await held()
    const request: BulkInput = {
      kind: 'items',
      action: 'send',
      rows: { filter: { only: 'differs' } },
      systemId: 'billing',
    }
    const shown = await preview(request)
    expect(shown.does.map((d) => d.row)).toEqual([
      'Deep frame, waxed',
      'Goatskin gloves',
      'Heather honey, 250 g jar',
      'Cut comb in a tray',
    ])
    expect(await does(request)).toMatchObject({ state: 'done', done: 4, failed: 0 })
    expect(
      (await grid('items')).rows.filter((row) => row.findings.some((f) => f.systemId === 'billing')),
    ).toEqual([])
    await undoes()
    expect(await held()).toEqual(before)
  })

  it('say what could not be done of them, and do the rest', async () => {
    const request: BulkInput = { kind: 'items', action: 'send', rows: { filter: {} } }
    const { revision, total } = await preview(request)
    await world.desk('pos', 'objects', { resource: 'items', id: 'till_SUIT-V', name: 'Suit' })
    const run = await world.run('/align/bulk', { request, revision })
    expect([run.done + run.failed, run.failed, run.problems.map((p) => p.what)]).toEqual([
      total,
      1,
      ['Ventilated suit with veil, Tills'],
    ])
    await undoes()
  })

  it('are taken over from systems that agree with each other, and not from those that do not', async () => {
    await world.desk('pos', 'objects', { resource: 'items', id: 'till_SEED-C', itemTaxCode: 'GOODS' })
    await world.run('/pulls', { systemIds: ['pos'] })
    const request: BulkInput = { kind: 'items', action: 'adopt', rows: { ids: ['SEED-C', 'GLOVES'] } }
    const shown = await preview(request)
    expect([
      shown.does.map((d) => d.row),
      shown.skips.filter((s) => s.row === 'Clover seed, 1 kg').map((s) => s.why),
    ]).toEqual([
      ['Goatskin gloves'],
      ['systems would have it differently: choose one', 'systems would have it differently: choose one'],
    ])
    const before = await versions('item')
    await does(request)
    expect(await versions('item')).not.toEqual(before)
    await undoes()
    expect(await versions('item')).toEqual(before)
  })

  it('leave their findings with one reason, and take them up again', async () => {
    const before = (await grid('locations')).findings
    expect(before).toBeGreaterThan(1)
    await does({
      kind: 'locations',
      action: 'leave',
      rows: { filter: {} },
      reason: 'The outlets are being moved',
    })
    expect((await grid('locations')).findings).toBe(0)
    await undoes()
    expect((await grid('locations')).findings).toBe(before)
  })

  it('are refused where the preview is stale, the rows too many to say, the reason lacking, or the person may not', async () => {
    const request: BulkInput = { kind: 'agencies', action: 'link', rows: { filter: {} } }
    expect((await world.run('/align/bulk', { request, revision: 'another' })).problem?.says).toContain(
      'changed meanwhile',
    )
    const ask = (who: string, body: object): Promise<number> =>
      world.as(who, 'POST', `${MONTH}/align/bulk/preview`, body).then((a) => a.statusCode)
    expect([
      await ask('viewer', request),
      await ask('preparer', { ...request, action: 'leave' }),
      await ask('preparer', { ...request, rows: { ids: [] } }),
      await ask('stranger', request),
    ]).toEqual([403, 400, 400, 404])
  })
})

describe('what only one side has', () => {
  it('is made in a ledger that allows it, once, and linked', async () => {
    const proposed = await world.ok<RemedyPreview>('POST', `${MONTH}/mend/preview`, {
      remedy: { kind: 'create', align: 'accounts', systemId: 'ledger', baselineId: 'clearing method CASH' },
    })
    expect(proposed.changes.map((c) => [c.field, c.to])).toEqual([
      ['Number', '1060'],
      ['Name', 'Clearing, cash'],
      ['Type', 'bank'],
    ])
    const account = await mend({
      kind: 'create',
      align: 'accounts',
      systemId: 'ledger',
      baselineId: 'clearing method CASH',
      name: ' Cash drawer ',
    })
    expect(account.changes[1]).toEqual({ field: 'Name', from: '', to: 'Cash drawer' })
    expect((await rowOf('accounts', 'clearing method CASH')).cells[0]?.words).toBe('Cash drawer')
    expect((await rowOf('accounts', 'clearing method CASH')).cells[0]?.state).toBe('agrees')
    await mend({ kind: 'create', align: 'dimensions', systemId: 'ledger', baselineId: 'Department: INSP' })
    expect((await rowOf('dimensions', 'Department: INSP')).cells[0]?.state).toBe('agrees')
    expect(
      await refusal({
        kind: 'create',
        align: 'dimensions',
        systemId: 'ledger',
        baselineId: 'Department: INSP',
      }),
    ).toBe('AXION_NOTHING_TO_DO')
    expect(await refusal({ kind: 'create', align: 'agencies', systemId: 'billing', baselineId: 'PTC' })).toBe(
      'AXION_NOTHING_TO_DO',
    )
    expect((await undo()).problem?.says).toContain('removed there')
  })

  it('is a rate with its components, those to come among them, under the agencies that are linked', async () => {
    await world.ledgerSql(
      `update object set removed = true, value = null, sequence = nextval('change_sequence') where id = 'tax_TK-MER'`,
    )
    await world.run('/pulls', { systemIds: ['ledger'] })
    const row = await rowOf('rates', 'TK-MER')
    const [stale] = row.cells[0]?.objects ?? []
    await world.ok('DELETE', `${MONTH}/links`, {
      systemId: 'ledger',
      kind: 'combined-rate',
      objectId: stale?.id,
    })
    expect((await rowOf('rates', 'TK-MER')).cells[0]).toMatchObject({
      state: 'absent',
      remedies: [{ kind: 'create', baselineId: 'TK-MER' }],
    })
    await mend({ kind: 'create', align: 'rates', systemId: 'ledger', baselineId: 'TK-MER' })
    const [made] = await world.ledgerSql<{
      value: {
        percent: string
        components: { agencyId: string; percent: string; from: string | null; to: string | null }[]
      }
    }>(`select value from object where resource = 'tax-rates' and value->>'code' = 'TK-MER'`)
    expect([
      made?.value.percent,
      made?.value.components.map((c) => [c.agencyId, c.percent, c.from, c.to]),
    ]).toEqual([
      '6.75',
      [
        ['agency_TDT', '6.00', null, '2026-10-31'],
        ['agency_TDT', '6.25', '2026-11-01', null],
        ['agency_MCA', '0.75', null, null],
      ],
    ])
    expect((await rowOf('rates', 'TK-MER')).cells[0]?.state).toBe('agrees')
  })

  it('is a version that is still to come, sent to a system that is not ready for it', async () => {
    const shown = await mend({ kind: 'send', align: 'rates', systemId: 'ledger', objectId: 'tax_TK' })
    expect(shown.changes.map((c) => [c.field, c.to])).toEqual([
      ['Components', 'Tamarack 6.00 % to 2026-10-31; Tamarack 6.25 % from 2026-11-01'],
    ])
    expect((await rowOf('rates', 'TK')).findings.map((f) => f.systemId)).not.toContain('ledger')
    await undoes()
    expect((await rowOf('rates', 'TK')).findings.map((f) => f.systemId)).toContain('ledger')
  })

  it('is taken into the baseline with the system’s values, and goes again when that is taken back', async () => {
    const before = await versions('item')
    const item = await mend({
      kind: 'take-in',
      align: 'items',
      systemId: 'commerce',
      objectId: 'web_BALM-60',
    })
    expect(item.changes.map((c) => [c.field, c.to])).toEqual([
      ['Code', 'BALM-60'],
      ['Name', 'Beeswax balm, 60 ml'],
      ['Item tax code', 'GOODS'],
    ])
    expect((await rowOf('items', 'BALM-60')).cells.find((c) => c.systemId === 'commerce')?.state).toBe(
      'agrees',
    )
    await undoes()
    expect(await versions('item')).toEqual(before)
    const party = await mend({
      kind: 'take-in',
      align: 'parties',
      systemId: 'billing',
      objectId: 'cus_almshouse',
    })
    expect(party.changes).toContainEqual({ field: 'Exempt for', from: '', to: 'charity' })
    expect((await rowOf('parties', 'cus_almshouse')).findings.map((f) => f.code)).toEqual([
      'AXION_CERTIFICATE_MISSING',
    ])
    for (const [align, systemId, objectId] of [
      ['codes', 'pos', 'CLOTHES'],
      ['dimensions', 'ledger', 'dept_MAIL'],
      ['methods', 'purchasing', 'pm_card_office'],
    ] as const)
      await mend({ kind: 'take-in', align, systemId, objectId })
    expect(
      [
        await rowOf('codes', 'CLOTHES'),
        await rowOf('dimensions', 'Department: MAIL'),
        await rowOf('methods', 'COMPANY-CARD-OFFICE'),
      ].map((row) => row.cells.some((c) => c.state === 'agrees')),
    ).toEqual([true, true, true])
    expect(
      (await rowOf('accounts', 'clearing method COMPANY-CARD-OFFICE')).findings.map((f) => f.code),
    ).toEqual(['AXION_NO_RULE'])
  })

  it('is refused where nobody can say what it is made of', async () => {
    expect(await refusal({ kind: 'take-in', align: 'rates', systemId: 'pos', objectId: 'till_TK-MER' })).toBe(
      'AXION_CANNOT_TAKE_IN',
    )
    expect(await refusal({ kind: 'take-in', align: 'items', systemId: 'pos', objectId: 'nothing' })).toBe(
      'AXION_NOT_FOUND',
    )
  })
})

describe('posting rules', () => {
  it('are set to an account of the right type, and say which booked documents would differ now', async () => {
    await bookAll(world)
    expect(await refusal({ kind: 'post-to', systemId: 'ledger', ruleId: 'tax WRO', account: '4000' })).toBe(
      'AXION_ACCOUNT_UNFIT',
    )
    expect(await refusal({ kind: 'post-to', systemId: 'ledger', ruleId: 'revenue', account: '9999' })).toBe(
      'AXION_ACCOUNT_NOT_IN_LEDGER',
    )
    expect(
      await refusal({ kind: 'post-to', systemId: 'ledger', ruleId: 'tax WRO', account: '4000', opens: true }),
    ).toBe('AXION_ACCOUNT_UNFIT')
    expect(
      await refusal({ kind: 'post-to', systemId: 'ledger', ruleId: 'revenue item NONE', account: '4000' }),
    ).toBe('AXION_NOT_FOUND')
    const { accounts } = await world.ok<{ accounts: { number: string }[] }>(
      'GET',
      `${MONTH}/align/accounts/choices?rule=revenue`,
    )
    expect(accounts.map((a) => a.number)).toEqual(['1073', '4000', '4100'])
    expect(
      (await world.ok<AccountChoices>('GET', `${MONTH}/align/accounts/choices?rule=tax%20PTC`)).opens,
    ).toBe('2211')
    const sold = await world.ownerSql<{ n: number }>(
      `select count(distinct b.external_id)::int as n from booking b join source_document d using (entity_id, system_id, document_id) cross join jsonb_array_elements(d.value->'lines') line where b.state = 'booked' and b.period = '2026-09' and line->>'itemCode' = 'SMOKER'`,
    )
    const shown = await mend({
      kind: 'post-to',
      systemId: 'ledger',
      ruleId: 'revenue item SMOKER',
      account: '4100',
    })
    expect([shown.documents, shown.numbers.length]).toEqual([sold[0]?.n, Math.min(12, sold[0]?.n ?? 0)])
    const changed = await world.ownerSql<{ n: number }>(
      `select count(*)::int as n from booking where state = 'changed'`,
    )
    expect(changed).toEqual(sold)
  })

  it('may name an account that the ledger is yet to open, which is then made there with the type that it needs', async () => {
    const shared = async (): Promise<string[]> =>
      (await rowOf('accounts', 'tax WRO')).findings.map((f) => f.code)
    expect(await shared()).toEqual(['AXION_ACCOUNT_SHARED'])
    const shown = await mend({
      kind: 'post-to',
      systemId: 'ledger',
      ruleId: 'tax PTC',
      account: '2211',
      opens: true,
    })
    expect(shown.changes).toEqual([
      {
        field: 'Account, from 2026-09-01',
        from: '2210 Sales tax, Wendover',
        to: '2211, to be made in Ledger',
      },
    ])
    expect([await shared(), (await rowOf('accounts', 'tax PTC')).findings.map((f) => f.code)]).toEqual([
      [],
      ['AXION_ACCOUNT_ABSENT'],
    ])
    await mend({ kind: 'create', align: 'accounts', systemId: 'ledger', baselineId: 'tax PTC' })
    expect((await rowOf('accounts', 'tax PTC')).findings).toEqual([])
    const { spans, changes } = await world.ok<AccountChoices>(
      'GET',
      `${MONTH}/align/accounts/choices?rule=tax%20PTC`,
    )
    expect([spans, changes.map(({ at: _, ...change }) => change)]).toEqual([
      [
        { account: '2210', name: 'Sales tax, Wendover', from: '2024-01-01', to: '2026-08-31' },
        { account: '2211', name: 'Palisade Tax Commission, tax owed', from: '2026-09-01', to: null },
      ],
      [
        {
          person: 'preparer',
          before: '2210 Sales tax, Wendover',
          after: '2211, to be made in Ledger',
          from: '2026-09-01',
        },
      ],
    ])
    expect(
      await world.ledgerSql(
        `select value->>'name' as name, value->>'type' as type from object where resource = 'accounts' and value->>'number' = '2211'`,
      ),
    ).toEqual([{ name: 'Palisade Tax Commission, tax owed', type: 'current-liability' }])
  })

  it('then book them again in place, to the account that was chosen', async () => {
    await world.run('/post/runs', { states: ['changed'] })
    await world.run('/pulls', { systemIds: null })
    const lines = await world.ledgerSql<{ n: number }>(
      `select count(*)::int as n from object cross join jsonb_array_elements(value->'lines') line where resource = 'journal-entries' and not removed and line->>'accountId' = 'acct_4100' and line->>'description' like 'Smoker%'`,
    )
    expect(lines[0]?.n).toBeGreaterThan(0)
  })

  it('are made for all that goes nowhere at once, with the accounts that the ledger lacks, and taken back at once', async () => {
    const baseline = await inEntity(world.services.database, 'larkspur', readBaseline)
    const gone = ['cash-difference', 'rounding', 'payable', 'tax WRO']
    const idOf = ({ kind, agency }: (typeof baseline.postingRules)[number]): string =>
      [kind, ...(agency === null ? [] : [agency])].join(' ')
    const away = baseline.postingRules.filter((rule) => rule.only === null && gone.includes(idOf(rule)))
    await world.ok('PUT', `${MONTH}/baseline`, {
      ...baseline,
      postingRules: baseline.postingRules.filter((rule) => !away.includes(rule)),
    })
    const lacking = async (): Promise<string[]> =>
      (await grid('accounts')).rows
        .filter((row) => row.findings.some(({ code }) => code === 'AXION_NO_RULE'))
        .map(({ id }) => id)
        .sort()
    const before = await lacking()
    expect(before).toEqual(expect.arrayContaining(away.map(idOf)))
    // One is there already under the name that would be proposed, and one twice: which of them, nobody can say.
    await world.ledgerSql(
      `insert into object (resource, id, revision, sequence, value) values ('accounts', 'acct_round', 1, nextval('change_sequence'), '{"number": "5999", "name": "rounding ", "type": "expense"}')`,
    )
    await world.run('/pulls', { systemIds: ['ledger'] })

    const request: BulkInput = {
      kind: 'accounts',
      action: 'open',
      rows: { filter: { code: 'AXION_NO_RULE' } },
    }
    const shown = await preview(request)
    const made = shown.does.filter(({ changes }) => changes.some(({ field }) => field === 'Made there'))
    expect([shown.total, shown.skips, made.length]).toEqual([before.length, [], before.length - 1])
    const numbers = shown.does.map(({ changes }) => changes[0]?.to.split(/[ ,]/)[0])
    expect([
      new Set(numbers).size,
      numbers.filter((one) => ['6900', '6910', '5999'].includes(one ?? '')),
    ]).toEqual([before.length, ['6900']])
    expect((await does(request)).state).toBe('done')
    expect(await lacking()).toEqual([])
    const rows = (await grid('accounts')).rows.filter(({ id }) => before.includes(id))
    expect(rows.flatMap(({ findings }) => findings.map(({ code }) => code))).toEqual([])
    const inLedger = await world.ledgerSql<{ number: string }>(
      `select value->>'number' as number from object where resource = 'accounts' and not removed`,
    )
    expect(inLedger.map(({ number }) => number)).toEqual(expect.arrayContaining(numbers))
    expect(new Set(inLedger.map(({ number }) => number)).size).toBe(inLedger.length)
    expect((await preview(request)).total).toBe(0)
    expect((await preview({ ...request, rows: { ids: ['revenue'] } })).skips[0]?.why).toMatch(/already/)

    expect((await batches())[0]).toMatchObject({ action: 'open', canUndo: true })
    await undoes()
    expect(await lacking()).toEqual(before)
    // What was made there stays, and is found by its name the next time, but for what is there under one name several times.
    const again = (await preview(request)).does.filter(({ changes }) =>
      changes.some(({ field }) => field === 'Made there'),
    )
    expect(again.map(({ row }) => row)).toEqual(['Rounding'])
  })
})
