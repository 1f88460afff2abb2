import fc from 'fast-check'
import { describe, expect, it, test } from 'vitest'
import { sum } from '../money/currency.ts'
import { resolveAgencies, type TaxFact, type VoiceFacts } from './facts.ts'
import { FINEST, membersOf } from './members.ts'

import { agree, signatureOf } from './signature.ts'
import { judge, type TieUnitVoices } from './verdict.ts'

type Row = readonly [agency: string | null, account: string | null, tax: bigint]
const voice = (
  rows: readonly Row[],
  more: { net?: bigint; period?: string; currency?: string } = {},
): VoiceFacts => {
  const { net = 10000n, period = '2026-09', currency = 'USD' } = more
  return {
    facts: rows.map(([agency, account, tax]): TaxFact => ({
      lineId: null,
      jurisdictionId: null,
      agency,
      account,
      currency,
      period,
      base: null,
      tax,
      inBase: null,
      source: null,
    })),
    nets: [{ account: null, currency, period, net }],
  }
}
const S: Row[] = [
  ['a', null, 550n],
  ['b', null, 145n],
]
const E: Row[] = [
  ['a', '10', 550n],
  ['b', '20', 145n],
]
const unit = (changes: Partial<TieUnitVoices>): TieUnitVoices => ({
  stated: voice(S),
  expected: voice(E),
  expectedComplete: true,
  booked: [voice(E)],
  missingWhy: 'waiting',
  voided: { source: false, ledger: false },
  edited: false,
  otherRoundings: () => [],
  ...changes,
})

