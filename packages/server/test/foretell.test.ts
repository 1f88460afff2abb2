import type { PostingPreview, PostRow, PostView, TieOutView } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { bookAll, makeReadyWorld, MONTH, type World } from './world.ts'

/** A ledger that computes, with two agencies' accounts changed about, one percent of its own, and a rate that it does not know by name. */
let world: World
let rehearsed: readonly PostRow[]
beforeAll(async () => {
  world = await makeReadyWorld()
  rehearsed = (await world.ok<PostView>('GET', `${MONTH}/post?limit=200`)).rows
})
afterAll(() => world.close())

const foretold = (row: PostRow): string[] =>
  row.remarks.map((remark) => remark.code).filter((code) => code.startsWith('AXION_FORETOLD'))
const byCode = (code: string): PostRow[] => rehearsed.filter((row) => foretold(row).includes(code))

describe('a rehearsal foretells a ledger that computes', () => {
  it('says of each document what would be booked otherwise, and where', () => {
    expect(byCode('AXION_FORETOLD_ACCOUNT').length).toBeGreaterThan(3)
    expect(byCode('AXION_FORETOLD_AMOUNT').length).toBeGreaterThan(3)
    expect(byCode('AXION_FORETOLD_REFUSAL')).toEqual([])
    const says = byCode('AXION_FORETOLD_AMOUNT')
      .flatMap((row) => row.remarks)
      .map((remark) => remark.says)
    expect(
      says.some((one) => /^Ledger will book [\d.]+, not [\d.]+, for .+, by its rate .+\.$/.test(one)),
    ).toBe(true)
  })

  it('sums it by cause before anything leaves, and posts only what will be right where that is asked', async () => {
    const preview = await world.ok<PostingPreview>('POST', `${MONTH}/post/runs/preview`, {
      states: ['rehearsed'],
    })
    const wrong = rehearsed.filter((row) => foretold(row).length > 0)
    expect([preview.documents, preview.foretold.documents]).toEqual([rehearsed.length, wrong.length])
    expect(preview.foretold.causes.map((cause) => cause.code).sort()).toEqual(
      expect.arrayContaining(['AXION_FORETOLD_ACCOUNT', 'AXION_FORETOLD_AMOUNT']),
    )
    for (const cause of preview.foretold.causes) expect(cause.says).not.toContain('undefined')
    await world.run('/post/runs', { states: ['rehearsed'], onlyRight: true })
    await world.run('/pulls', { systemIds: null })
    const after = (await world.ok<PostView>('GET', `${MONTH}/post?limit=200`)).rows
    expect(after.filter((row) => row.state === 'rehearsed').map((row) => row.unit)).toEqual(
      wrong.map((row) => row.unit),
    )
    const view = await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)
    expect(view.causes.filter((cause) => cause.headline !== 'missing')).toEqual([])
  })

  it('is borne out, document by document and to the unit, once the rest is posted all the same', async () => {
    await bookAll(world)
    const { rows } = await world.ok<TieOutView>('GET', `${MONTH}/tie-out?show=all&limit=200`)
    const astray = new Set(rows.filter((row) => !row.proved).map((row) => row.number))
    expect([...astray].sort()).toEqual(
      rehearsed
        .filter((row) => foretold(row).length > 0)
        .map((row) => row.number)
        .sort(),
    )
    for (const row of byCode('AXION_FORETOLD_AMOUNT'))
      for (const { says } of row.remarks.filter((remark) => remark.code === 'AXION_FORETOLD_AMOUNT')) {
        const [, would, should, agency] = /book ([\d.]+), not ([\d.]+), for (.+), by/.exec(says) ?? []
        const own = rows.filter((line) => line.number === row.number && line.agencyName === agency)
        expect([says, own.map((line) => line.booked)]).toEqual([says, own.map(() => would)])
        expect(would).not.toBe(should)
      }
  })
})

describe('a rehearsal foretells what a ledger refuses', () => {
  it('by its switches, its names and its dates: just that is refused', async () => {
    const world_ = await makeReadyWorld()
    const off = await world_.ledgerSql<{ id: string; name: string }>(
      `update object set value = value || '{"active": false}', revision = revision + 1, sequence = nextval('change_sequence') where id = 'tax_WN' returning id, value->>'name' as name`,
    )
    await world_.run('/pulls', { systemIds: ['ledger'] })
    await world_.run('/post/rehearsal')
    const rows = (await world_.ok<PostView>('GET', `${MONTH}/post?limit=200`)).rows
    const told = rows.filter((row) => foretold(row).includes('AXION_FORETOLD_REFUSAL'))
    expect(told.length).toBeGreaterThan(2)
    expect(told.flatMap((row) => row.remarks.map((r) => r.says))).toContain(
      `Ledger will refuse it: its rate “${off[0]?.name}” is switched off.`,
    )
    await world_.run('/post/runs', { states: ['rehearsed'] })
    const after = (await world_.ok<PostView>('GET', `${MONTH}/post?limit=200`)).rows
    expect(after.filter((row) => row.state === 'failed').map((row) => row.unit)).toEqual(
      told.map((row) => row.unit),
    )
    await world_.close()
  })
})
