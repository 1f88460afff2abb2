import {
  selectorText,
  type CloseView,
  type Evidence,
  type GridView,
  type Limits,
  type PathView,
  type PostView,
  type TieOutView,
  type WorkList,
} from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { bookAll, makeReadyWorld, MONTH, type World } from './world.ts'

/** A month that is proved, and everything that must not leave it looking so. */
let world: World
let documents: readonly { readonly id: string; readonly number: string }[] = []
beforeAll(async () => {
  world = await makeReadyWorld()
  const [row] = await world.ledgerSql<{ value: object }>(`select value from setting where name = 'settings'`)
  await world.ledgerSql(`update setting set value = $1 where name = 'settings'`, [
    JSON.stringify({ ...row?.value, taxComputation: 'as-given' }),
  ])
  // What its source charges wrongly is not of this matter: it goes before anything is booked.
  const { rows } = await world.ok<PostView>('GET', `${MONTH}/post?limit=1000`)
  const wrong = rows.filter((row) => row.remarks.some((r) => r.code === 'AXION_STATED_NOT_EXPECTED'))
  await world.billingSql(
    `update object set removed = true, value = null, sequence = nextval('change_sequence') where id = any($1)`,
    [wrong.map((row) => row.unit.split('/')[1])],
  )
  await world.run('/pulls', { systemIds: null })
  await world.run('/post/rehearsal')
  await bookAll(world)
  documents = await world.billingSql(
    `select id, value->>'number' as number from object where resource = 'documents' and value->>'status' = 'open' and not removed and jsonb_array_length(value->'taxes') = 1 and (value->'taxes'->0->>'tax')::numeric > 1 order by id`,
  )
})
afterAll(() => world.close())

const pull = () => world.run('/pulls', { systemIds: null })
const tieOut = (query = ''): Promise<TieOutView> => world.ok('GET', `${MONTH}/tie-out${query}`)
const close = (): Promise<CloseView> => world.ok('GET', `${MONTH}/close`)
const rowsOf = async (number: string) =>
  (await tieOut(`?show=all&search=${number}`)).rows.filter((row) => row.number === number)
const numberOf = (at: number): string => documents[at]?.number ?? ''
const idOf = (at: number): string => documents[at]?.id ?? ''

/** Changes an object in a system's own database; silently where it gets no new sequence. */
async function plant(
  of: 'billing' | 'ledger',
  resource: string,
  where: string,
  change: string,
  silently = false,
): Promise<void> {
  const sql = of === 'billing' ? world.billingSql : world.ledgerSql
  const sequence = silently ? '' : `sequence = nextval('change_sequence'), revision = revision + 1, `
  await sql(`update object set ${sequence}value = ${change} where resource = '${resource}' and ${where}`)
}
const entryOf = (at: number): string =>
  `(value->>'externalId') like '%/${idOf(at)}/invoice' and not (value->>'voided')::boolean`

it('is proved to begin with', async () => {
  expect(await close()).toMatchObject({ unproved: '0.00', unprovedNet: '0.00', documents: 0, notFresh: [] })
  expect(documents.length).toBeGreaterThan(12)
})

type Chain = Extract<Evidence, { kind: 'chain' }>
const evidenceOf = (open: string): Promise<Chain> =>
  world.ok<Chain>('GET', `${MONTH}/evidence?open=${encodeURIComponent(open)}`)