describe('verdict (K9)', () => {
  test.each<[string, Partial<TieUnitVoices>, string | null, string[], bigint]>([
    ['all agree', {}, null, [], 0n],
    ['a stated total that agrees', { stated: voice([[null, null, 695n]]) }, null, [], 0n],
    [
      'the ledger has another rate',
      {
        booked: [
          voice([
            ['a', '10', 550n],
            ['b', '20', 125n],
          ]),
        ],
      },
      'amount',
      ['booked'],
      20n,
    ],
    [
      'the wrong account',
      {
        booked: [
          voice([
            ['a', '10', 550n],
            ['b', '30', 145n],
          ]),
        ],
      },
      'account',
      ['booked'],
      145n,
    ],
    [
      'a wrong account and a wrong amount',
      {
        booked: [
          voice([
            ['a', '11', 550n],
            ['b', '20', 125n],
          ]),
        ],
      },
      'account',
      ['booked'],
      570n,
    ],
    [
      'the right total, split otherwise',
      {
        booked: [
          voice([
            ['a', '10', 545n],
            ['b', '20', 150n],
          ]),
        ],
      },
      'agency',
      ['booked'],
      5n,
    ],
    [
      'another place of rounding',
      {
        booked: [
          voice([
            ['a', '10', 551n],
            ['b', '20', 145n],
          ]),
        ],
        otherRoundings: () => [
          voice([
            ['a', '10', 551n],
            ['b', '20', 145n],
          ]),
        ],
      },
      'rounding',
      ['booked'],
      1n,
    ],
    ['another month', { booked: [voice(E, { period: '2026-10' })] }, 'period', ['booked'], 695n],
    ['another currency', { booked: [voice(E, { currency: 'EUR' })] }, 'currency', ['booked'], 1390n],
    ['not booked', { booked: [] }, 'missing', ['booked'], 695n],
    ['booked twice', { booked: [voice(E), voice(E)] }, 'duplicate', ['booked'], 695n],
    ['no source', { stated: null, expected: null }, 'orphan', ['booked'], 695n],
    [
      'the source is wrong',
      {
        stated: voice([
          ['a', null, 550n],
          ['b', null, 125n],
        ]),
      },
      'amount',
      ['stated'],
      20n,
    ],
    [
      'the baseline stands alone',
      {
        expected: voice([
          ['a', '10', 550n],
          ['b', '20', 125n],
        ]),
      },
      'amount',
      ['expected'],
      20n,
    ],
    ['voided on one side', { voided: { source: true, ledger: false } }, 'voided', [], 0n],
    ['edited with nothing moved', { edited: true }, 'edited', [], 0n],
  ])('%s', (_, changes, headline, odd, unproved) => {
    const verdict = judge(unit(changes))
    expect([verdict.headline, verdict.odd, sum(verdict.unproved.map((u) => u.tax))]).toEqual([
      headline,
      odd,
      unproved,
    ])
    expect(verdict.proved).toBe(headline === null)
  })

  it('comes to the same in all at every grain, however its facts are cut and ordered', () => {
    const row = fc.tuple(
      fc.constantFrom('a', 'b', null),
      fc.constantFrom('10', '20', null),
      fc.bigInt({ min: -999n, max: 999n }),
    )
    fc.assert(
      fc.property(fc.array(row, { maxLength: 12 }), fc.boolean(), fc.boolean(), (rows, agency, account) => {
        const grain = { ...FINEST, agency, account }
        const members = membersOf(voice(rows), grain)
        expect(sum(members.map((m) => m.tax))).toBe(sum(rows.map(([, , tax]) => tax)))
        expect(signatureOf(voice([...rows].reverse()), grain)).toBe(signatureOf(voice(rows), grain))
        expect(agree(voice(rows), voice([...rows].reverse()))).toBe(true)
        expect(agree(voice(rows), voice([...rows, ['a', '10', 1n]]))).toBe(false)
      }),
    )
  })

  it('takes a line’s base once where a source states no split', () => {
    const onBase = (rows: readonly Row[]): VoiceFacts => ({
      ...voice(rows),
      facts: voice(rows).facts.map((fact) => ({ ...fact, lineId: '1', base: 10000n })),
    })
    const verdict = judge(
      unit({ stated: onBase([[null, null, 695n]]), expected: onBase(E), booked: [onBase(E)] }),
    )
    expect([
      verdict.proved,
      membersOf(onBase(E), { ...FINEST, agency: false, account: false }).map((m) => m.base),
    ]).toEqual([true, [10000n]])
  })

  it('counts nothing for what was not to be taken', () => {
    const verdict = judge(unit({ booked: [], missingWhy: 'draft' }))
    expect([verdict.notTaken, verdict.headline, verdict.unproved]).toEqual([true, 'missing', []])
  })

  it('puts a wrong account in the row where it was expected', () => {
    expect(
      judge(
        unit({
          booked: [
            voice([
              ['a', '10', 550n],
              ['b', '30', 145n],
            ]),
          ],
        }),
      ).unproved,
    ).toEqual([{ agency: 'b', account: '20', currency: 'USD', period: '2026-09', tax: 145n }])
  })

  it('sees an untaxed line that was left out', () => {
    const verdict = judge(unit({ booked: [voice(E, { net: 9000n })] }))
    expect([verdict.headline, verdict.unproved, verdict.unprovedNet]).toEqual(['amount', [], 1000n])
  })

  test.each<[string, Row[], Row[], Row[], bigint]>([
    [
      'an agency alone expected, another stated and booked',
      [['b', null, 150n]],
      [['a', '10', 200n]],
      [['b', '20', 150n]],
      200n,
    ],
    ['three voices, each its own', [['a', null, 90n]], [['a', '10', 100n]], [['a', '10', 110n]], 20n],
    [
      'one voice wrong here, the other there',
      [
        ['a', null, 110n],
        ['b', null, 50n],
      ],
      [
        ['a', '10', 100n],
        ['b', '20', 50n],
      ],
      [
        ['a', '10', 100n],
        ['b', '20', 57n],
      ],
      17n,
    ],
    [
      'stated beyond, booked in a wrong account',
      [['a', null, 120n]],
      [['a', '10', 100n]],
      [['a', '30', 100n]],
      120n,
    ],
    [
      'booked to another agency, stated too much',
      [
        ['a', null, 112n],
        ['b', null, 50n],
      ],
      [
        ['a', '10', 100n],
        ['b', '20', 50n],
      ],
      [
        ['a', '10', 90n],
        ['b', '20', 60n],
      ],
      22n,
    ],
  ])('adds the largest difference of each member up: %s', (_, stated, expected, booked, unproved) => {
    const verdict = judge(unit({ stated: voice(stated), expected: voice(expected), booked: [voice(booked)] }))
    expect(sum(verdict.unproved.map((u) => u.tax))).toBe(unproved)
  })

  const nets = (
    ...amounts: readonly [account: string | null, net: bigint, isRounding?: boolean][]
  ): VoiceFacts => ({
    ...voice(E),
    nets: amounts.map(([account, net, isRounding = false]) => ({
      account,
      net,
      currency: 'USD',
      period: '2026-09',
      isRounding,
    })),
  })
  test.each<[string, VoiceFacts, string[], bigint]>([
    ['where it belongs', nets(['4000', 9000n], ['4100', 1000n]), [], 0n],
    ['in one amount of two lines', nets(['4000', 4000n], ['4000', 5000n], ['4100', 1000n]), [], 0n],
    ['moved to stock by hand', nets(['4100', 1000n], ['1400', 9000n]), ['account'], 9000n],
    ['a line left out', nets(['4000', 8500n], ['4100', 1000n]), ['amount'], 500n],
    ['moved, and a line left out', nets(['1400', 8500n], ['4100', 1000n]), ['account', 'amount'], 9000n],
    ['rounded there', nets(['4000', 9000n], ['4100', 1000n], ['7900', -1n, true]), ['amount'], 1n],
  ])('compares what is net of tax by its accounts: %s', (_, booked, facets, unprovedNet) => {
    const stated = voice(S)
    const expected = nets(['4000', 9000n], ['4100', 1000n])
    const verdict = judge(unit({ stated, expected, booked: [booked] }))
    expect([verdict.facets, verdict.unproved, verdict.unprovedNet]).toEqual([facets, [], unprovedNet])
  })

  it('sees that who owes the whole was moved by hand', () => {
    const owed = (account: string): VoiceFacts => ({ ...voice(E), owed: [{ account, amount: 10695n }] })
    const verdict = judge(unit({ expected: owed('1100'), booked: [owed('1900')], edited: true }))
    expect([verdict.facets, verdict.unprovedNet]).toEqual([['account', 'edited'], 10695n])
    expect(judge(unit({ expected: owed('1100'), booked: [owed('1100')], edited: true })).facets).toEqual([
      'edited',
    ])
  })

  it('does not compare what is void on one side with what is not there', () => {
    const verdict = judge(
      unit({
        stated: voice([], { net: 0n }),
        expected: voice([], { net: 0n }),
        voided: { source: true, ledger: false },
      }),
    )
    expect([verdict.facets, sum(verdict.unproved.map((u) => u.tax))]).toEqual([['voided'], 695n])
  })

  it('counts the sales of lines that nobody decided where their tax is not in question', () => {
    const verdict = judge(unit({ expectedComplete: false, undecided: 2500n }))
    expect([verdict.proved, verdict.unproved, verdict.unprovedNet]).toEqual([false, [], 2500n])
  })

  it('does not count one difference of the stated voice twice', () => {
    const verdict = judge(
      unit({
        stated: voice([[null, null, 600n]]),
        booked: [
          voice([
            ['a', '10', 550n],
            ['b', '20', 125n],
          ]),
        ],
      }),
    )
    expect(sum(verdict.unproved.map((u) => u.tax))).toBe(95n)
    expect(verdict.odd).toEqual(['stated', 'expected', 'booked'])
  })

  it('gives a line without an agency to the agency whose amount it has, and compares the rest at the grain there is', () => {
    const booked = voice([
      ['a', '10', 550n],
      [null, '20', 145n],
    ])
    expect(resolveAgencies(booked, voice(E)).facts.map((f) => f.agency)).toEqual(['a', 'b'])
    expect(resolveAgencies(voice([[null, '20', 146n]]), voice(E)).facts[0]?.agency).toBeNull()
    expect(judge(unit({ booked: [booked] })).proved).toBe(true)
    expect(judge(unit({ booked: [booked] })).unproved).toEqual([])
  })

  it('proves exactly when signatures agree, whatever the order and split of facts', () => {
    const rows = fc.array(
      fc.tuple(fc.constantFrom('a', 'b'), fc.constantFrom('10', '20'), fc.bigInt({ min: -500n, max: 500n })),
      { maxLength: 8 },
    )
    fc.assert(
      fc.property(rows, rows, (left, right) => {
        const expected = voice(left)
        const booked = voice(right)
        const same = signatureOf(expected, FINEST) === signatureOf(booked, FINEST)
        const stated = voice(left.map(([agency, , tax]): Row => [agency, null, tax]))
        const verdict = judge(unit({ stated, expected, booked: [booked] }))
        expect(verdict.proved).toBe(same)
        expect(sum(verdict.unproved.map((u) => u.tax)) > 0n).toBe(!same)
        expect(signatureOf(voice([...left].reverse()), FINEST)).toBe(signatureOf(expected, FINEST))
      }),
    )
  })
})
