import type { About, Booking } from '@axion/contract'
import { describe, expect, it, test } from 'vitest'
import type { Bridge } from '../src/bridges/client.ts'
import type { WriteOutcome } from '../src/bridges/exchanged.ts'
import { Problem } from '../src/faults/problem.ts'
import { idempotencyKey, type Leased } from '../src/post/outbox.ts'
import { attempt } from '../src/post/send.ts'

const ours: Booking = {
  id: '7001',
  externalId: 'e/b/d/invoice',
  number: 'LA-1',
  revision: '4',
  state: 'posted',
}
const booking = (changes: Partial<Leased> = {}): Leased => ({
  external_id: ours.externalId,
  number: 'LA-1',
  revision: 2,
  action: 'book',
  request: {} as Leased['request'],
  attempts: 1,
  ledger_booking_id: null,
  ledger_revision: null,
  lease_token: '1',
  uncertain_since: null,
  ...changes,
})
const about = (changes: Partial<About> = {}): About =>
  ({
    idempotency: { keepsKeysSeconds: 60 },
    findsByExternalId: true,
    longestLateCommitSeconds: 5,
    ...changes,
  }) as About

/** A bridge that answers as it is told, and notes what it was asked. */
function bridgeThat(answers: {
  readonly write?: WriteOutcome
  readonly byKey?: Booking[]
  readonly byExternalId?: Booking[]
  readonly down?: boolean
}): { bridge: Bridge; asked: string[] } {
  const asked: string[] = []
  const write =
    (what: string) =>
    (...given: unknown[]): Promise<WriteOutcome> => {
      asked.push(`${what} ${given.filter((g) => typeof g === 'string').join(' ')}`.trim())
      return Promise.resolve(answers.write ?? { kind: 'done', body: ours, revision: '4' })
    }
  const bridge = {
    postBooking: write('post'),
    replaceBooking: write('replace'),
    findBookings: (by: { idempotencyKey?: string }) => {
      asked.push(by.idempotencyKey ? 'by key' : 'by external id')
      if (answers.down) return Promise.reject(new Problem('AXION_BRIDGE_DOWN', { system: 'Ledger' }))
      return Promise.resolve((by.idempotencyKey ? answers.byKey : answers.byExternalId) ?? [])
    },
  }
  return { bridge: bridge as unknown as Bridge, asked }
}
const settle = async (
  answers: Parameters<typeof bridgeThat>[0],
  leased = booking(),
  is = about(),
): Promise<[state: string, asked: string[], outcome: Awaited<ReturnType<typeof attempt>>]> => {
  const { bridge, asked } = bridgeThat(answers)
  const { uncertain_since: since } = leased
  const outcome = await attempt(bridge, is, leased, {
    quietForSeconds: since && (NOW.getTime() - since.getTime()) / 1000,
    mostAttempts: 3,
    pauses: [0.2, 0.5],
  })
  return [outcome.state, asked, outcome]
}
const refused = (status: number): WriteOutcome => ({
  kind: 'refused',
  status,
  code: 'unknown-account',
  detail: 'There is no account.',
})
const later: WriteOutcome = { kind: 'later', afterSeconds: 7, detail: 'busy' }
const unknown: WriteOutcome = { kind: 'unknown', detail: 'the connection was lost' }
const NOW = new Date('2026-10-02T12:00:00Z')
const uncertain = (seconds: number, changes: Partial<Leased> = {}): Leased =>
  booking({ uncertain_since: new Date(NOW.getTime() - seconds * 1000), ...changes })
const booked = { ledger_booking_id: '7001', ledger_revision: '3' }

