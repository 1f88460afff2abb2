import type {
  PostingPreview,
  PostRow,
  PostSums,
  PostView,
  TieOutRow,
  TieOutSums,
  TieOutView,
} from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it, test } from 'vitest'
import { makeReadyWorld, MONTH, type World } from './world.ts'

let world: World
beforeAll(async () => void (world = await makeReadyWorld()))
afterAll(() => world.close())

type Page = PostView | TieOutView
const page = (path: string, query: Record<string, string>): Promise<Page> =>
  world.ok('GET', `${MONTH}${path}?${new URLSearchParams(query).toString()}`)
const unitsOf = ({ rows }: Page): string[] => [...new Set(rows.map((row) => row.unit))]

const sumsOf = <S extends PostSums | TieOutSums>(path: string, query: Record<string, string>): Promise<S> =>
  world.ok('GET', `${MONTH}${path}/sums?${new URLSearchParams(query).toString()}`)

async function crosswalk(
  path: string,
  query: Record<string, string>,
): Promise<{ units: string[]; total: number }> {
  const units: string[] = []
  for (let after: string | null = ''; after !== null;) {
    const read: Page = await page(path, { ...query, limit: '37', ...(after === '' ? {} : { after }) })
    units.push(...unitsOf(read))
    if (read.next === null) return { units, total: (await sumsOf(path, query)).documents }
    after = read.next
  }
  throw new Error('a list without an end')
}
const cents = (text: string): bigint => BigInt(text.replace('.', ''))
const saysOf = ({ number, party }: PostRow): string => `${number} ${party}`.toLowerCase()
const posted = async (query: Record<string, string>): Promise<readonly PostRow[]> =>
  ((await page('/post', { ...query, limit: '1000' })) as PostView).rows

describe.each(['/post', '/tie-out'])('the list of %s', (path) => {
  const all: Record<string, string> = path === '/post' ? {} : { show: 'all' }
  test.each([
    ['as usual', {}],
    ['by number', { sort: 'number' }],
    ['by party, the other way about', { sort: 'party', down: 'yes' }],
    ['by date', { sort: 'date' }],
    ['by state', { sort: 'state' }],
  ])('reaches every document once, page after page, %s', async (_, order) => {
    const { units, total } = await crosswalk(path, { ...all, ...order } as Record<string, string>)
    expect([units.length, new Set(units).size]).toEqual([144, total])
  })

  test.each<[string, Record<string, string>, (row: PostRow) => boolean]>([
    [
      'by dates',
      { from: '2026-09-10', to: '2026-09-20' },
      (r) => r.date >= '2026-09-10' && r.date <= '2026-09-20',
    ],
    ['by kind', { kind: 'credit-note' }, (r) => r.kind === 'credit-note'],
    ['by words that are a pattern elsewhere', { search: '%' }, () => false],
    ['by two letters', { search: 'ha' }, (r) => saysOf(r).includes('ha')],
    ['by more of them, in whatever case', { search: 'Harb' }, (r) => saysOf(r).includes('harb')],
    ['by a pattern of some length', { search: 'h%rb' }, () => false],
    ['by a number', { search: '104' }, (r) => r.number.includes('104')],
    ['by an amount that nobody has', { least: '999999999999999.99' }, () => false],
    ['by a system that is none', { system: 'nobody' }, () => false],
  ])('is narrowed %s, and what goes out is just that', async (_, narrow, fits) => {
    const wanted = (await posted({})).filter(fits).map((row) => row.unit)
    const { units, total } = await crosswalk(path, { ...all, ...narrow })
    expect([units.sort(), total]).toEqual([wanted.sort(), wanted.length])
    const sent = await world.as(
      'viewer',
      'GET',
      `${MONTH}${path}/list.csv?${new URLSearchParams({ ...all, ...narrow }).toString()}`,
    )
    expect(sent.headers['content-disposition']).toContain('2026-09.csv')
    const lines = sent.body.trim().split('\r\n').slice(1)
    expect(new Set(lines.map((line) => line.split(',')[0])).size).toBe(wanted.length)
  })

  it('goes out as a workbook, and refuses an order or a key that is none', async () => {
    const workbook = await world.as('viewer', 'GET', `${MONTH}${path}/list.xlsx`)
    expect([workbook.statusCode, workbook.rawPayload.subarray(0, 2).toString()]).toEqual([200, 'PK'])
    const key = (...parts: string[]): string =>
      `sort=date&after=${Buffer.from(JSON.stringify(parts)).toString('base64url')}`
    for (const query of [
      ...['sort=colour', 'after=nothing', 'from=2026-02-30', 'least=lots'],
      ...[key('2026-09-01', '1'), key('yesterday', '1', 'x'), key('2026-09-01', '\u0000', 'x')],
    ])
      expect((await world.as('viewer', 'GET', `${MONTH}${path}?${query}`)).json()).toMatchObject({
        code: 'AXION_BAD_REQUEST',
      })
  })
})

