import type { SaleView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { makeReadyWorld, MONTH, type World } from './world.ts'

/** What tax a sale would bear, asked before there is one (F9): as it is expected of the documents that there are, and beside what systems hold. */
let world: World
beforeAll(async () => {
  world = await makeReadyWorld()
})
afterAll(() => world.close())

const FENWICK = { country: 'XA', region: 'XA-WN', city: 'Fenwick Falls', postalCode: '40217' }
const HIVE = { ...FENWICK, date: '2026-09-16', item: 'HIVE-10', amount: '3960.00' }
const ask = (sale: Readonly<Record<string, string>>): Promise<SaleView> =>
  world.ok('GET', `${MONTH}/sale?${new URLSearchParams(sale).toString()}`)
const of = (view: SaleView, id: string): SaleView['systems'] => view.systems.filter((one) => one.id === id)

interface Sold {
  readonly value: {
    readonly supplyDate: string
    readonly party: { readonly id: string }
    readonly shipTo: Readonly<Record<string, string | null>>
    readonly lines: readonly {
      readonly itemCode: string
      readonly kind: string
      readonly quantity: string
      readonly amount: string
    }[]
  }
  readonly expected: string
}

it('is what a proof expects of every document of one line that was sold so', async () => {
  const sold = await world.ownerSql<Sold>(
    `select d.value, (select coalesce(sum(t.tax), 0)::text from tax_fact t where t.entity_id = u.entity_id and t.unit_id = u.unit_id and t.voice = 'expected') as expected
     from unit u join document d using (entity_id, system_id, document_id)
     where u.kind = 'invoice' and u.expected_complete and d.status <> 'void' and d.value->>'currency' = 'USD' and d.value->>'pricesIncludeTax' = 'false'
       and jsonb_array_length(d.value->'lines') = 1 and (d.value->>'discount')::numeric = 0 and d.value->'lines'->0->>'itemCode' is not null
       and d.value->'shipFrom'->>'postalCode' = '41002'`,
  )
  expect(sold.length).toBeGreaterThan(10)
  for (const { value, expected } of sold) {
    const [line] = value.lines
    const place = Object.entries(value.shipTo).flatMap(([name, at]) => (at === null ? [] : [[name, at]]))
    const view = await ask({
      ...Object.fromEntries(place),
      sentFrom: 'home',
      date: value.supplyDate,
      party: value.party.id,
      item: line?.itemCode ?? '',
      kind: line?.kind ?? '',
      quantity: line?.quantity ?? '',
      amount: line?.amount ?? '',
    })
    expect(view.tax?.replace('.', '').replace(/^0+(?=\d)/, ''), JSON.stringify(value)).toBe(expected)
  }
})

describe('a sale that is asked about', () => {
  it('says each component with its agency, account, rate and reasons', async () => {
    const view = await ask(HIVE)
    expect(view.item).toMatchObject({ id: 'HIVE-10' })
    expect([view.net, view.total]).toEqual([
      '3960.00',
      String(3960 + Number(view.tax)).replace(/(\.\d)$/, '$10'),
    ])
    expect(view.rows.length).toBeGreaterThan(1)
    for (const row of view.rows) {
      expect(row.account).toMatch(/^\d+$/)
      expect(row.from.some((one) => one.startsWith('registration '))).toBe(true)
    }
    const cents = (text: string | null): number => Math.round(Number(text) * 100)
    expect(view.rows.reduce((all, row) => all + cents(row.tax), 0)).toBe(cents(view.tax))
    expect(view.rounding).toMatch(/^each /)
  })

  it('stands beside what each system would come to, and says why it is apart', async () => {
    const before = await ask(HIVE)
    const [billing] = of(before, 'billing')
    expect(billing).toMatchObject({ tax: before.tax, gap: '0.00', says: [] })
    // The ledger has Hollis County at another percent.
    const [ledger] = of(before, 'ledger')
    expect(Number(ledger?.gap)).not.toBe(0)
    expect(ledger?.says.join()).toMatch(/Hollis County at .* %, not 1\.45 %/)
    await world.billingSql(
      `update object set value = jsonb_set(value, '{itemTaxCode}', '"FOOD"'), sequence = nextval('change_sequence'), revision = revision + 1 where resource = 'items' and value->>'code' = 'HIVE-10'`,
    )
    await world.run('/pulls', { systemIds: null })
    const [other] = of(await ask(HIVE), 'billing')
    expect(other?.says[0]).toMatch(/^has the item under /)
  })

  it('says of a rate that it is only taken to be the one, where nobody linked it', async () => {
    const link = { systemId: 'ledger', kind: 'combined-rate', objectId: 'tax_WN-FEN' }
    await world.ok('DELETE', `${MONTH}/links`, link)
    const [ledger] = of(await ask(HIVE), 'ledger')
    expect(ledger?.says.join()).toContain('its rate is not linked, and taken for')
    await world.ok('PUT', `${MONTH}/links`, { ...link, baselineId: 'WN-FEN' })
    expect(of(await ask(HIVE), 'ledger')[0]?.says.join()).not.toContain('not linked')
  })

  test.each<[string, Record<string, string>, RegExp]>([
    ['a place that nobody knows', { country: 'XQ', region: '', city: '', postalCode: '' }, /XQ/],
    ['an item without a code', { item: 'NO-SUCH-ITEM' }, /./],
  ])('leaves open what the baseline leaves open, with what to do: %s', async (_, other, says) => {
    const given = Object.entries({ ...HIVE, ...other }).filter(([, value]) => value !== '')
    const view = await ask(Object.fromEntries(given))
    expect([view.tax, view.net, view.systems]).toEqual([null, null, []])
    expect(view.findings.map((one) => one.says).join(' ')).toMatch(says)
  })

  test.each(['-1.00', '1e3', '1,000.00', '0.001', ''])('takes no amount “%s”', async (amount) => {
    const answer = await world.as(
      'viewer',
      'GET',
      `${MONTH}/sale?${new URLSearchParams({ ...HIVE, amount }).toString()}`,
    )
    expect(answer.statusCode).toBe(answer.json().code === 'AXION_NOT_AN_AMOUNT' ? answer.statusCode : 400)
    expect(answer.statusCode).toBeGreaterThanOrEqual(400)
  })
})
