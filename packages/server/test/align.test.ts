import {
  NEW_ROW,
  type AlignKind,
  type DefaultsView,
  type Evidence,
  type GridRow,
  type GridView,
  type Remedy,
  type RemedyPreview,
  type SeenView,
} from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoPair, makeWorld, MONTH, type World } from './world.ts'

let world: World
beforeAll(async () => {
  world = await makeWorld(demoPair())
  await world.run('/pulls', { systemIds: null })
  await world.ok('POST', `${MONTH}/links/clear`, { kinds: ['agencies', 'rates'] })
})
afterAll(() => world.close())

const grid = (kind: AlignKind, query = ''): Promise<GridView> =>
  world.ok('GET', `${MONTH}/align/${kind}${query}`)
const rowOf = async (kind: AlignKind, id: string): Promise<GridRow> =>
  (await grid(kind)).rows.find((r) => r.id === id) as GridRow
const codes = async (kind: AlignKind): Promise<[string, string[]][]> =>
  (await grid(kind, '?only=differs')).rows.map((r) => [
    r.id,
    r.findings.filter((f) => f.left === null).map((f) => f.code.replace('AXION_', '')),
  ])

async function mend(remedy: Remedy): Promise<RemedyPreview> {
  const preview = await world.ok<RemedyPreview>('POST', `${MONTH}/mend/preview`, { remedy })
  expect(await world.run('/mend', { remedy, revision: preview.revision })).toMatchObject({ state: 'done' })
  return preview
}
/** A remedy of a kind that the grid offers on a row. */
async function offered<K extends Remedy['kind']>(
  kind: AlignKind,
  id: string,
  of: K,
): Promise<Extract<Remedy, { kind: K }>> {
  const found = (await rowOf(kind, id)).cells
    .flatMap((c) => c.remedies)
    .find((r): r is Extract<Remedy, { kind: K }> => r.kind === of)
  if (!found) throw new Error(`${id} offers no ${of}`)
  return found
}

