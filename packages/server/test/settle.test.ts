import type { KeepPreview, KeptView, MonthsView, PostRow, PostView, TieOutView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { provenInFull } from './inFull.ts'
import { makeWellWorld, MONTH, type World } from './world.ts'

/** A month without a mistake in it, but for what is charged otherwise here, and booked as it was charged. */
let world: World
let rows: readonly PostRow[]
beforeAll(async () => {
  world = await makeWellWorld(11)
  rows = (await world.ok<PostView>('GET', `${MONTH}/post`)).rows.filter((r) => Number(r.tax) > 0)
  for (const row of rows.slice(0, 3)) await chargeOtherwise(row)
  await pull()
  await bookAll()
})
afterAll(() => world.close())

const pull = async (): Promise<void> => void (await world.run('/pulls', { systemIds: null }))
const tieOut = (query = ''): Promise<TieOutView> => world.ok('GET', `${MONTH}/tie-out${query}`)
const kept = (): Promise<KeptView> => world.ok('GET', `${MONTH}/tie-out/kept`)
const id = (row: PostRow | undefined): string => row?.unit.split('/')[1] ?? ''
/** Takes every line at a rate that is not the document's. */
async function chargeOtherwise(row: PostRow): Promise<void> {
  const [line] = await world.billingSql<{ rate: string }>(
    `select l->>'taxRateId' as rate from object, jsonb_array_elements(value->'lines') l where id = $1 and l->>'taxRateId' is not null limit 1`,
    [id(row)],
  )
  const rate = ['rate_WN-PLX', 'rate_WN-FEN'].find((one) => one !== line?.rate) ?? ''
  await world.desk('billing', 'rate', { id: id(row), rate })
}
async function bookAll(): Promise<void> {
  await world.run('/post/rehearsal')
  await world.run('/post/runs', { states: ['rehearsed', 'changed'] })
  await pull()
}
const openOf = async (row: PostRow | undefined): Promise<string | undefined> =>
  (await tieOut('?show=all&search=' + (row?.number ?? ''))).rows.find((r) => r.unit === row?.unit && r.first)
    ?.headline ?? undefined

describe('differences of what was charged', () => {
  it('are not proved while the ledger has what was charged and nothing else was done', async () => {
    const view = await tieOut()
    expect([view.documents, Number(view.unproved) > 0]).toEqual([3, true])
    expect(view.causes.reduce((sum, c) => sum + c.keepable, 0)).toBe(3)
    expect(view.kept).toEqual({ kept: 0, cured: 0, over: '0.00', under: '0.00', waiting: 0 })
  })

  it('a credit of all of it gives back what was charged wrongly: the pair stands apart, and comes back when the credit goes', async () => {
    const before = await tieOut()
    await world.desk('billing', 'state', { id: id(rows[0]), action: 'credit' })
    await pull()
    // Until the credit is booked, nothing is given back.
    expect((await tieOut()).kept.cured).toBe(0)
    await bookAll()
    const after = await tieOut()
    expect([after.documents, after.kept.cured, after.kept.kept]).toEqual([2, 2, 0])
    expect(after.kept.over).toBe(after.kept.under)
    const { documents } = await kept()
    expect(documents.map((d) => [d.kept, d.givenBackWith !== null])).toEqual([
      [null, true],
      [null, true],
    ])
    const credit = (await world.ok<PostView>('GET', `${MONTH}/post?kind=credit-note`)).rows[0]
    await world.desk('billing', 'state', { id: id(credit), action: 'void' })
    await pull()
    const again = await tieOut()
    expect([again.kept.cured, Number(again.unproved) >= Number(before.unproved)]).toEqual([0, true])
    await world.desk('billing', 'state', { id: id(credit), action: 'open' })
    await pull()
    expect((await tieOut()).kept.cured).toBe(2)
  })

  it('are kept with a reason, count until somebody else agrees, and stand apart by agency then', async () => {
    const before = await tieOut()
    const cause = before.causes.find((c) => c.keepable > 0)
    const query = `cause=${encodeURIComponent(cause?.key ?? '')}`
    const preview = await world.ok<KeepPreview>('GET', `${MONTH}/tie-out/kept/preview?${query}`)
    expect([preview.documents, Number(preview.over) + Number(preview.under) > 0]).toEqual([
      cause?.keepable,
      true,
    ])
    const body = { cause: cause?.key, reason: 'Below what a credit costs', revision: preview.revision }
    const refused = async (role: string, changed: object): Promise<string> =>
      (await world.as(role, 'POST', `${MONTH}/tie-out/kept`, { ...body, ...changed })).json<{
        code: string
      }>().code
    expect(await refused('preparer', { reason: ' ' })).toBe('AXION_BAD_REQUEST')
    expect(await refused('preparer', { revision: 'older' })).toBe('AXION_STALE')
    expect((await world.as('viewer', 'POST', `${MONTH}/tie-out/kept`, body)).statusCode).toBe(403)
    expect(await world.ok('POST', `${MONTH}/tie-out/kept`, body)).toEqual({ documents: preview.documents })
    expect(await refused('preparer', {})).toBe('AXION_NOTHING_TO_DO')
    // The trail has amounts as they are written, with their currency.
    const [line] = await world.ownerSql<{ after: { over: string; under: string; currency: string } }>(
      `select after from audit_entry where action = 'kept-difference' order by place desc limit 1`,
    )
    expect([line?.after.currency, line?.after.over, line?.after.under]).toEqual([
      'USD',
      expect.stringMatching(/^\d+\.\d\d$/),
      expect.stringMatching(/^\d+\.\d\d$/),
    ])

    const waiting = await tieOut()
    expect([waiting.unproved, waiting.kept.waiting, waiting.kept.kept]).toEqual([
      before.unproved,
      preview.documents,
      0,
    ])
    const units = (await kept()).documents.filter((d) => d.kept).map((d) => d.unit)
    const review = { units, agree: true }
    expect((await world.as('preparer', 'POST', `${MONTH}/tie-out/kept/review`, review)).statusCode).toBe(403)
    expect((await world.as('reviewer', 'POST', `${MONTH}/tie-out/kept/review`, review)).statusCode).toBe(200)
    const after = await tieOut()
    expect([after.kept.kept, after.kept.waiting]).toEqual([preview.documents, 0])
    expect(after.documents).toBe(before.documents - preview.documents)
    const apart = await tieOut('?show=settled&limit=1000')
    expect(apart.rows.filter((row) => row.first).length).toBe(preview.documents + 2)
    const { months } = await world.ok<MonthsView>('GET', '/api/entities/larkspur/months')
    expect(months.find((m) => m.month === '2026-09')).toMatchObject({
      documents: after.documents,
      apart: preview.documents + 2,
    })
    const sheet = await world.ok<{ unproved: string; rows: { unproved: string }[] }>('GET', `${MONTH}/close`)
    expect(sheet.rows.reduce((sum, row) => sum + Math.round(Number(row.unproved) * 100), 0)).toBe(
      Math.round(Number(sheet.unproved) * 100),
    )
  })

  it('nobody reviews what they keep themselves', async () => {
    const cause = (await tieOut()).causes.find((c) => c.keepable > 0)
    const query = `cause=${encodeURIComponent(cause?.key ?? '')}`
    const { revision } = await world.ok<KeepPreview>('GET', `${MONTH}/tie-out/kept/preview?${query}`)
    const body = { cause: cause?.key, reason: 'Agreed with the customer', revision }
    expect((await world.as('reviewer', 'POST', `${MONTH}/tie-out/kept`, body)).statusCode).toBe(200)
    const units = (await kept()).documents.filter((d) => d.kept?.reviewedBy === null).map((d) => d.unit)
    const answer = await world.as('reviewer', 'POST', `${MONTH}/tie-out/kept/review`, { units, agree: true })
    expect(answer.json()).toMatchObject({ code: 'AXION_OWN_REVIEW' })
    await world.ok('POST', `${MONTH}/tie-out/kept/review`, { units, agree: false })
    expect((await tieOut()).kept.waiting).toBe(0)
  })

  it('a keeping holds for its figures alone: another amount at the source, and it counts again', async () => {
    const unit = (await kept()).documents.find((d) => d.kept)?.unit
    const row = rows.find((r) => r.unit === unit)
    const before = (await tieOut()).kept.kept
    await world.desk('billing', 'invoices', { id: id(row), amount: '812' })
    await bookAll()
    expect((await tieOut()).kept.kept).toBe(before - 1)
    expect(await openOf(row)).not.toBe('proved')
    // Proved in full and anew, what is settled is the same.
    const settled = (await tieOut()).kept
    await provenInFull(world)
    await pull()
    expect((await tieOut()).kept).toEqual(settled)
  })

  it.each([
    ['a later', '2026-09-28', '2026-10-02'],
    ['an earlier', '2026-10-02', '2026-09-28'],
  ])('an entry made by hand that moves to %s month stands there alone', async (_, from, to) => {
    const memo = `Moved to ${to}`
    const fields = { memo, debit: 'acct_2210', credit: 'acct_1000', amount: '7.00' }
    await world.desk('ledger', 'journal', { date: from, ...fields })
    await pull()
    const where = () =>
      world.ownerSql<{ id: string; period: string }>(
        `select entry_id as id, period from unit where party = $1`,
        [memo],
      )
    const [made] = await where()
    expect(made?.period).toBe(from.slice(0, 7))
    await world.desk('ledger', 'entries', { id: made?.id ?? '', action: 'date', date: to })
    await pull()
    expect(await where()).toEqual([{ id: made?.id, period: to.slice(0, 7) }])
    await world.desk('ledger', 'entries', { id: made?.id ?? '', action: 'void' })
    await pull()
    expect(await where()).toEqual([])
  })

  it('an entry made by hand that could never be read stands as one that was, once it can be', async () => {
    const memo = 'Read late'
    await world.desk('ledger', 'journal', {
      date: '2026-09-28',
      memo,
      debit: 'acct_2210',
      credit: 'acct_1000',
      amount: '7.00',
    })
    const spoilt = (lines: string) =>
      world.ledgerSql<{ id: string }>(
        `update object set value = value || jsonb_build_object('lines', ${lines}, 'kept', coalesce(value->'kept', value->'lines')), revision = revision + 1, sequence = nextval('change_sequence') where resource = 'journal-entries' and value->>'memo' = $1 returning id`,
        [memo],
      )
    const [made] = await spoilt(`'none'::text`)
    const kind = () =>
      world.ownerSql<{ kind: string }>(`select kind from unit where entry_id = $1`, [made?.id])
    await pull()
    expect(await kind()).toEqual([{ kind: 'unread-entry' }])
    await spoilt(`value->'kept'`)
    await pull()
    expect(await kind()).toEqual([{ kind: 'entry' }])
    await world.desk('ledger', 'entries', { id: made?.id ?? '', action: 'void' })
    await pull()
  })

  it('an entry made by hand is named, counts until it is reviewed, and counts again once somebody changes it', async () => {
    const before = await tieOut()
    await world.desk('ledger', 'journal', {
      date: '2026-09-28',
      memo: 'Cheque 1188 to the agency',
      debit: 'acct_2210',
      credit: 'acct_1000',
      amount: '40.00',
    })
    await pull()
    const cause = (await tieOut()).causes.find((one) => one.headline === 'orphan')
    expect([cause?.keepable, cause?.unproved]).toEqual([1, '40.00'])
    const query = `cause=${encodeURIComponent(cause?.key ?? '')}`
    const preview = await world.ok<KeepPreview>('GET', `${MONTH}/tie-out/kept/preview?${query}`)
    expect([preview.documents, preview.over, preview.under]).toEqual([1, '0.00', '40.00'])
    const body = { cause: cause?.key, reason: 'Paid to the agency by cheque', revision: preview.revision }
    await world.ok('POST', `${MONTH}/tie-out/kept`, body)
    const units = (await kept()).documents.filter((d) => d.unit.startsWith('ledger/')).map((d) => d.unit)
    await world.as('reviewer', 'POST', `${MONTH}/tie-out/kept/review`, { units, agree: true })
    const named = await tieOut()
    expect([named.unproved, named.documents]).toEqual([before.unproved, before.documents])
    const id = units[0]?.split('/').at(-1) ?? ''
    await world.desk('ledger', 'entries', { id, action: 'void' })
    await pull()
    expect((await kept()).documents.some((d) => d.unit === units[0])).toBe(false)
    expect((await tieOut()).unproved).toBe(before.unproved)
  })

  it('what was given back counts again when the credit is gone from its source and the ledger altogether', async () => {
    const credit = (await world.ok<PostView>('GET', `${MONTH}/post?kind=credit-note`)).rows[0]
    expect((await kept()).documents.filter((d) => d.givenBackWith !== null)).toHaveLength(2)
    // In the month after, it gives back all the same: what was charged then stands apart in both.
    await world.billingSql(
      `update object set value = value || '{"documentDate": "2026-10-01", "supplyDate": "2026-10-01"}', sequence = nextval('change_sequence'), revision = revision + 1 where id = $1`,
      [id(credit)],
    )
    await pull()
    expect((await tieOut()).kept.cured).toBe(0)
    const october = MONTH.replace('2026-09', '2026-10')
    const inOctober = async (path: string, body: object): Promise<unknown> =>
      world.finish((await world.ok<{ run: string }>('POST', october + path, body)).run)
    await inOctober('/pulls', { systemIds: null })
    await inOctober('/post/runs', { states: ['changed'] })
    await pull()
    const before = await tieOut()
    expect([before.kept.cured, (await world.ok<TieOutView>('GET', `${october}/tie-out`)).kept.cured]).toEqual(
      [1, 1],
    )
    await world.billingSql(
      `update object set removed = true, value = null, sequence = nextval('change_sequence'), revision = revision + 1 where id = $1`,
      [id(credit)],
    )
    const [entry] = await world.ledgerSql<{ id: string }>(
      `select id from object where resource = 'journal-entries' and value->>'externalId' = $1 and value->>'voided' = 'false'`,
      [credit?.externalId],
    )
    await world.desk('ledger', 'entries', { id: entry?.id ?? '', action: 'void' })
    await inOctober('/pulls', { systemIds: null })
    const after = await tieOut()
    expect(after.kept.cured).toBe(0)
    expect(Number(after.unproved)).toBeGreaterThan(Number(before.unproved))
    expect((await kept()).documents.some((d) => d.givenBackWith !== null)).toBe(false)
  })
})
