import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import {
  BOOKING_STATES,
  type BookingState,
  type PostRow,
  type PostView,
  type TieOutView,
} from '@axion/contract'
import type { WithdrawPreview } from '@axion/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { inEntity } from '../src/database/connection.ts'
import { ENDS, MOVES, releaseAbandoned } from '../src/documents/states.ts'
import { bookAll, makeWellWorld, MONTH, type World } from './world.ts'

const SRC = join(import.meta.dirname, '../src')
const files = readdirSync(SRC, { recursive: true, encoding: 'utf8' }).filter(
  (file) => file.endsWith('.ts') && !file.includes('migrations'),
)

describe('the one table of a booking’s states', () => {
  const table = Object.values(MOVES) as readonly {
    readonly from: readonly (BookingState | null)[]
    readonly to: readonly BookingState[]
  }[]
  const after = (state: BookingState): BookingState[] =>
    table.flatMap(({ from, to }) => (from.includes(state) ? to : []))
  const reached = (from: BookingState): Set<BookingState> => {
    const seen = new Set([from])
    for (const state of seen) after(state).forEach((next) => seen.add(next))
    return seen
  }

  it('every state can be reached, and from every one an end', () => {
    const born = new Set(table.flatMap(({ from, to }) => (from.includes(null) ? to : [])))
    for (const state of born) after(state).forEach((next) => born.add(next))
    expect([...born].sort()).toEqual([...BOOKING_STATES].sort())
    for (const state of BOOKING_STATES)
      expect([state, ENDS.some((end) => reached(state).has(end))]).toEqual([state, true])
  })

  it('has one writer, and nobody else spells a state into a statement', () => {
    const states = BOOKING_STATES.join('|')
    const spelled = new RegExp(
      `\\bstate (?:=|<>|in|not in) \\(?'(?:${states})'(?![^\\n]*\\brun\\b)|update booking set state|(?:whereIn|where)\\('(?:b\\.|booking\\.)?state', '?\\[?'(?:${states})'`,
    )
    const guilty = files.filter((file) => {
      if (file === join('documents', 'states.ts')) return false
      const text = readFileSync(join(SRC, file), 'utf8')
      return (
        (/\bbooking\b/.test(text) && spelled.test(text)) ||
        /trx\('booking'\)\s*\.(insert|update)\(/.test(text)
      )
    })
    expect(guilty).toEqual([])
  })
})

describe.each([true, false])('withdrawals, where the ledger voids: %s', (voids) => {
  let world: World
  let rows: readonly PostRow[]
  beforeAll(async () => {
    world = await makeWellWorld(11)
    await world.ledgerSql(
      `update setting set value = value || jsonb_build_object('voids', ${voids}) where name = 'settings'`,
    )
    await bookAll(world)
    rows = (await view()).rows
  })
  afterAll(() => world.close())

  const view = (): Promise<PostView> => world.ok('GET', `${MONTH}/post?limit=200`)
  const pull = async (): Promise<void> => void (await world.run('/pulls', { systemIds: null }))
  const stateOf = async (row: PostRow | undefined): Promise<string | undefined> =>
    (await view()).rows.find((r) => r.unit === row?.unit)?.state
  const id = (row: PostRow | undefined): string => row?.unit.split('/')[1] ?? ''
  const net = async (row: PostRow | undefined): Promise<number> => {
    const [sum] = await world.ledgerSql<{ tax: string }>(
      `select coalesce(sum((l->>'credit')::numeric - (l->>'debit')::numeric), 0)::text as tax from object e cross join jsonb_array_elements(e.value->'lines') l
       where e.resource = 'journal-entries' and e.value->>'voided' = 'false' and e.value->>'externalId' like $1 and l->>'agencyId' is not null`,
      [`${row?.externalId?.replace(/[^/]*$/, '') ?? ''}%`],
    )
    return Number(sum?.tax)
  }
  const withdraw = async (row: PostRow | undefined): Promise<void> => {
    const units = [row?.unit]
    const { revision } = await world.ok<WithdrawPreview>('POST', `${MONTH}/post/withdrawals/preview`, {
      units,
    })
    expect(await world.run('/post/withdrawals', { units, revision })).toMatchObject({
      state: 'done',
      failed: 0,
    })
  }
  const post = (row: PostRow | undefined): Promise<unknown> => world.run('/post/runs', { units: [row?.unit] })
  const causes = async (): Promise<string[]> =>
    (await world.ok<TieOutView>('GET', `${MONTH}/tie-out`)).causes.map((c) => c.key)

  it('what was withdrawn is booked anew, and withdrawn again', async () => {
    for (let turn = 0; turn < 2; turn++) {
      await withdraw(rows[0])
      expect([await stateOf(rows[0]), await net(rows[0]), await causes()]).toEqual([
        'withdrawn',
        0,
        ['missing|withdrawn'],
      ])
      await post(rows[0])
      await pull()
      expect([await stateOf(rows[0]), await net(rows[0]), await causes()]).toEqual([
        'booked',
        Number(rows[0]?.tax),
        [],
      ])
    }
  })

  it('what was withdrawn and is changed at its source is booked as it is then', async () => {
    await withdraw(rows[1])
    await world.desk('billing', 'invoices', { id: id(rows[1]), amount: '700' })
    await pull()
    expect(await stateOf(rows[1])).toBe('withdrawn')
    await post(rows[1])
    await pull()
    const now = (await view()).rows.find((r) => r.unit === rows[1]?.unit)
    expect([now?.state, await net(rows[1])]).toEqual(['booked', Number(now?.tax)])
    expect(await causes()).toEqual([])
  })

  it('what was withdrawn and is void at its source has nothing left to do, and is not counted', async () => {
    await withdraw(rows[2])
    await world.desk('billing', 'state', { id: id(rows[2]), action: 'void' })
    await pull()
    expect([await stateOf(rows[2]), await causes()]).toEqual(['void', []])
    const posted = await world.as('preparer', 'POST', `${MONTH}/post/runs`, { states: ['withdrawn'] })
    expect(posted.json()).toMatchObject({ code: 'AXION_NOTHING_TO_DO' })
  })

  it('what was left in the outbox by a run that ended is somebody’s to send', async () => {
    await withdraw(rows[3])
    await inEntity(world.services.database, 'larkspur', async (books) => {
      await books.trx.raw(`update booking set state = 'waiting', action = 'book' where external_id = ?`, [
        rows[3]?.externalId ?? '',
      ])
      await releaseAbandoned(books)
    })
    expect(await stateOf(rows[3])).toBe('rehearsed')
    await post(rows[3])
    await pull()
    expect([await stateOf(rows[3]), await causes()]).toEqual(['booked', []])
  })

  it('what is in doubt leaves it by a pull that shows it, or by somebody who looked', async () => {
    const doubt = (row: PostRow | undefined): Promise<unknown> =>
      inEntity(world.services.database, 'larkspur', ({ trx }) =>
        trx.raw(
          `update booking set state = 'in-doubt', reason_code = 'AXION_IN_DOUBT', reason_facts = '{}' where external_id = ?`,
          [row?.externalId ?? ''],
        ),
      )
    await doubt(rows[4])
    await pull()
    expect(await stateOf(rows[4])).toBe('changed')
    await post(rows[4])
    await pull()
    expect([await stateOf(rows[4]), await causes()]).toEqual(['booked', []])
    await withdraw(rows[5])
    await doubt(rows[5])
    const said = { units: [rows[5]?.unit] }
    expect((await world.as('viewer', 'POST', `${MONTH}/post/not-there`, said)).statusCode).toBe(403)
    await world.ok('POST', `${MONTH}/post/not-there`, said)
    expect(await stateOf(rows[5])).toBe('failed')
    await post(rows[5])
    await pull()
    expect([await stateOf(rows[5]), await causes()]).toEqual(['booked', []])
    expect((await world.as('preparer', 'POST', `${MONTH}/post/not-there`, said)).json()).toMatchObject({
      code: 'AXION_NOTHING_TO_DO',
    })
  })

  it('a correction in doubt shows at its document, is not sent over, and is settled from there', async () => {
    const row = rows[7]
    await inEntity(world.services.database, 'larkspur', ({ trx }) =>
      trx.raw(
        `insert into booking (entity_id, external_id, system_id, document_id, number, period, currency, kind, source_revision, tax, total, state, action, reason_code, reason_facts)
         select entity_id, regexp_replace(external_id, '[^/]*$', 'correction'), system_id, document_id, number, period, currency, 'correction', '', 0, 0, 'in-doubt', 'book', 'AXION_IN_DOUBT', '{}' from booking where external_id = ?`,
        [row?.externalId ?? ''],
      ),
    )
    expect(await stateOf(row)).toBe('in-doubt')
    const preview = await world.ok<WithdrawPreview>('POST', `${MONTH}/post/withdrawals/preview`, {
      units: [row?.unit],
    })
    expect([preview.documents, preview.kept.map((k) => k.why)]).toEqual([
      [],
      [expect.stringContaining('in doubt')],
    ])
    await world.run('/post/look-again', { units: null })
    await pull()
    if ((await stateOf(row)) === 'in-doubt')
      await world.ok('POST', `${MONTH}/post/not-there`, { units: [row?.unit] })
    expect(await stateOf(row)).toBe('booked')
  })

  it('what is blocked can be withdrawn, and a correction goes with it', async () => {
    await inEntity(world.services.database, 'larkspur', ({ trx }) =>
      trx.raw(`update booking set state = 'blocked' where external_id = ?`, [rows[6]?.externalId ?? '']),
    )
    await withdraw(rows[6])
    expect([await stateOf(rows[6]), await net(rows[6])]).toEqual(['withdrawn', 0])
  })
})
