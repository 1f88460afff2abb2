import type {
  CloseView,
  MonthsView,
  OpeningListView,
  OpeningPreview,
  OpeningView,
  PostView,
} from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { demoPair, plainLedger, makeReadyWorld, MONTH, type World } from './world.ts'

const LINE = {
  agencyId: null,
  taxRateId: null,
  base: null,
  baseDebit: null,
  baseCredit: null,
  description: '',
}
/** An entry of the bookkeeper's: credits less debits by account. */
function entry(number: string, postingDate: string, amounts: Readonly<Record<string, string>>) {
  const lines = Object.entries(amounts).map(([account, amount]) => ({
    ...LINE,
    accountId: `acct_${account}`,
    debit: amount.startsWith('-') ? amount.slice(1) : '0.00',
    credit: amount.startsWith('-') ? '0.00' : amount,
  }))
  const value = {
    number,
    bookingId: null,
    externalId: null,
    bookingRevision: null,
    postingDate,
    currency: 'USD',
    baseCurrency: 'USD',
    memo: `Entry ${number}`,
    voided: false,
    changedBy: 'the bookkeeper',
    changedAt: '2026-07-01T12:00:00Z',
    webAddress: null,
    lines,
  }
  return { resource: 'journal-entries', id: number, value }
}
/** Tax of two months of which the first was paid, gift cards, and what customers owed. */
const BEFORE = [
  entry('1', '2026-07-20', { '1100': '-214.50', '4000': '200.00', '2210': '14.50' }),
  entry('2', '2026-08-12', { '1100': '-321.75', '4000': '300.00', '2210': '21.75' }),
  entry('3', '2026-08-20', { '2210': '-14.50', '1000': '14.50' }),
  entry('4', '2026-08-28', { '1100': '-107.25', '4000': '100.00', '2210': '7.25' }),
  entry('5', '2026-08-30', { '1000': '-50.00', '2400': '50.00' }),
  entry('6', '2026-08-30', { '1000': '-25.00', '2400': '25.00' }),
  entry('7', '2026-08-31', { '1000': '-214.50', '1100': '214.50' }),
]

let world: World
beforeAll(async () => {
  const { settings, objects } = plainLedger()
  world = await makeReadyWorld({
    ledger: { settings, objects: [...objects, ...BEFORE] },
    billing: demoPair().billing,
  })
})
afterAll(() => world.close())

const view = (): Promise<OpeningView> => world.ok('GET', `${MONTH}/opening`)
const list = (account: string): Promise<OpeningListView> =>
  world.ok('GET', `${MONTH}/opening/accounts/${account}`)
const keep = (account: string, items: readonly object[], role = 'preparer') =>
  world.as(role, 'PUT', `${MONTH}/opening/accounts/${account}`, { items })
const previewed = (day: string | null) =>
  world.as('administrator', 'POST', `${MONTH}/opening/preview`, { day })
const setDay = async (day: string | null): Promise<OpeningPreview> => {
  const seen = (await previewed(day)).json<OpeningPreview>()
  const answer = await world.as('administrator', 'PUT', `${MONTH}/opening`, { day, revision: seen.revision })
  expect(answer.statusCode).toBe(200)
  await world.finish(answer.json<{ run: string }>().run)
  return seen
}
const standing = async (account: string) => (await view()).accounts.find((one) => one.account === account)
const orphans = async (month: string): Promise<number> =>
  (
    await world.ownerSql<{ n: number }>(
      `select count(*)::int as n from unit where period = '${month}' and document_id is null`,
    )
  )[0]?.n ?? 0
const item = (reference: string, amount: string, date: string | null = null) => ({
  reference,
  party: '',
  date,
  amount,
})

