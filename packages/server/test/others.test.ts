import type {
  Evidence,
  AlignKind,
  CloseView,
  ConnectView,
  GridView,
  PathView,
  PostView,
  TieOutSums,
  TieOutView,
  TimelineView,
  WaysView,
} from '@axion/contract'
import { otherSystems, SEED } from '@axion/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { inEntity } from '../src/database/connection.ts'
import { json } from '../src/database/json.ts'
import { nameOf } from '../src/documents/ids.ts'
import { behindIn, documentsOf, unitsOf } from '../src/proof/gather.ts'
import { groundsOf } from '../src/proof/grounds.ts'
import { provenInFull } from './inFull.ts'
import { makeWorld, MONTH, plainBilling, type World } from './world.ts'

let world: World
/** What was said when purchasing alone had been pulled. */
let early: unknown[]
beforeAll(async () => {
  world = await makeWorld({ billing: plainBilling(4711), others: otherSystems(SEED) })
  await world.run('/pulls', { systemIds: ['purchasing'] })
  const [close, path] = [
    await world.ok<CloseView>('GET', `${MONTH}/close`),
    await world.ok<PathView>('GET', `${MONTH}/path`),
  ]
  early = [close.awaits, (await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)).awaits, path.connect.pulled]
  await world.run('/pulls', { systemIds: null })
})
afterAll(() => world.close())

const grid = (kind: AlignKind): Promise<GridView> => world.ok('GET', `${MONTH}/align/${kind}`)

const sums = (query: string): Promise<TieOutSums> => world.ok('GET', `${MONTH}/tie-out/sums?${query}`)