describe('what a filter comes to', () => {
  test.each<[string, Record<string, string>]>([
    ['all', {}],
    ['a kind', { kind: 'credit-note' }],
    ['words', { search: 'harb' }],
    ['an amount', { least: '100.00' }],
    ['dates, and another order', { from: '2026-09-10', sort: 'party' }],
  ])('is the sum of its rows, of %s', async (_, query) => {
    const add = (rows: readonly (string | null)[]): bigint =>
      rows.reduce((sum, amount) => sum + cents(amount ?? '0.00'), 0n)
    const rows = await posted(query)
    const post = await sumsOf<PostSums>('/post', query)
    expect([post.documents, cents(post.tax), cents(post.total)]).toEqual([
      rows.length,
      add(rows.map((row) => row.tax)),
      add(rows.map((row) => row.total)),
    ])
    for (const show of ['all', 'unproved', 'not-posted']) {
      const listed = (await page('/tie-out', { ...query, show, limit: '1000' })).rows as readonly TieOutRow[]
      const sums = await sumsOf<TieOutSums>('/tie-out', { ...query, show })
      const of = (voice: 'stated' | 'expected' | 'booked' | 'unproved'): bigint =>
        add(listed.map((row) => row[voice]))
      expect([show, sums.documents, ...VOICES.map((voice) => cents(sums[voice]))]).toEqual([
        show,
        listed.filter((row) => row.first).length,
        ...VOICES.map(of),
      ])
    }
  })
})

const VOICES = ['stated', 'expected', 'booked', 'unproved'] as const

it('narrows Post by amount, and orders by it', async () => {
  const rows = await posted({ sort: 'total', down: 'yes' })
  const sizes = rows.map((row) => cents(row.total))
  expect(sizes).toEqual([...sizes].sort((a, b) => (a > b ? -1 : 1)))
  const least = rows[20]?.total.replace('-', '') ?? '0'
  const size = (row: PostRow): bigint => (cents(row.total) < 0n ? -cents(row.total) : cents(row.total))
  expect((await posted({ least })).length).toBe(rows.filter((row) => size(row) >= cents(least)).length)
})

it('composes for a preview and keeps nothing of it; what has changed since is not posted under it', async () => {
  const filter = { from: '2026-09-09', to: '2026-09-10', state: 'rehearsed' }
  const stored = (): Promise<object[]> => world.ownerSql('select * from booking order by external_id')
  const look = (): Promise<PostingPreview> =>
    world.ok<PostingPreview>('POST', `${MONTH}/post/runs/preview`, { filter })
  const before = await stored()
  const seen = await look()
  expect([seen.documents > 3, await stored(), (await look()).revision]).toEqual([true, before, seen.revision])

  const agency = { systemId: 'ledger', kind: 'agency', objectId: 'agency_HCT' }
  await world.ok('DELETE', `${MONTH}/links`, agency)
  expect((await look()).revision).not.toBe(seen.revision)
  const stale = await world.as('preparer', 'POST', `${MONTH}/post/runs`, {
    filter,
    revision: seen.revision,
  })
  expect([stale.statusCode, stale.json().code]).toEqual([409, 'AXION_STALE'])
  expect((await posted(filter)).length).toBe(seen.documents)
  await world.ok('PUT', `${MONTH}/links`, { ...agency, baselineId: 'HCT' })
  expect((await look()).revision).toBe(seen.revision)
  expect(await world.run('/post/runs', { filter, revision: seen.revision })).toMatchObject({
    state: 'done',
    done: seen.documents,
  })
})

it('says what a posting moves before anything leaves, and posts all that a filter finds', async () => {
  const filter = { from: '2026-09-01', to: '2026-09-08', state: 'rehearsed' }
  const rows = await posted(filter)
  const preview = await world.ok<PostingPreview>('POST', `${MONTH}/post/runs/preview`, { filter })
  const sum = (of: (row: PostRow) => string): bigint => rows.reduce((t, row) => t + cents(of(row)), 0n)
  expect([preview.documents, cents(preview.tax), cents(preview.total), preview.blocked.documents]).toEqual([
    rows.length,
    sum((row) => row.tax),
    sum((row) => row.total),
    0,
  ])
  const told = (row: PostRow): string[] => row.remarks.map((one) => one.code)
  const isForetold = (code: string): boolean => code.startsWith('AXION_FORETOLD')
  expect(preview.remarked.documents).toBe(
    rows.filter((row) => told(row).some((one) => !isForetold(one))).length,
  )
  expect(preview.foretold.documents).toBe(rows.filter((row) => told(row).some(isForetold)).length)
  const [debit, credit] = (['debit', 'credit'] as const).map((side) =>
    preview.accounts.reduce((t, row) => t + cents(row[side]), 0n),
  )
  expect([debit, debit === credit]).toEqual([expect.any(BigInt), true])
  expect(await world.run('/post/runs', { filter })).toMatchObject({ state: 'done', done: rows.length })
  expect((await posted({ state: 'rehearsed', to: '2026-09-08' })).length).toBe(0)
  expect((await posted({ state: 'sent', to: '2026-09-08' })).length).toBe(rows.length)
})