describe('what cannot be read', () => {
  const line0 = (fields: string): string =>
    `jsonb_set(value, '{lines,0}', value->'lines'->0 || ${fields}::jsonb)`
  test.each<[string, number, 'billing' | 'ledger', string, RegExp]>([
    ['a total that does not add up', 0, 'billing', `jsonb_set(value, '{total}', '"1.00"')`, /version before/],
    [
      'an exchange rate of nil',
      1,
      'billing',
      `jsonb_set(value, '{exchangeRate}', '"0.00"')`,
      /version before/,
    ],
    [
      'a negative exchange rate',
      2,
      'billing',
      `jsonb_set(value, '{exchangeRate}', '"-1.1"')`,
      /version before/,
    ],
    [
      'an entry line with debit and credit',
      3,
      'ledger',
      line0(`jsonb_build_object('credit', '1.00', 'debit', '2.00')`),
      /debit and a credit/,
    ],
    [
      'an entry out of balance',
      4,
      'ledger',
      line0(`jsonb_build_object('debit', '99999.99')`),
      /does not balance/,
    ],
    [
      'books in another currency',
      5,
      'ledger',
      `jsonb_set(value, '{baseCurrency}', '"EUR"')`,
      /its books are in EUR/,
    ],
  ])(
    '%s: the version before is kept, not proved, and read again without a new sequence',
    async (_, at, of, change, words) => {
      const [resource, where] =
        of === 'billing' ? ['documents', `id = '${idOf(at)}'`] : ['journal-entries', entryOf(at)]
      const sql = of === 'billing' ? world.billingSql : world.ledgerSql
      const [held] = await sql<{ value: object }>(
        `select value from object where resource = '${resource}' and ${where}`,
      )
      await plant(of, resource, where, change)
      await pull()
      const rows = await rowsOf(numberOf(at))
      expect(rows.length).toBeGreaterThan(0)
      expect(rows.every((row) => !row.proved)).toBe(true)
      const { causes, documents: open } = await tieOut()
      expect(open).toBe(1)
      expect(causes[0]?.facts).toMatchObject({ kind: 'flawed' })
      expect(JSON.stringify(causes[0]?.facts) + (of === 'billing' ? 'version before' : '')).toMatch(words)
      await sql(
        `update object set value = $1 where resource = '${resource}' and id = (select id from object where resource = '${resource}' and (value->>'number') = $2 limit 1)`,
        [JSON.stringify(held?.value), (held?.value as { number: string }).number],
      )
      await pull()
      expect((await rowsOf(numberOf(at))).every((row) => row.proved)).toBe(true)
      expect(await close()).toMatchObject({ documents: 0 })
    },
  )

  it('never was: it is a document all the same, with no amounts and no proof', async () => {
    await world.billingSql(
      `insert into object (resource, id, sequence, revision, value) values ('documents', 'inv_odd', nextval('change_sequence'), 1, '{"number": "ODD-1", "documentDate": "2026-09-20", "party": {"id": "p", "name": "Odd Ltd"}, "total": "many"}')`,
    )
    expect((await pull()).pulled.flatMap((p) => p.counts).reduce((n, c) => n + c.unreadable, 0)).toBe(1)
    const [row] = await rowsOf('ODD-1')
    expect(row).toMatchObject({ party: 'Odd Ltd', proved: false, known: 'no', expected: null, stated: null })
    expect(await close()).toMatchObject({ unproved: '0.00', documents: 1 })
    expect((await world.ok<PathView>('GET', `${MONTH}/path`)).connect.limits.unread).toBe(1)
    // Its evidence says nothing of agreement: what it states is not known, nor what to expect of it.
    const chain = await evidenceOf('of=unproved&unit=billing%2Finv_odd')
    expect([chain.causes, chain.chain.slice(0, 2).map((link) => [link.title, link.silence])]).toEqual([
      [expect.objectContaining({ kind: 'flawed', code: 'AXION_NEVER_READ' })],
      [
        ['ODD-1', 'not-known'],
        ['Determination', 'not-known'],
      ],
    ])
    // It stays so, whatever is pulled, until it can be read or is gone.
    await pull()
    expect(await close()).toMatchObject({ documents: 1 })
    await world.billingSql(
      `update object set removed = true, value = null, sequence = nextval('change_sequence') where id = 'inv_odd'`,
    )
    await pull()
    expect(await close()).toMatchObject({ documents: 0 })
  })

  it('a whole system: the run fails, and what is known of it is said to be from before', async () => {
    const moved = (from: string, to: string) =>
      world.ownerSql(
        `update system set address = replace(address, '${from}', '${to}') where system_id = 'billing'`,
      )
    const pulledAt = async (): Promise<string | null | undefined> =>
      (await world.ok<GridView>('GET', `${MONTH}/align/rates`)).systems.find(({ id }) => id === 'billing')
        ?.pulledAt
    const limits = async (): Promise<Limits[]> => [
      (await world.ok<PathView>('GET', `${MONTH}/path`)).connect.limits,
      (await world.ok<GridView>('GET', `${MONTH}/align/rates`)).limits,
    ]
    const whole = { notPulled: [], failed: [], unread: 0, older: null, all: false }
    expect(await limits()).toEqual([whole, whole])
    const before = await pulledAt()
    await moved('/billing/', '/nowhere/')
    const run = await pull()
    // No page says a plain yes, and none takes the attempt for a pull.
    expect(await limits()).toEqual([
      { ...whole, failed: ['Billing'] },
      { ...whole, failed: ['Billing'] },
    ])
    expect(await pulledAt()).toBe(before)
    expect([run.state, run.pulled.filter((p) => p.problem).length]).toEqual(['failed', 1])
    const { notFresh } = await close()
    expect(notFresh).toMatchObject([{ system: 'Billing' }])
    expect(notFresh[0]?.since).not.toBeNull()
    expect((await tieOut()).notFresh).toHaveLength(1)
    await moved('/nowhere/', '/billing/')
    expect((await pull()).state).toBe('done')
    expect((await close()).notFresh).toEqual([])
  })
})