describe('systems beside ledger and billing', () => {
  it('are pulled with all that they offer, and their records are kept beside what is posted one to one', async () => {
    const rows = await world.ownerSql<{ system_id: string; kind: string; n: number }>(
      `select system_id, kind, count(*)::int as n from (select system_id, kind from document where entity_id = 'larkspur' and not posted union all select system_id, kind from held_record where entity_id = 'larkspur') r group by 1, 2 order by 1, 2`,
    )
    expect(rows.map((r) => [r.system_id, r.kind, r.n])).toEqual([
      ['bank', 'bank-line', 20],
      ['commerce', 'order', 40],
      ['payments', 'charge', 54],
      ['payments', 'chargeback', 1],
      ['payments', 'payout', 4],
      ['payments', 'refund', 1],
      ['payments-web', 'charge', 32],
      ['payments-web', 'payout', 4],
      ['payments-web', 'refund', 1],
      ['pos', 'receipt', 84],
      ['pos', 'refund', 2],
      ['purchasing', 'bill', 12],
    ])
    expect(await world.ownerSql(`select 1 from finding where entity_id = 'larkspur'`)).toEqual([])
    // What the quay sells before three in the night belongs to the day before; on the first that is another month.
    const nights = await world.ownerSql<{ days: string; place: string; night: boolean }>(
      `select distinct (document_date - trading_day)::text as days, value->>'locationId' as place, (value->>'soldAt' like '%T01:%') as night from document where system_id = 'pos' order by 1, 2`,
    )
    expect(nights).toEqual([
      { days: '0', place: 'loc_merrow', night: false },
      { days: '0', place: 'loc_quay', night: false },
      { days: '0', place: 'loc_quillby', night: false },
      { days: '1', place: 'loc_quay', night: true },
    ])
    expect((await sums('show=all')).documents).toBeGreaterThan(140)
    expect(
      await world.ownerSql(
        `select 1 from tie_unit where entity_id = 'larkspur' and system_id not in ('billing', 'ledger')`,
      ),
    ).toEqual([])
  })

  it('have their documents stand beside what is tied out, not posted yet, with sums that open to just these', async () => {
    const views = await Promise.all([
      world.ok<TieOutView>('GET', `${MONTH}/tie-out`),
      world.ok<CloseView>('GET', `${MONTH}/close`),
      world.ok<PostView>('GET', `${MONTH}/post`),
    ])
    const [{ notPosted }] = views
    expect(views.map((view) => view.notPosted)).toEqual(views.map(() => notPosted))
    const counted = await world.ownerSql<{ bought: boolean; n: number }>(
      `select kind in ('bill', 'supplier-credit') as bought, count(*)::int as n from document where period = '2026-09' and not posted and status not in ('draft', 'void') group by 1 order by 1`,
    )
    expect([notPosted.sold.documents, notPosted.bought.documents]).toEqual(counted.map(({ n }) => n))
    for (const of of ['sold', 'bought'] as const) {
      const behind = await world.ok<Extract<Evidence, { kind: 'members' }>>(
        'GET',
        `${MONTH}/evidence?open=${encodeURIComponent(`of=tax&voice=stated&notPosted=${of}`)}`,
      )
      expect([of, behind.amount, Number(behind.amount) > 0]).toEqual([of, notPosted[of].tax, true])
    }
    // They are listed and found as what they are, and are in nothing else that Tie out lists.
    const list = await world.ok<TieOutView>('GET', `${MONTH}/tie-out?show=not-posted&limit=1000`)
    expect((await sums('show=not-posted')).documents).toBe(counted.reduce((all, { n }) => all + n, 0))
    expect(list.rows.every((row) => !row.posted && row.unproved === '0.00')).toBe(true)
    const found = async (show: string): Promise<number> =>
      (await sums(`show=${show}&search=${list.rows[0]?.number}`)).documents
    expect([await found('all'), await found('not-posted')]).toEqual([0, 1])
    const { amount } = await world.ok<Evidence>('GET', `${MONTH}/evidence?open=of%3Dunproved`)
    expect(amount).toBe(views[0].unproved)
    // A full proof looks at what they come to, too.
    const spoil = `update unit set stated = stated + 1 where entity_id = 'larkspur' and named = $1`
    await world.ownerSql(spoil, [list.rows[0]?.unit])
    for (const miscounted of [1, 0]) expect(await provenInFull(world)).toMatchObject({ miscounted })
  })

  it('are determined anew where an outlet moves that nothing is agreed upon', async () => {
    const expected = (): Promise<{ number: string; tax: string }[]> =>
      world.ownerSql(
        `select u.number, sum(f.tax) filter (where f.voice = 'expected')::text as tax from unit u join document d using (entity_id, system_id, document_id) left join tax_fact f using (entity_id, unit_id)
         where u.system_id = 'pos' and d.value->>'locationId' = 'loc_merrow' group by 1 order by 1`,
      )
    const movedTo = (address: string): Promise<object[]> =>
      world.standinSql(
        'pos',
        `update object set sequence = nextval('change_sequence'), revision = revision + 1, value = jsonb_set(value, '{address}', ${address}) where resource = 'locations' and id = 'loc_merrow'`,
      )
    const before = await expected()
    const [{ address } = { address: {} }] = await world.standinSql<{ address: object }>(
      'pos',
      `select value->'address' as address from object where resource = 'locations' and id = 'loc_merrow'`,
    )
    await movedTo(`(select value->'address' from object where resource = 'locations' and id = 'loc_quillby')`)
    await world.run('/pulls', { systemIds: ['pos'] })
    expect(await expected()).not.toEqual(before)
    await movedTo(`'${json(address)}'`)
    await world.run('/pulls', { systemIds: ['pos'] })
    expect(await expected()).toEqual(before)
  })

  it('say of a receipt that it is older than its source, where its change cannot be read', async () => {
    const [{ id } = { id: '' }] = await world.standinSql<{ id: string }>(
      'pos',
      `select id from object where resource = 'documents' and value->>'documentDate' like '2026-09-2%' order by id limit 1`,
    )
    const evidence = (): Promise<Evidence> =>
      world.ok('GET', `${MONTH}/evidence?open=${encodeURIComponent(`of=total&unit=pos%2F${id}`)}`)
    expect(await evidence()).toMatchObject({ kind: 'chain', headline: null, causes: [] })
    const set = (currency: string): Promise<object[]> =>
      world.standinSql(
        'pos',
        `update object set sequence = nextval('change_sequence'), revision = revision + 1, value = jsonb_set(value, '{currency}', '"${currency}"') where id = '${id}'`,
      )
    await set('ZZ')
    await world.run('/pulls', { systemIds: ['pos'] })
    expect(await evidence()).toMatchObject({
      proved: false,
      causes: [{ kind: 'flawed', code: 'AXION_OLDER_THAN_SOURCE' }],
    })
    await set('USD')
    await world.run('/pulls', { systemIds: ['pos'] })
    expect(await evidence()).toMatchObject({ headline: null, causes: [] })
  })

  it('prove nothing by themselves: what was charged and what was booked has to be pulled first', async () => {
    expect(early).toEqual([['Ledger', 'Billing'], ['Ledger', 'Billing'], false])
    expect((await world.ok<CloseView>('GET', `${MONTH}/close`)).awaits).toEqual([])
  })

  it('are each bound to a company by name, and ready or not by what they say', async () => {
    const { systems } = await world.ok<ConnectView>('GET', `${MONTH}/connect`)
    expect(systems.map((s) => [s.id, s.product, s.company])).toContainEqual([
      'pos',
      'Gatepost Till',
      'Larkspur Apiary Supply',
    ])
    expect(systems.find((s) => s.id === 'bank')?.checks.map((c) => [c.code, c.state])).toEqual([
      ['base-currency', 'passes'],
    ])
    const silent = systems.flatMap((s) =>
      s.streams
        .filter((stream) => stream.silence)
        .map((stream) => [s.id, stream.name, stream.silence?.since, stream.documents]),
    )
    expect(silent).toEqual([['pos', 'Merrow market', '2026-09-24', 25]])
    const sent = (id: string): [string, number][] =>
      systems.find((s) => s.id === id)?.streams.map((stream) => [stream.name, stream.documents]) ?? []
    expect([sent('payments'), sent('bank')]).toEqual([
      [
        ['chargebacks', 1],
        ['charges', 54],
        ['payouts', 4],
        ['refunds', 1],
      ],
      [['****2210', 20]],
    ])
    expect(
      systems
        .flatMap((s) => s.checks)
        .filter((c) => c.state !== 'passes')
        .map((c) => c.code),
    ).toEqual(['keeps-numbers', 'dimensions-there'])
  })

  it('have columns where they hold something of a kind, and findings of their own', async () => {
    const columns = async (kind: AlignKind): Promise<string[]> =>
      (await grid(kind)).systems.map((s) => s.id).sort()
    expect(await columns('rates')).toEqual(['billing', 'commerce', 'ledger', 'pos', 'purchasing'])
    expect([await columns('items'), await columns('parties'), await columns('accounts')]).toEqual([
      ['billing', 'commerce', 'pos'],
      ['billing', 'commerce', 'purchasing'],
      ['ledger'],
    ])
    await world.ok('POST', `${MONTH}/links/clear`, {
      kinds: ['agencies', 'rates', 'items', 'methods', 'locations'],
    })
    const found = async (kind: AlignKind): Promise<string[]> =>
      (await grid(kind)).rows.flatMap((r) =>
        r.findings
          .filter((f) => f.systemId !== null && !['ledger', 'billing'].includes(f.systemId))
          .map((f) => `${r.id} ${f.systemId} ${f.code.replace('AXION_', '')}`),
      )
    expect(await found('rates')).toEqual([
      'WN-PLX pos RATE_PERCENT',
      'WN-HOL commerce RATE_SPLIT',
      'WN commerce RATE_OFF',
      'TK commerce RATE_COMING',
      'TK purchasing RATE_PERCENT',
      'BK-FUEL commerce RATE_LEVY',
      '(new) commerce DEFAULT_RATE',
      ...['ALIGN_EXTRA', 'RATE_FLAT'].map((code) => `pos till_TK-MER pos ${code}`),
    ])
    expect(await found('agencies')).toEqual(['MCA pos ALIGN_NOT_LINKED', 'MCA pos ALIGN_NAME'])
    expect(await found('methods')).toEqual([
      'GIFT pos METHOD_KIND',
      'WEB-CARD payments-web ALIGN_NOT_LINKED',
      'WEB-CARD payments-web ALIGN_NAME',
      'MARKET commerce ALIGN_NOT_LINKED',
      'MARKET commerce ALIGN_NAME',
      'TRANSFER purchasing METHOD_OFF',
      'purchasing pm_card_office purchasing ALIGN_EXTRA',
      'payments brk_card payments ALIGN_EXTRA',
    ])
    expect(await found('locations')).toEqual([
      'QUAY pos LOCATION_CUT_OFF',
      'MARKET pos LOCATION_JURISDICTION',
      'WH commerce LOCATION_ADDRESS',
      'FAIR pos LOCATION_JURISDICTION',
    ])
    expect(await found('items')).toEqual([
      'TOOL-J commerce ALIGN_NAME',
      'SUIT-V pos ITEM_TAX_CODE',
      'HONEY-5 pos ITEM_ON_DEFAULT',
      'SEED-C commerce ITEM_TAX_CODE',
      '(new) commerce DEFAULT_CODE',
      'commerce web_BALM-60 commerce ALIGN_EXTRA',
    ])
    expect(await found('codes')).toEqual(['pos CLOTHES pos ALIGN_EXTRA'])
    const shared = (await grid('parties')).rows.filter((row) => row.shared)
    expect(shared.map((row) => row.id)).toEqual(['FOLD-HILL', 'FOLD-QUAY'])
    expect(await found('parties')).toEqual([
      'cus_thistledown commerce PARTY_CLAIMS',
      'cus_kestrel commerce PARTY_TWICE',
      '(new) commerce DEFAULT_PARTY',
      ...['ALIGN_EXTRA', 'PARTY_RATE'].map((code) => `commerce web_102 commerce ${code}`),
      ...['ALIGN_EXTRA', 'PARTY_FLAG'].map((code) => `commerce web_103 commerce ${code}`),
      'commerce web_foldgate commerce ALIGN_UNDECIDED',
    ])
  })

  it('are changed on their desks field by field, and nothing is set that is no plain field', async () => {
    const cutOffs = (): Promise<{ cutOff: string | null; name: string }[]> =>
      world.ownerSql(
        `select value->>'cutOff' as "cutOff", value->>'name' as name from held_object where entity_id = 'larkspur' and resource = 'locations' and system_id = 'pos' order by object_id`,
      )
    await world.desk('pos', 'objects', {
      resource: 'locations',
      id: 'loc_quay',
      cutOff: '',
      name: 'The quay',
    })
    await world.desk('pos', 'objects', { resource: 'payment-methods', id: 'pm_gift', active: 'no' })
    await world.run('/pulls', { systemIds: ['pos'] })
    expect(await cutOffs()).toContainEqual({ cutOff: null, name: 'The quay' })
    const changed = (await world.ok<ConnectView>('GET', `${MONTH}/connect`)).systems.find(
      (s) => s.id === 'pos',
    )?.changes
    expect(
      changed?.flatMap((c) => c.fields.map((f) => `${c.resource} ${f.field}: ${f.from} > ${f.to}`)).sort(),
    ).toEqual([
      'locations cutOff: 02:00 > ',
      'locations name: Port Lennox quay > The quay',
      'payment-methods active: true > false',
    ])
    for (const [fields, status] of [
      [{ resource: 'locations', id: 'loc_quay', address: 'x' }, 400],
      [{ resource: 'locations', id: 'nowhere', name: 'x' }, 404],
      [{ resource: 'accounts', id: '1', name: 'x' }, 404],
    ] as const) {
      await expect(world.desk('pos', 'objects', fields)).rejects.toThrow(String(status))
    }
  })

  it('show their ways in their own documents, beside what their settings claim', async () => {
    const ways = (system: string): Promise<WaysView> =>
      world.ok<WaysView>('GET', `${MONTH}/systems/${system}/ways`)
    const tills = await ways('pos')
    // Sales past midnight are dated by the calendar: no outlet's day ends later than its first of them.
    expect(
      tills.cutOffs.map((each) => [
        each.outlet,
        each.after,
        (each.until ?? '') < '02:00',
        each.claims,
        each.claimHolds,
      ]),
    ).toEqual([
      ['Merrow market', null, false, null, true],
      ['The quay', null, true, null, true],
      ['Quillby yard', null, false, null, true],
    ])
    expect([tills.documents, tills.claims]).toEqual([
      86,
      { level: 'line', unit: 'combined', tie: 'half-away' },
    ])
    const wendover = tills.regions.find((r) => r.name === 'State of Wendover')
    // They round by line as they say; and Port Lennox is charged at the percent that they hold, which was right until August.
    expect([wendover?.documents, wendover?.claimHolds, wendover?.rates]).toEqual([
      61,
      true,
      [
        {
          rate: 'Port Lennox, Wendover',
          as: [expect.stringMatching(/^Hollis County at 1\.25 %/), 'as on 2024-01-01'],
        },
      ],
    ])
    expect(
      (await ways('commerce')).regions.every((r) => r.places.length > 0 || r.unpredicted.length > 0),
    ).toBe(true)
    expect((await ways('ledger')).regions).toEqual([])
    // Honey stands on the tills' default code, and was charged as food all the same.
    expect(tills.onDefault).toEqual({ code: 'GOODS', items: [], documents: 0 })
    expect((await world.as('viewer', 'GET', `${MONTH}/systems/nobody/ways`)).statusCode).toBe(404)
  })

  it('stand beside each other through time, rate by rate', async () => {
    const { spans } = await world.ok<TimelineView>('GET', `${MONTH}/align/rates/TK/timeline`)
    expect(
      spans.map((s) => [
        s.from,
        s.to,
        s.ours,
        ...s.systems.map((one) => `${one.system} ${one.percent}${one.agrees ? '' : ' differs'}`),
      ]),
    ).toEqual([
      [
        '2024-01-01',
        '2026-10-31',
        '6.00',
        'Ledger 6.00',
        'Billing 6.00',
        'Web shop 6.00',
        'Purchasing 5.75 differs',
      ],
      [
        '2026-11-01',
        null,
        '6.25',
        'Ledger 6.00 differs',
        'Billing 6.25',
        'Web shop 6.00 differs',
        'Purchasing 6.25',
      ],
    ])
    expect((await world.as('viewer', 'GET', `${MONTH}/align/rates/NONE/timeline`)).statusCode).toBe(404)
  })

  it('get a sheet of what they should hold, where they take nothing from others', async () => {
    const csv = async (kind: string, system: string): Promise<string[]> =>
      (await world.as('viewer', 'GET', `${MONTH}/align/${kind}/should-hold?system=${system}`)).body
        .trim()
        .split(/\r\n/)
    expect((await csv('rates', 'purchasing')).slice(1)).toEqual([
      'buy_TK,TK,"Tamarack, rest of state",6.00,yes,buy_agency_TDT,Tamarack,6.00,,,,2026-10-31',
      'buy_TK,TK,"Tamarack, rest of state",6.00,yes,buy_agency_TDT,Tamarack,6.25,,,2026-11-01,',
    ])
    expect((await csv('methods', 'purchasing')).slice(1)).toEqual([
      'pm_transfer,,Bank transfer,transfer,,yes',
    ])
    expect(
      (await world.as('viewer', 'GET', `${MONTH}/align/rates/should-hold?system=nobody`)).statusCode,
    ).toBe(404)
  })

  it('are taken off and come back with their history, and links to what went meanwhile are stale', async () => {
    const put = (name: string, path: string): ReturnType<World['as']> =>
      world.as('administrator', 'PUT', `/api/entities/larkspur/systems/${name}`, {
        role: 'commerce',
        name: 'Web shop',
        address: `${world.standins}/${path}/bridge`,
        token: world.token,
      })
    expect((await world.as('preparer', 'DELETE', '/api/entities/larkspur/systems/commerce')).statusCode).toBe(
      403,
    )
    expect(
      (await world.as('administrator', 'DELETE', '/api/entities/larkspur/systems/commerce')).statusCode,
    ).toBe(200)
    const connect = (): Promise<ConnectView> => world.ok<ConnectView>('GET', `${MONTH}/connect`)
    expect([
      (await connect()).disconnected.map((s) => s.id),
      (await grid('rates')).systems.map((s) => s.id).includes('commerce'),
    ]).toEqual([['commerce'], false])
    // While it was away, a rate went for good: its own list of changes does not go back that far.
    await world.standinSql(
      'commerce',
      `delete from object where resource = 'tax-rates' and id = 'web_WN-FEN'`,
    )
    expect((await put('commerce', 'commerce')).statusCode).toBe(200)
    await world.run('/pulls', { systemIds: ['commerce'] })
    const fen = (await grid('rates')).rows.find((r) => r.id === 'WN-FEN')
    expect([
      (await connect()).disconnected,
      fen?.findings.filter((f) => f.systemId === 'commerce').map((f) => f.code),
    ]).toEqual([[], ['AXION_ALIGN_STALE_LINK']])
    expect(
      (
        await world.ownerSql<{ n: number }>(
          `select count(*)::int as n from document where system_id = 'commerce' and status <> 'void'`,
        )
      )[0]?.n,
    ).toBe(40)
    const other = await world.as('administrator', 'PUT', '/api/entities/larkspur/systems/commerce', {
      role: 'pos',
      name: 'Web shop',
      address: `${world.standins}/pos/bridge`,
      token: world.token,
    })
    expect(other.statusCode).toBe(422)
  })

  it('leave a month’s units the same, in whatever slices they are worked out', async () => {
    const gathered = (slice: number): Promise<string[]> =>
      inEntity(world.services.database, 'larkspur', async (books) => {
        const units: string[] = []
        const grounds = await groundsOf(books)
        const keys = await documentsOf(books, '2026-09', 'all')
        for await (const behind of behindIn(grounds, '2026-09', keys, slice))
          for (const { source, expected, stated, booked } of unitsOf(grounds, '2026-09', behind))
            units.push(json([source && nameOf(source.stored), expected, stated, booked]))
        return units
      })
    const whole = await gathered(5000)
    expect(whole.length).toBeGreaterThan(140)
    for (const slice of [1, 7, whole.length]) expect(await gathered(slice)).toEqual(whole)
  })

  it('keep what a bad record says wrong by name, and take the others', async () => {
    await world.desk('pos', 'objects', { resource: 'documents', id: 'rec_5001', kind: 'invoice' })
    await world.desk('pos', 'objects', { resource: 'documents', id: 'rec_5002', total: '1.00' })
    await world.desk('pos', 'remove', { resource: 'documents', id: 'rec_5003' })
    await world.run('/pulls', { systemIds: ['pos'] })
    const findings = await world.ownerSql<{ object_id: string; problem: string }>(
      `select object_id, facts->>'problem' as problem from finding where entity_id = 'larkspur' order by object_id`,
    )
    expect(
      findings.map((f) => [
        f.object_id,
        /kind "invoice" is none that a pos system has|do not add up/.test(f.problem),
      ]),
    ).toEqual([
      ['rec_5001', true],
      ['rec_5002', true],
    ])
    expect(
      await world.ownerSql(
        `select document_id from document where entity_id = 'larkspur' and not posted and status = 'void'`,
      ),
    ).toEqual([{ document_id: 'rec_5003' }])
  })
})