describe('the opening day', () => {
  it('is nobody’s before it is said: everything is for the books, and nothing is taken over', async () => {
    expect(await view()).toMatchObject({ day: null, ledger: null, trial: null, accounts: [] })
    expect(await orphans('2026-08')).toBeGreaterThan(0)
    const refused = await keep('2210', [])
    expect([refused.statusCode, refused.json<{ code: string }>().code]).toEqual([409, 'AXION_NO_OPENING_DAY'])
  })

  test.each([
    ['no first of a month', '2026-09-02', 'administrator', 422, 'AXION_NO_FIRST_OF_MONTH'],
    ['by a preparer', '2026-09-01', 'preparer', 403, 'AXION_FORBIDDEN'],
  ])('is not %s', async (_, day, role, status, code) => {
    const answer = await world.as(role, 'POST', `${MONTH}/opening/preview`, { day })
    expect([answer.statusCode, answer.json<{ code: string }>().code]).toEqual([status, code])
  })

  it('takes what is dated before off the books and says so first; what it rested on meanwhile is looked at again', async () => {
    const documents = await world.ownerSql<{ n: number }>(
      `select count(*)::int as n from document where document_date < '2026-09-10' and status not in ('draft', 'void')`,
    )
    await setDay('2026-09-01')
    const stale = (await previewed('2026-10-01')).json<OpeningPreview>()
    expect(stale.leaves.documents).toBeGreaterThanOrEqual(documents[0]?.n ?? 0)
    await keep('2400', [item('GC-1', '50.00'), item('GC-2', '25.00')])
    const answer = await world.as('administrator', 'PUT', `${MONTH}/opening`, {
      day: '2026-10-01',
      revision: stale.revision,
    })
    expect([answer.statusCode, answer.json<{ code: string }>().code]).toEqual([409, 'AXION_STALE'])
    await keep('2400', [])
  })

  it('leaves what stood in the ledger by then to what is taken over: it is nobody’s difference any more', async () => {
    expect(await orphans('2026-08')).toBe(0)
    const { months } = await world.ok<MonthsView>('GET', '/api/entities/larkspur/months')
    expect(months.at(-1)?.month).toBe('2026-09')
  })

  it('moves documents with it, their months proved anew, and takes them back with it', async () => {
    const before = await world.ok<CloseView>('GET', `${MONTH}/close`)
    const posted = await world.ok<PostView>('GET', `${MONTH}/post`)
    const august = (await view()).before.documents
    const seen = await setDay('2026-10-01')
    const left = await world.ok<PostView>('GET', `${MONTH}/post`)
    expect(left.counts['out-of-range']).toBe(seen.leaves.documents)
    expect(left.counts.rehearsed ?? 0).toBe(0)
    expect((await view()).before.documents).toBe(august + seen.leaves.documents)
    const back = await setDay('2026-09-01')
    expect(back.comes.documents).toBe(seen.leaves.documents)
    const after = await world.ok<PostView>('GET', `${MONTH}/post`)
    expect(after.counts['out-of-range'] ?? 0).toBe(posted.counts['out-of-range'] ?? 0)
    expect((await world.ok<CloseView>('GET', `${MONTH}/close`)).unproved).toEqual(before.unproved)
  })
})

/** What September's documents come to in all voices, and how they stand. */
const september = () =>
  world.ownerSql<{ named: string }>(
    `select u.named, u.missing_why, u.unproved::text, u.cause, (select string_agg(concat_ws(' ', f.voice, f.agency, f.account, f.tax, f.base), '; ' order by f.voice, f.agency, f.account, f.tax) from tax_fact f where f.entity_id = u.entity_id and f.unit_id = u.unit_id) as facts
     from unit u where u.period = '2026-09' order by u.named`,
  )

describe('what is from before', () => {
  it('is read for reference: credits of September find their originals there, and are posted as before', async () => {
    const credits = await world.ownerSql<{ named: string }>(
      `select c.named from document c join document o on o.system_id = c.system_id and o.document_id = c.credits_document where c.period = '2026-09' and o.document_date < '2026-09-01' and o.not_taken = 'out-of-range'`,
    )
    expect(credits.length).toBeGreaterThan(0)
    const opened = await september()
    await setDay(null)
    expect(await september()).toEqual(opened)
    await setDay('2026-09-01')
    expect(await september()).toEqual(opened)
    await world.run('/post/rehearsal')
    const { rows } = await world.ok<PostView>('GET', `${MONTH}/post?limit=200`)
    const states = credits.map(({ named }) => rows.find(({ unit }) => unit === named)?.state)
    expect(new Set(states)).toEqual(new Set(['rehearsed']))
  })
})

it('is no part of a later month’s balance but as what it opened with: the total opens into each account once', async () => {
  await world.run('/pulls', { systemIds: ['ledger'] })
  const { totals } = await world.ok<CloseView>('GET', `${MONTH}/close`)
  const evidence = await world.ok<{ amount: string; members: { label: string }[] }>(
    'GET',
    `${MONTH}/evidence?open=${encodeURIComponent('of=balance')}`,
  )
  const labels = evidence.members.map(({ label }) => label)
  expect([evidence.amount, new Set(labels).size]).toEqual([totals.balance, labels.length])
})