describe('what agrees in all and is not right', () => {
  it('a component of an agency that is not there', async () => {
    const where = `id = '${idOf(6)}'`
    const held = await world.billingSql<{ value: object }>(`select value from object where ${where}`)
    await plant(
      'billing',
      'documents',
      where,
      `jsonb_set(value, '{taxes,0,components,0,agencyId}', '"nobody"')`,
    )
    await pull()
    expect((await rowsOf(numberOf(6))).every((row) => !row.proved)).toBe(true)
    expect((await tieOut()).causes[0]?.facts).toMatchObject({
      kind: 'flawed',
      code: 'AXION_AGENCY_NOT_THERE',
    })
    await plant('billing', 'documents', where, `'${JSON.stringify(held[0]?.value)}'`)
    await pull()
    expect(await close()).toMatchObject({ documents: 0 })
  })

  it('stands in a work list with the way to it; what is ticked off is looked at by the next pull', async () => {
    const where = `id = '${idOf(10)}'`
    const [held] = await world.billingSql<{ value: object }>(`select value from object where ${where}`)
    const wrong = `jsonb_set(jsonb_set(jsonb_set(value, '{taxes,0,tax}', to_jsonb(((value->'taxes'->0->>'tax')::numeric + 1)::text)), '{taxes,0,components,0,tax}', to_jsonb(((value->'taxes'->0->'components'->0->>'tax')::numeric + 1)::text)), '{total}', to_jsonb(((value->>'total')::numeric + 1)::text))`
    await plant('billing', 'documents', where, wrong)
    await pull()
    const [cause] = (await tieOut()).causes
    const path = `${MONTH}/tie-out/work`
    const list = (): Promise<WorkList> =>
      world.ok('GET', `${path}?cause=${encodeURIComponent(cause?.key ?? '')}`)
    const [only] = (await list()).documents
    expect([(await list()).documents.length, only?.number, only?.ticked]).toEqual([1, numberOf(10), null])
    expect(only?.address).toMatch(/^http/)
    expect(
      (await world.as('viewer', 'PUT', `${MONTH}/tie-out/ticks`, { unit: only?.unit, done: true }))
        .statusCode,
    ).toBe(403)
    await world.ok('PUT', `${MONTH}/tie-out/ticks`, { unit: only?.unit, done: true })
    expect((await list()).documents[0]?.ticked).toMatchObject({ by: 'preparer', stillWrong: false })
    // Only where both sides were read since does anybody know.
    await world.run('/pulls', { systemIds: ['ledger'] })
    expect((await list()).documents[0]?.ticked).toMatchObject({ stillWrong: false })
    await pull()
    expect((await list()).documents[0]?.ticked).toMatchObject({ stillWrong: true })
    await plant('billing', 'documents', where, `'${JSON.stringify(held?.value)}'`)
    await pull()
    expect((await list()).documents).toEqual([])
  })

  it('revenue moved to another account by hand, with the sum in view', async () => {
    const [entry] = await world.ledgerSql<{
      id: string
      value: { lines: { accountId: string; credit: string }[] }
    }>(`select id, value from object where resource = 'journal-entries' and ${entryOf(7)}`)
    const at = entry?.value.lines.findIndex((line) => line.accountId === 'acct_4000') ?? -1
    const change = (account: string): string => `jsonb_set(value, '{lines,${at},accountId}', '"${account}"')`
    await plant('ledger', 'journal-entries', `id = '${entry?.id}'`, change('acct_1200'))
    await pull()
    const { causes, unproved, unprovedNet } = await tieOut()
    expect(unproved).toBe('0.00')
    expect(causes).toMatchObject([{ headline: 'account', documents: 1, facts: { kind: 'moved' } }])
    expect(unprovedNet).toBe(entry?.value.lines[at]?.credit)
    expect(await close()).toMatchObject({ unprovedNet, documents: 1 })
    await plant('ledger', 'journal-entries', `id = '${entry?.id}'`, change('acct_4000'))
    await pull()
    expect(await close()).toMatchObject({ documents: 0 })
  })

  it('an agency’s rows that cancel out: what is astray of each is shown', async () => {
    interface Entry {
      readonly id: string
      readonly value: { readonly lines: { accountId: string; agencyId: string | null; credit: string }[] }
    }
    const cents = (text: string): bigint => BigInt(text.replace('.', ''))
    const text = (units: bigint): string => `${units / 100n}.${String(units % 100n).padStart(2, '0')}`
    const booked = await world.ledgerSql<Entry>(
      `select id, value from object where resource = 'journal-entries' and not removed and not (value->>'voided')::boolean and value->>'postingDate' like '2026-09%' order by id`,
    )
    const [first, second] = booked.filter(({ value }) =>
      ['agency_WRO', 'acct_4000'].every((of) =>
        value.lines.some((line) => [line.agencyId, line.accountId].includes(of) && cents(line.credit) > 100n),
      ),
    )
    /** Moves money between revenue and the tax of one agency in a booked entry. */
    const move = async (was: Entry | undefined, by: bigint): Promise<void> => {
      if (!was) return
      const revenue = was.value.lines.find((line) => line.accountId === 'acct_4000')
      const tax = was.value.lines.find((line) => line.agencyId === 'agency_WRO')
      const lines = was.value.lines.map((line) =>
        line === revenue
          ? { ...line, credit: text(cents(line.credit) - by) }
          : line === tax
            ? { ...line, credit: text(cents(line.credit) + by) }
            : line,
      )
      await put(was.id, { ...was.value, lines })
    }
    const put = (id: string, value: object): Promise<object[]> =>
      world.ledgerSql(
        `update object set value = $1, revision = revision + 1, sequence = nextval('change_sequence') where id = $2`,
        [JSON.stringify(value), id],
      )
    const before = (await close()).rows.find((row) => row.agency === 'WRO')
    await move(first, 80n)
    await move(second, -80n)
    await pull()
    const after = (await close()).rows.find((row) => row.agency === 'WRO')
    expect([after?.booked, after?.expected]).toEqual([before?.booked, before?.expected])
    expect(after).toMatchObject({ unproved: '1.60', bookedApart: { over: '0.80', under: '-0.80' } })
    expect(await close()).toMatchObject({ unproved: '1.60', documents: 2 })
    for (const was of [first, second]) if (was) await put(was.id, was.value)
    await pull()
    expect(await close()).toMatchObject({ documents: 0 })
  })

  it('a line that nobody decided, though its source taxed nothing of it', async () => {
    const where = `id = '${idOf(8)}'`
    const held = await world.billingSql<{ value: { total: string } }>(
      `select value from object where ${where}`,
    )
    const more = `jsonb_set(jsonb_set(value, '{lines}', value->'lines' || jsonb_build_array(value->'lines'->0 || '{"id": "odd", "itemCode": null, "description": "Engraving by hand", "quantity": "1", "unitPrice": "12.00", "discount": "0.00", "amount": "12.00", "taxRateId": null}'::jsonb)), '{total}', to_jsonb(((value->>'total')::numeric + 12)::text))`
    await plant('billing', 'documents', where, more)
    await pull()
    await world.run('/post/rehearsal')
    const { causes, rows } = await tieOut(`?show=all&search=${numberOf(8)}`)
    expect(causes[0]?.facts).toMatchObject({ kind: 'undecided', wording: 'Engraving by hand' })
    expect(rows[0]).toMatchObject({ known: 'partly', proved: false })
    // The other lines are expected, and agree with what was charged.
    expect(rows.every((row) => row.expected === row.stated)).toBe(true)
    await plant('billing', 'documents', where, `'${JSON.stringify(held[0]?.value)}'`)
    await pull()
  })

  it('a document that was removed and comes back unchanged is proved anew', async () => {
    const where = `id = '${idOf(9)}'`
    const [held] = await world.billingSql<{ value: object }>(`select value from object where ${where}`)
    await world.billingSql(
      `update object set removed = true, value = null, sequence = nextval('change_sequence') where ${where}`,
    )
    await pull()
    expect((await rowsOf(numberOf(9)))[0]).toMatchObject({ proved: false, facets: ['voided'] })
    await world.billingSql(
      `update object set removed = false, value = $1, sequence = nextval('change_sequence') where ${where}`,
      [JSON.stringify(held?.value)],
    )
    await pull()
    expect((await rowsOf(numberOf(9))).every((row) => row.proved)).toBe(true)
  })
})