describe('the grids of a month', () => {
  it('find what the systems hold otherwise, and nothing else', async () => {
    expect(await codes('items')).toEqual([
      ['FRAME-D', ['ALIGN_NAME']],
      ['GLOVES', ['ITEM_TAX_CODE']],
      ['HONEY-H', ['ITEM_FLAG']],
      ['GIFT-50', ['OWED_AS_INCOME']],
      ['COMB', ['ITEM_ON_DEFAULT']],
    ])
    expect(await codes('parties')).toEqual([
      ['cus_thistledown', ['SALES_TAXED_IN_SPITE']],
      ['cus_ostler', ['CERTIFICATE_EXPIRED', 'SALES_WITHOUT_CERTIFICATE']],
      ['cus_kestrel', ['CERTIFICATE_EXPIRING']],
      ['cus_counter', ['CATCH_ALL']],
      ['cus_tollgate', ['CERTIFICATE_MISSING']],
      ['billing cus_almshouse', ['ALIGN_EXTRA']],
    ])
    expect(await codes('agencies')).toEqual([
      ['HCT', ['ALIGN_NOT_LINKED', 'ALIGN_NAME']],
      ['CPL', ['AGENCY_ACCOUNT']],
      ['MCA', ['AGENCY_ACCOUNT']],
    ])
    expect(await codes('rates')).toEqual([
      ['WN-FEN', ['RATE_PERCENT']],
      ['TK-MER', ['RATE_COMING']],
      ['TK', ['RATE_COMING']],
      ['billing rate_typed', ['ALIGN_TWICE', 'RATE_FLAT']],
    ])
    expect([await codes('codes'), await codes('accounts')]).toEqual([
      [],
      [
        ['tax WRO', ['ACCOUNT_SHARED']],
        ['clearing method CASH', ['ACCOUNT_ABSENT']],
        ['clearing method MARKET', ['ACCOUNT_TYPE']],
      ],
    ])
    expect(await codes('dimensions')).toEqual([
      ['Department: YARD', ['ALIGN_NAME']],
      ['Department: WEB', ['DIMENSION_OFF']],
      ['Department: INSP', ['ALIGN_ABSENT']],
      ['ledger dept_MAIL', ['ALIGN_EXTRA']],
    ])
  })

  it('are filtered, ordered and cut where they are kept', async () => {
    const ids = async (query: string): Promise<string[]> => (await grid('items', query)).rows.map((r) => r.id)
    expect(await ids('?search=honey')).toEqual(['EXTRACT', 'HONEY-5', 'HONEY-H'])
    expect(await ids('?search=clover%20jar')).toEqual(['HONEY-5'])
    expect(await ids('?search=100%25')).toEqual([])
    expect(await ids('?sort=stake&limit=2')).toEqual(['COMB', 'GLOVES'])
    expect(await ids('?code=AXION_ITEM_FLAG')).toEqual(['HONEY-H'])
    expect(await ids('?only=settle')).toEqual(['FRAME-D', 'GIFT-50'])
    const whole = await grid('items')
    expect([...(await ids('?limit=5')), ...(await ids('?limit=500&offset=5'))]).toEqual(
      whole.rows.map((r) => r.id),
    )
    expect([whole.total, whole.byCode.map((c) => [c.title, c.stake])]).toEqual([
      whole.inBaseline + 1,
      [
        ['On the default code', '22.18'],
        ['Another item tax code', '4.24'],
        ['Flag against code', '0.00'],
        ['Nearly the same name', '0.00'],
        ['Owed, and booked as income', '0.00'],
      ],
    ])
  })

  it('begin with what is new, as agreed: another default is agreed in its own right, and changes nothing that is there', async () => {
    const before = await world.ok<DefaultsView>('GET', `${MONTH}/align/defaults`)
    expect(before).toMatchObject({
      itemTaxCode: 'GOODS',
      partiesTaxable: true,
      systems: [{ name: 'Billing', code: 'GOODS', onDefault: 1 }],
    })
    const items = async (): Promise<string[][]> =>
      (await grid('items')).rows.map((r) => [r.id, r.total, ...r.findings.map((f) => f.code)])
    const rows = await items()
    await world.ok('PUT', `${MONTH}/align/defaults`, { itemTaxCode: 'TOOLS', partiesTaxable: null })
    expect(await items()).toEqual(
      rows.map((row) => (row[0] === NEW_ROW ? [NEW_ROW, 'TOOLS', 'AXION_DEFAULT_CODE'] : row)),
    )
    expect(
      (
        await world.as('preparer', 'PUT', `${MONTH}/align/defaults`, {
          itemTaxCode: 'NONE',
          partiesTaxable: null,
        })
      ).json(),
    ).toMatchObject({ code: 'AXION_BASELINE_INCONSISTENT' })
    expect(
      (
        await world.as('viewer', 'PUT', `${MONTH}/align/defaults`, {
          itemTaxCode: 'GOODS',
          partiesTaxable: true,
        })
      ).statusCode,
    ).toBe(403)
    await world.ok('PUT', `${MONTH}/align/defaults`, { itemTaxCode: 'GOODS', partiesTaxable: true })
    expect(await items()).toEqual(rows)
  })

  it('open what is at stake into just the documents that sum to it', async () => {
    for (const kind of ['rates', 'items', 'agencies'] as const) {
      const { stake } = await grid(kind)
      const link = { rates: 'combined-rate', items: 'item', agencies: 'agency' }[kind]
      expect(
        await world.ok<Evidence>(
          'GET',
          `${MONTH}/evidence?open=${encodeURIComponent(`of=stake&kind=${link}`)}`,
        ),
      ).toMatchObject({ amount: stake })
    }
  })
})