describe('what an account stood at', () => {
  it('is the ledger’s trial balance of the evening before, which comes to nil', async () => {
    const { trial, accounts, ledger } = await view()
    expect([ledger, trial?.sum]).toEqual(['Ledger', '0.00'])
    expect(
      accounts
        .filter(({ balance }) => balance !== '0.00')
        .map(({ account, balance, standing }) => [account, balance, standing]),
    ).toEqual([
      ['1100', '429.00', 'lacking'],
      ['2210', '29.00', 'lacking'],
      ['2400', '75.00', 'lacking'],
    ])
    // What is cleared, owed and due is there; banks, revenue and costs are not.
    const all = accounts.map(({ account }) => account)
    expect([all.includes('4000'), all.includes('3000'), all.includes('2100')]).toEqual([false, false, true])
  })

  it('has a list proposed that comes to it exactly, and is nothing before somebody keeps it', async () => {
    const tax = await list('2210')
    expect(tax.proposed).toEqual({
      from: 'months',
      sum: '29.00',
      items: [expect.objectContaining({ reference: '2026-08', amount: '29.00', date: '2026-08-28' })],
    })
    expect(tax.read).toBe('29.00')
    const cards = await list('2400')
    expect([cards.proposed?.from, cards.proposed?.items.map(({ amount }) => amount)]).toEqual([
      'entries',
      ['25.00', '50.00'],
    ])
    expect(tax.items).toEqual([])
    expect((await standing('2210'))?.standing).toBe('lacking')
  })

  it('is taken over where the list comes to it, apart where it does not, and moved where the ledger has another amount since', async () => {
    expect((await keep('2400', [item('GC-1', '50.00'), item('GC-2', '20.00')])).statusCode).toBe(200)
    expect(await standing('2400')).toMatchObject({
      standing: 'apart',
      list: '70.00',
      items: 2,
      keptBy: 'preparer',
    })
    expect((await keep('2400', (await list('2400')).proposed?.items ?? [])).statusCode).toBe(200)
    expect(await standing('2400')).toMatchObject({ standing: 'taken', list: '75.00', then: null })
    await world.desk('ledger', 'settings', { lockedThrough: '' })
    await world.ledgerSql(
      `update object set value = jsonb_set(jsonb_set(value, '{lines,0,debit}', '"30.00"'), '{lines,1,credit}', '"30.00"'), sequence = nextval('change_sequence'), revision = revision + 1 where resource = 'journal-entries' and id = '6'`,
    )
    await world.run('/pulls', { systemIds: ['ledger'] })
    expect(await standing('2400')).toMatchObject({
      standing: 'moved',
      balance: '80.00',
      list: '75.00',
      then: '75.00',
    })
  })

  it('needs none by somebody’s word, for as long as the ledger has the same', async () => {
    const aside = (why: string | null) =>
      world.as('preparer', 'PUT', `${MONTH}/opening/accounts/2400/aside`, { why })
    expect((await aside('Nobody kept a list of them')).statusCode).toBe(200)
    expect(await standing('2400')).toMatchObject({
      standing: 'aside',
      aside: 'Nobody kept a list of them',
      items: 0,
    })
    await aside(null)
    expect((await standing('2400'))?.standing).toBe('lacking')
  })

  test.each([
    ['dated from the day on', [item('GC-9', '1.00', '2026-09-01')], 422, 'AXION_NOT_OPEN_THEN'],
    ['there twice', [item('GC-9', '1.00'), item('GC-9', '1.00')], 422, 'AXION_TWICE_IN_LIST'],
    ['of more digits than the currency has', [item('GC-9', '1.001')], 400, 'AXION_NOT_AN_AMOUNT'],
    ['without a reference', [item('', '1.00')], 400, 'AXION_BAD_REQUEST'],
  ])('has no line that is %s', async (_, items, status, code) => {
    const answer = await keep('2400', items)
    expect([answer.statusCode, answer.json<{ code: string }>().code]).toEqual([status, code])
    expect((await standing('2400'))?.items).toBe(0)
  })

  it('is nothing of an account that is not taken over, and nobody’s who only reads', async () => {
    expect((await keep('4000', [])).statusCode).toBe(404)
    expect((await keep('2400', [], 'viewer')).statusCode).toBe(403)
  })
})

describe('a list as a file', () => {
  const read = (text: string) =>
    world.upload('preparer', `${MONTH}/opening/accounts/2400/read?name=cards.csv`, Buffer.from(text))

  it('goes out as it comes in, and is kept only by whoever looked at it', async () => {
    await keep('2400', [item('GC-1, old', '50.00', '2026-08-30'), item('=GC-2', '30.00')])
    const out = await world.as('viewer', 'GET', `${MONTH}/opening/accounts/2400/list`)
    const back = await read(out.body)
    expect(back.json<{ items: object[] }>().items).toEqual((await list('2400')).items)
    await keep('2400', [])
    expect((await list('2400')).items).toEqual([])
  })

  test.each([
    ['lacks a column', 'Reference;Sum\nGC-1;50\n', 'it has no column Amount'],
    ['has no amount in a line', 'reference,amount\nGC-1,50\nGC-2,many\n', 'line 3: Amount "many" is not one'],
    [
      'has a date of another shape',
      'Reference,Amount,Date\nGC-1,50,30/08/2026\n',
      'line 2: Date "30/08/2026" is not one',
    ],
    [
      'has half a cent',
      'Amount,Reference\n50.005,GC-1\n',
      'line 2: "50.005" has more digits than USD has, 2',
    ],
    ['is empty', '', 'nothing came'],
  ])('that %s is refused by name', async (_, text, problem) => {
    const answer = await read(text)
    expect([answer.statusCode, answer.json<{ code: string; facts: { problem: string } }>()]).toMatchObject([
      422,
      { code: 'AXION_FILE_UNREADABLE', facts: { problem } },
    ])
  })
})