it('opens a document whose entry names no agency as the proof reads it: without a break', async () => {
  const where = entryOf(9)
  const [held] = await world.ledgerSql<{ value: object }>(
    `select value from object where resource = 'journal-entries' and ${where}`,
  )
  await plant(
    'ledger',
    'journal-entries',
    where,
    `jsonb_set(value, '{lines}', (select jsonb_agg(l || '{"agencyId": null}') from jsonb_array_elements(value->'lines') l))`,
  )
  await pull()
  const rows = (await rowsOf(numberOf(9))).filter((row) => row.agency !== null)
  expect([rows.length > 0, rows.every((row) => row.proved)]).toEqual([true, true])
  for (const { unit, agency } of rows) {
    const evidence = await world.ok<Evidence>(
      'GET',
      `${MONTH}/evidence?open=${encodeURIComponent(selectorText({ of: 'tax', voice: 'booked', unit, agency: agency ?? '' }))}`,
    )
    expect(evidence.kind === 'chain' && [evidence.breaksAt, evidence.chain[3]?.lines.length]).toEqual([
      null,
      1,
    ])
  }
  await plant('ledger', 'journal-entries', where, `'${JSON.stringify(held?.value)}'::jsonb`)
  await pull()
  expect(await close()).toMatchObject({ documents: 0 })
})