describe('what can be done about it', () => {
  it('sends the baseline’s values to a system that takes them', async () => {
    const preview = await mend(await offered('items', 'COMB', 'send'))
    expect([preview.system, preview.changes]).toEqual([
      'Billing',
      [{ field: 'Item tax code', from: 'none', to: 'FOOD' }],
    ])
    expect(
      await world.billingSql(
        `select value->>'itemTaxCode' as code from object where resource = 'items' and id = 'item_COMB'`,
      ),
    ).toEqual([{ code: 'FOOD' }])
    await mend(await offered('parties', 'cus_counter', 'send'))
    await mend(await offered('agencies', 'HCT', 'send'))
    expect(
      await world.ledgerSql(`select value->>'name' as name from object where id = 'agency_HCT'`),
    ).toEqual([{ name: 'Hollis County Treasurer' }])
    expect([await codes('items'), (await codes('parties')).length, (await grid('items')).stake]).toEqual([
      [
        ['FRAME-D', ['ALIGN_NAME']],
        ['GLOVES', ['ITEM_TAX_CODE']],
        ['HONEY-H', ['ITEM_FLAG']],
        ['GIFT-50', ['OWED_AS_INCOME']],
      ],
      5,
      '4.24',
    ])
  })

  it('takes a system’s values into the baseline, from the month on where they are dated, and keeps what was agreed before', async () => {
    const item = await mend(await offered('items', 'GLOVES', 'adopt'))
    expect(item.changes).toEqual([{ field: 'Item tax code, from 2026-09-01', from: 'CLOTHING', to: 'GOODS' }])
    expect((await rowOf('items', 'GLOVES')).cells[0]).toMatchObject({ state: 'agrees', words: 'GOODS' })
    await mend(await offered('rates', 'WN-FEN', 'adopt'))
    expect((await rowOf('rates', 'WN-FEN')).cells.map((c) => [c.state, c.words])).toEqual([
      ['agrees', '7.25 %'],
      ['differs', '7.45, not 7.25'],
    ])
    const versions = await world.ownerSql<{ percent: string; valid: string; now: boolean }>(
      `select percent::text, valid::text, upper_inf(recorded) as now from rate_version where entity_id = 'larkspur' and object_id = 'WN-HOLLIS' order by valid, version_id`,
    )
    expect(versions.filter((v) => v.now).map((v) => [v.percent, v.valid])).toEqual([
      ['1.250000', '[2024-01-01,2026-09-01)'],
      ['1.250000', '[2026-09-01,)'],
    ])
    expect(versions.filter((v) => !v.now)).toHaveLength(1)
    // What is taken over stands on the word of the one that it was taken from.
    const standing = async (): Promise<unknown> =>
      (await world.ok<SeenView>('GET', `${MONTH}/decisions/seen`)).groups.map(({ id, things }) => [
        id,
        things.map((one) => [one.standing, one.seenIn]),
      ])
    expect(await standing()).toEqual([['HCT', [['alone', ['Ledger']]]]])
    const theirs = { kind: 'adopt', align: 'rates', systemId: 'billing', objectId: 'rate_WN-FEN' } as const
    await mend(theirs)
    expect(await standing()).toEqual([['HCT', [['alone', ['Billing']]]]])
    const { batches } = await world.ok<{ batches: { id: string }[] }>('GET', `${MONTH}/align/batches`)
    await world.run('/align/undo', { batchId: batches[0]?.id ?? '' })
    expect(await standing()).toEqual([['HCT', [['alone', ['Ledger']]]]])
    await mend(theirs)
    expect((await rowOf('rates', 'WN-FEN')).cells.map((c) => c.words)).toEqual(['7.25, not 7.45', '7.45 %'])
  })

  it('refuses what is stale, what agrees, and what nobody holds', async () => {
    const remedy = await offered('items', 'HONEY-H', 'send')
    expect(
      (await world.as('preparer', 'POST', `${MONTH}/mend`, { remedy, revision: 'another' })).json<{
        code: string
      }>().code,
    ).toBe('AXION_STALE')
    const codeOf = async (body: object): Promise<string> =>
      (await world.as('preparer', 'POST', `${MONTH}/mend/preview`, { remedy: body })).json<{ code: string }>()
        .code
    expect(await codeOf({ kind: 'send', align: 'items', systemId: 'billing', objectId: 'item_HIVE-8' })).toBe(
      'AXION_NOTHING_TO_DO',
    )
    expect(
      await codeOf({ kind: 'adopt', align: 'items', systemId: 'billing', objectId: 'item_HIVE-8' }),
    ).toBe('AXION_NOTHING_TO_DO')
    expect(await codeOf({ kind: 'send', align: 'rates', systemId: 'billing', objectId: 'rate_TK' })).toBe(
      'AXION_NOTHING_TO_DO',
    )
    expect(await codeOf({ kind: 'send', align: 'parties', systemId: 'billing', objectId: 'nobody' })).toBe(
      'AXION_NOT_FOUND',
    )
  })

  it('leaves a finding with a reason, in every month, and takes it up again', async () => {
    const before = await grid('parties')
    const expired = before.rows.find((r) => r.id === 'cus_ostler')?.findings[0]
    const about = { kind: 'parties', rowId: 'cus_ostler', code: expired?.code, systemId: null }
    await world.ok('PUT', `${MONTH}/align/left`, { ...about, reason: 'The new certificate is on its way' })
    const after = await grid('parties')
    expect([after.findings, after.byCode.some((c) => c.code === expired?.code)]).toEqual([
      before.findings - 1,
      false,
    ])
    expect(
      (await grid('parties', '?only=left')).rows.map((r) => [r.id, r.findings[0]?.left?.reason]),
    ).toEqual([['cus_ostler', 'The new certificate is on its way']])
    await world.run('/pulls', { systemIds: null })
    expect(
      (await world.ok<GridView>('GET', '/api/entities/larkspur/months/2026-10/align/parties')).rows.find(
        (r) => r.id === 'cus_ostler',
      )?.findings[0]?.left,
    ).not.toBeNull()
    await world.ok('PUT', `${MONTH}/align/left`, { ...about, reason: null })
    expect((await grid('parties')).findings).toBe(before.findings)
    expect(
      (await world.as('viewer', 'PUT', `${MONTH}/align/left`, { ...about, reason: 'not mine' })).statusCode,
    ).toBe(403)
    expect(
      (
        await world.as('preparer', 'PUT', `${MONTH}/align/left`, {
          ...about,
          code: 'AXION_RATE_FLAT',
          reason: 'nothing of it',
        })
      ).statusCode,
    ).toBe(404)
  })

  it('links an item under another code, and the documents that name it follow', async () => {
    await world.ownerSql(
      `update item set recorded = tstzrange(lower(recorded), now()) where entity_id = 'larkspur' and object_id = 'SMOKER'`,
    )
    await world.ownerSql(
      `insert into item (entity_id, object_id, name, item_tax_code, valid) values ('larkspur', 'SMK-1', 'Smoker, stainless steel', 'GOODS', daterange(null, null))`,
    )
    await world.ok('PUT', `${MONTH}/links`, {
      systemId: 'billing',
      kind: 'item',
      objectId: 'item_SMOKER',
      baselineId: 'SMK-1',
    })
    expect((await rowOf('items', 'SMK-1')).cells[0]).toMatchObject({
      state: 'agrees',
      objects: [{ id: 'item_SMOKER', linked: true }],
    })
    const [open] = await world.ownerSql<{ n: number }>(
      `select count(*)::int as n from tie_unit where entity_id = 'larkspur' and not expected_complete`,
    )
    expect(open?.n).toBe(0)
    await world.ok('DELETE', `${MONTH}/links`, { systemId: 'billing', kind: 'item', objectId: 'item_SMOKER' })
    expect((await rowOf('items', 'SMK-1')).cells[0]).toMatchObject({ state: 'proposed' })
  })

  it('a gift card that is posted to what is owed is no finding any more', async () => {
    const of = async (): Promise<string[]> => (await rowOf('items', 'GIFT-50')).findings.map((f) => f.code)
    expect(await of()).toEqual(['AXION_OWED_AS_INCOME'])
    await mend({ kind: 'post-to', systemId: 'ledger', ruleId: 'revenue item GIFT-50', account: '2400' })
    expect(await of()).toEqual([])
  })
})
