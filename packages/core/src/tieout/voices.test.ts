import { describe, expect, it, test } from 'vitest'
import { baseline, invoice } from '../../test/baseline.ts'
import { indexBaseline } from '../baseline/lookup.ts'
import { determine } from '../determination/determine.ts'
import { bookedVoice, expectedVoice, resolveAgencies, statedVoice, type EntryLine } from './facts.ts'
import { FINEST, membersOf } from './members.ts'
import { judge } from './verdict.ts'

describe('roles of a journal’s lines', () => {
  const line = (account: string, accountType: EntryLine['accountType'], credit: bigint): EntryLine => ({
    account,
    accountType,
    isTax: false,
    agency: null,
    debit: credit < 0n ? -credit : 0n,
    credit: credit > 0n ? credit : 0n,
    base: null,
    rateId: null,
    inBase: null,
  })
  const accounts = {
    taxAccounts: new Set(['2210']),
    netAccounts: new Set(['4000']),
    owingAccounts: new Set(['1100']),
    roundingAccounts: new Set(['7900']),
  }
  const booked = (...lines: EntryLine[]): unknown => {
    const entry = { postingDate: '2026-09-18', currency: 'USD', baseCurrency: 'USD', lines }
    return bookedVoice([entry], accounts).nets.map(({ account, net }) => [account, net])
  }
  test.each<[string, EntryLine[], [string | null, bigint][]]>([
    [
      'revenue',
      [line('1100', 'receivable', -107n), line('4000', 'income', 100n), line('2210', 'liability', 7n)],
      [['4000', 100n]],
    ],
    [
      'revenue moved to stock',
      [line('1100', 'receivable', -107n), line('1400', 'other', 100n), line('2210', 'liability', 7n)],
      [['1400', 100n]],
    ],
    [
      'a receivable moved to another account',
      [line('1900', 'other', -107n), line('4000', 'income', 100n), line('2210', 'liability', 7n)],
      [['4000', 100n]],
    ],
    ['tax alone', [line('1100', 'receivable', -7n), line('2210', 'liability', 7n)], [[null, 0n]]],
  ])('%s', (_, lines, nets) => expect(booked(...lines)).toEqual(nets))
})

describe('voices', () => {
  const index = indexBaseline(baseline)
  const document = invoice([
    [10000n, 'GOODS'],
    [500n, 'FOOD'],
  ])
  const determination = determine(document, index)
  const expected = expectedVoice(document, determination, index)

  it('counts a base once per agency and line', () => {
    expect(membersOf(expected, FINEST).map((m) => [m.agency, m.account, m.base, m.tax])).toEqual([
      ['county', '2212', 10000n, 145n],
      ['state', '2210', 10000n, 550n],
      ['transit', '2216', 10000n, 50n],
    ])
  })

  it('reads a journal: liability lines are tax, income lines are net', () => {
    const line = { agency: null, isTax: false, debit: 0n, credit: 0n, base: null, rateId: null, inBase: null }
    const booked = bookedVoice(
      [
        {
          postingDate: '2026-09-18',
          currency: 'USD',
          baseCurrency: 'USD',
          lines: [
            { ...line, account: '1100', accountType: 'receivable', debit: 11245n },
            { ...line, account: '4000', accountType: 'income', credit: 10500n },
            {
              ...line,
              account: '2210',
              accountType: 'liability',
              isTax: true,
              agency: 'state',
              credit: 550n,
            },
            { ...line, account: '2212', accountType: 'liability', agency: null, credit: 145n },
            {
              ...line,
              account: '2216',
              accountType: 'liability',
              isTax: true,
              agency: 'transit',
              credit: 50n,
            },
          ],
        },
      ],
      {
        taxAccounts: new Set(['2212']),
        netAccounts: new Set(),
        owingAccounts: new Set(),
        roundingAccounts: new Set(),
      },
    )
    const stated = statedVoice(document, [{ rateId: null, agency: null, base: null, tax: 745n }], 10500n)
    expect(booked.facts.map((f) => [f.account, f.tax])).toEqual([
      ['2210', 550n],
      ['2212', 145n],
      ['2216', 50n],
    ])
    expect(
      judge({
        stated,
        expected,
        expectedComplete: true,
        booked: [resolveAgencies(booked, expected)],
        missingWhy: 'waiting',
        voided: { source: false, ledger: false },
        edited: false,
        otherRoundings: () => [],
      }).proved,
    ).toBe(true)
  })
})