describe('an attempt at a booking', () => {
  it('posts what is new under its key, and replaces what is booked under its revision', async () => {
    expect((await settle({}))[1]).toEqual([`post ${idempotencyKey(booking())}`])
    expect((await settle({}, booking(booked)))[1]).toEqual([`replace 7001 ${idempotencyKey(booking())} 3`])
  })

  test.each<[string, WriteOutcome, Partial<Leased>, string, object]>([
    [
      'is sent when the ledger says so',
      { kind: 'done', body: ours, revision: '4' },
      {},
      'sent',
      { ledgerBookingId: '7001', ledgerRevision: '4' },
    ],
    [
      'is looked up when the answer has another shape',
      { kind: 'done', body: 'thanks', revision: '' },
      {},
      'waiting',
      { uncertain: true, unanswered: true },
    ],
    [
      'fails with the ledger’s own reason',
      refused(422),
      {},
      'failed',
      { code: 'AXION_LEDGER_REFUSED', facts: { detail: 'There is no account.', reason: 'unknown-account' } },
    ],
    [
      'fails where somebody changed the booking meanwhile',
      refused(412),
      booked,
      'failed',
      { code: 'AXION_EDITED_IN_LEDGER' },
    ],
    ['waits as long as the ledger asks', later, {}, 'waiting', { afterSeconds: 7, uncertain: false }],
    ['is not put off for ever', later, { attempts: 3 }, 'failed', { code: 'AXION_LEDGER_BUSY' }],
    ['is uncertain without an answer', unknown, {}, 'waiting', { uncertain: true, unanswered: true }],
    [
      'is for a person after too many of those',
      unknown,
      { attempts: 7 },
      'in-doubt',
      { code: 'AXION_IN_DOUBT' },
    ],
  ])('%s', async (_, write, changes, state, outcome) => {
    const [settled, , full] = await settle({ write }, booking(changes))
    expect(settled).toBe(state)
    expect(full).toMatchObject(outcome)
  })
})

describe('an attempt that had no answer', () => {
  type Row = [string, Parameters<typeof bridgeThat>[0], Leased, Partial<About>, string, string[]]
  test.each<Row>([
    ['is found by its key', { byKey: [ours] }, uncertain(1), {}, 'sent', ['by key']],
    [
      'is found by its external id where the key is not known',
      { byExternalId: [ours] },
      uncertain(1),
      {},
      'sent',
      ['by key', 'by external id'],
    ],
    [
      'waits for a late commit before "not found" counts',
      {},
      uncertain(1),
      {},
      'waiting',
      ['by key', 'by external id'],
    ],
    [
      'is sent again once no late commit can come',
      {},
      uncertain(6),
      {},
      'sent',
      ['by key', 'by external id', `post ${idempotencyKey(booking())}`],
    ],
    [
      'stays in doubt where late commits have no limit',
      {},
      uncertain(600),
      { longestLateCommitSeconds: null },
      'in-doubt',
      [],
    ],
    [
      'stays in doubt where nothing can be looked up',
      {},
      uncertain(600),
      { idempotency: null, findsByExternalId: false },
      'in-doubt',
      [],
    ],
    [
      'stays in doubt where only the key could tell, and may have been ignored',
      {},
      uncertain(600),
      { findsByExternalId: false },
      'in-doubt',
      ['by key'],
    ],
    ['waits when it cannot be looked up now', { down: true }, uncertain(600), {}, 'waiting', ['by key']],
    [
      'is for a person when it could not be looked up too often',
      { down: true },
      uncertain(600, { attempts: 7 }),
      {},
      'in-doubt',
      ['by key'],
    ],
    [
      'replaces again what still stands at the old revision',
      { byExternalId: [{ ...ours, revision: '3' }] },
      uncertain(6, booked),
      {},
      'sent',
      ['by key', 'by external id', `replace 7001 ${idempotencyKey(booking())} 3`],
    ],
    ['knows a replacement by its key', { byKey: [ours] }, uncertain(1, booked), {}, 'sent', ['by key']],
    [
      'does not guess whose change moved a revision',
      { byExternalId: [ours] },
      uncertain(6, booked),
      {},
      'in-doubt',
      ['by key', 'by external id'],
    ],
  ])('%s', async (_, answers, leased, is, state, asked) => {
    const [settled, questions] = await settle(answers, leased, about(is))
    expect([settled, questions]).toEqual([state, asked])
  })
})
