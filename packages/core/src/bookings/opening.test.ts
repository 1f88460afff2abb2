import fc from 'fast-check'
import { expect, it, test } from 'vitest'
import { newestComingTo, openingStanding, type Opened, type OpeningState } from './opening.ts'

const NOTHING: Opened = { balance: 100n, list: 0n, items: 0, then: null, aside: false }

test.each<[OpeningState, Partial<Opened>]>([
  ['unknown', { balance: null, list: 100n, items: 2, then: 100n }],
  ['nil', { balance: 0n }],
  ['lacking', {}],
  ['taken', { list: 100n, items: 2, then: 100n }],
  // What the ledger had then is nothing to what it has now.
  ['taken', { list: 100n, items: 2, then: 90n }],
  ['apart', { list: 90n, items: 2, then: 100n }],
  ['apart', { list: 90n, items: 2, then: 95n }],
  ['moved', { list: 90n, items: 2, then: 90n }],
  ['apart', { balance: 0n, list: 5n, items: 1, then: 0n }],
  // Lines that cancel out are a list, too.
  ['taken', { balance: 0n, list: 0n, items: 2, then: 0n }],
  ['aside', { then: 100n, aside: true }],
  ['moved', { then: 90n, aside: true }],
])('an account is %s: %o', (standing, of) => {
  expect(openingStanding({ ...NOTHING, ...of })).toBe(standing)
})

it('takes the fewest of the newest lines that come to a balance, and never others', () => {
  const lines = fc.array(fc.bigInt({ min: -50n, max: 50n }), { maxLength: 12 })
  fc.assert(
    fc.property(lines, fc.bigInt({ min: -60n, max: 60n }), (amounts, balance) => {
      const newest = amounts.map((amount) => ({ amount }))
      const sums = amounts.map((_, at) => amounts.slice(0, at + 1).reduce((sum, one) => sum + one, 0n))
      const fewest = sums.indexOf(balance)
      expect(newestComingTo(newest, balance)).toEqual(fewest < 0 ? null : newest.slice(0, fewest + 1))
    }),
  )
})
