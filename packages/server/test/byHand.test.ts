import type { PostRow, PostView, RemedyPreview, TieOutView, WithdrawPreview } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { inEntity } from '../src/database/connection.ts'
import { bookAll, makeWellWorld, MONTH, type World } from './world.ts'

/** A month without a mistake in it, fully booked, and then whatever people do to it by hand. */
let world: World
let rows: readonly PostRow[]
beforeAll(async () => {
  world = await makeWellWorld(11)
  await bookAll(world)
  rows = (await world.ok<PostView>('GET', `${MONTH}/post`)).rows
})
afterAll(() => world.close())

const pull = async (): Promise<void> => void (await world.run('/pulls', { systemIds: null }))
const tieOut = (): Promise<TieOutView> => world.ok('GET', `${MONTH}/tie-out`)
const stateOf = async (unit: string | undefined): Promise<string | undefined> =>
  (await world.ok<PostView>('GET', `${MONTH}/post`)).rows.find((r) => r.unit === unit)?.state
const documentId = (row: PostRow | undefined): string => row?.unit.split('/')[1] ?? ''
const entryOf = async (row: PostRow | undefined): Promise<string> =>
  (
    await world.ledgerSql<{ id: string }>(
      `select id from object where resource = 'journal-entries' and value->>'externalId' = $1 and value->>'voided' = 'false' order by id limit 1`,
      [row?.externalId],
    )
  )[0]?.id ?? ''
const standing = async (row: PostRow | undefined): Promise<number> =>
  (
    await world.ledgerSql(
      `select 1 from object where resource = 'journal-entries' and value->>'externalId' like $1 and value->>'voided' = 'false'`,
      [`${row?.externalId?.replace(/[^/]*$/, '') ?? ''}%`],
    )
  ).length

async function mendOnly(kind: string): Promise<void> {
  const { causes } = await tieOut()
  expect(causes).toHaveLength(1)
  const remedy = causes[0]?.remedies.find((r) => r.kind === kind)
  const { revision } = await world.ok<RemedyPreview>('POST', `${MONTH}/mend/preview`, { remedy })
  expect(await world.run('/mend', { remedy, revision })).toMatchObject({ state: 'done', failed: 0 })
  expect(await tieOut()).toMatchObject({ unproved: '0.00', unprovedNet: '0.00', documents: 0 })
}

describe('what people do by hand', () => {
  it('begins proved', async () =>
    expect(await tieOut()).toMatchObject({ unproved: '0.00', documents: 0, proved: 144 }))

  it('a double in the ledger is found, and one booking stays', async () => {
    await world.desk('ledger', 'entries', { id: await entryOf(rows[0]), action: 'copy' })
    await pull()
    expect((await tieOut()).causes.map((c) => [c.headline, c.documents])).toEqual([['duplicate', 1]])
    await mendOnly('take-back')
    expect(await standing(rows[0])).toBe(1)
  })

  it('a document voided in the ledger is booked anew', async () => {
    await world.desk('ledger', 'entries', { id: await entryOf(rows[1]), action: 'void' })
    await pull()
    expect([(await tieOut()).causes[0]?.key, await stateOf(rows[1]?.unit)]).toEqual([
      'voided|ledger',
      'voided-there',
    ])
    // Nothing that posts all that waits books it anew; asked for by itself, it says what it is.
    const states = await world.as('preparer', 'POST', `${MONTH}/post/runs`, {
      states: ['rehearsed', 'changed'],
    })
    expect(states.json()).toMatchObject({ code: 'AXION_NOTHING_TO_DO' })
    await world.run('/post/rehearsal')
    expect(await stateOf(rows[1]?.unit)).toBe('voided-there')
    const body = { units: [rows[1]?.unit] }
    expect(await world.ok('POST', `${MONTH}/post/runs/preview`, body)).toMatchObject({
      documents: 1,
      voidedThere: 1,
    })
    await mendOnly('book-again')
    expect(await standing(rows[1])).toBe(1)
  })

  it('a document voided at its source is voided in the ledger too', async () => {
    await world.desk('billing', 'state', { id: documentId(rows[2]), action: 'void' })
    await pull()
    expect([(await tieOut()).causes[0]?.key, await stateOf(rows[2]?.unit)]).toEqual([
      'voided|source',
      'void-at-source',
    ])
    await mendOnly('take-back')
    expect([await standing(rows[2]), await stateOf(rows[2]?.unit)]).toEqual([0, 'void'])
  })

  it('an entry moved to another month is moved back', async () => {
    await world.desk('ledger', 'entries', { id: await entryOf(rows[3]), action: 'date', date: '2026-10-01' })
    await pull()
    expect((await tieOut()).causes.map((c) => c.headline)).toEqual(['period'])
    await mendOnly('book-again')
  })

  it('an edit that moved nothing is not proved until somebody accepts it', async () => {
    const id = await entryOf(rows[4])
    const [entry] = await world.ledgerSql<{ value: { postingDate: string } }>(
      `select value from object where resource = 'journal-entries' and id = $1`,
      [id],
    )
    await world.desk('ledger', 'entries', { id, action: 'date', date: entry?.value.postingDate ?? '' })
    await pull()
    expect((await tieOut()).causes.map((c) => [c.headline, c.unproved])).toEqual([['edited', '0.00']])
    await mendOnly('accept')
  })

  it('a credit note of all that is left mirrors its original, and a later edit of that original moves both', async () => {
    await world.desk('billing', 'state', { id: documentId(rows[5]), action: 'credit' })
    await pull()
    const credit = (await world.ok<PostView>('GET', `${MONTH}/post`)).rows.find(
      (r) => r.kind === 'credit-note',
    )
    expect([credit?.state, credit?.tax]).toEqual(['not-composed', `-${rows[5]?.tax}`])
    await world.run('/post/rehearsal')
    await bookAll(world)
    expect(await tieOut()).toMatchObject({ unproved: '0.00', documents: 0 })
  })

  it('withdraws with a preview, under what was previewed, and books again when asked', async () => {
    const units = [rows[6]?.unit, rows[7]?.unit]
    const preview = await world.ok<WithdrawPreview>('POST', `${MONTH}/post/withdrawals/preview`, {
      units: [...units, rows[2]?.unit],
    })
    expect([preview.way, preview.documents.map((d) => d.unit), preview.kept.map((k) => k.unit)]).toEqual([
      'void',
      units,
      [rows[2]?.unit],
    ])
    expect(
      (await world.as('preparer', 'POST', `${MONTH}/post/withdrawals`, { units, revision: 'older' })).json()
        .code,
    ).toBe('AXION_STALE')
    expect(
      (await world.as('viewer', 'POST', `${MONTH}/post/withdrawals`, { units, revision: preview.revision }))
        .statusCode,
    ).toBe(403)
    const { revision } = await world.ok<WithdrawPreview>('POST', `${MONTH}/post/withdrawals/preview`, {
      units,
    })
    expect(await world.run('/post/withdrawals', { units, revision })).toMatchObject({
      state: 'done',
      done: 2,
      failed: 0,
    })
    expect([await stateOf(units[0]), (await tieOut()).causes.map((c) => c.key)]).toEqual([
      'withdrawn',
      ['missing|withdrawn'],
    ])
    await world.run('/post/runs', { units })
    await pull()
    expect(await tieOut()).toMatchObject({ unproved: '0.00', documents: 0 })
  })

  it('recognises what the ledger holds already, though nothing of it is known here', async () => {
    await inEntity(world.services.database, 'larkspur', ({ trx }) =>
      trx('booking')
        .where({ external_id: rows[9]?.externalId ?? '' })
        .delete(),
    )
    await world.run('/post/rehearsal')
    expect(await stateOf(rows[9]?.unit)).toBe('booked')
    expect(await standing(rows[9])).toBe(1)
  })

  it('in a ledger without voids takes a booking back by one for the same amounts', async () => {
    const [row] = await world.ledgerSql<{ value: object }>(
      `select value from setting where name = 'settings'`,
    )
    await world.ledgerSql(`update setting set value = $1 where name = 'settings'`, [
      JSON.stringify({ ...row?.value, voids: false }),
    ])
    await world.desk('billing', 'state', { id: documentId(rows[8]), action: 'void' })
    await pull()
    await mendOnly('take-back')
    expect(await standing(rows[8])).toBe(2)
    const [sum] = await world.ledgerSql<{ tax: string }>(
      `select coalesce(sum((l->>'credit')::numeric - (l->>'debit')::numeric), 0)::text as tax from object e cross join jsonb_array_elements(e.value->'lines') l where e.resource = 'journal-entries' and e.value->>'externalId' like $1 and l->>'agencyId' is not null`,
      [`${rows[8]?.externalId?.replace(/[^/]*$/, '') ?? ''}%`],
    )
    expect(Number(sum?.tax)).toBe(0)
  })
})
