import { NEW_ROW, type Party } from '@axion/contract'
import type { Baseline } from '@axion/core'
import { describe, expect, it, test } from 'vitest'
import { baseline } from '../../core/test/baseline.ts'
import { build, codesOf, exempt, NO_CLAIMS, type Holds } from './aligning.ts'

describe('what systems fall back on', () => {
  const port = {
    ...(baseline.combinedRates[1] as Baseline['combinedRates'][number]),
    ...{ id: 'port', code: 'PT', name: 'Port', jurisdictionIds: ['north', 'port'] },
  }
  const within = { combinedRates: [...baseline.combinedRates, port] }
  const rates = [{ name: 'State alone' }, { name: 'Port, theirs' }]
  const links: Holds['links'] = [
    ['combined-rate', 'r0', 'state-only'],
    ['combined-rate', 'r1', 'port'],
  ]
  const inState = { country: 'XA', region: 'XA-NO', city: 'Elsewhere', postalCode: '30000' }
  const nowhere = { country: 'ZZ', region: null, city: null, postalCode: null }

  test.each<[string, Partial<Holds>, Partial<Baseline>, string, string[]]>([
    ['the rate of home', { defaultRate: 'r1' }, {}, 'agrees Port, theirs', []],
    ['another', { defaultRate: 'r0' }, {}, 'differs State alone, not Port', ['DEFAULT_RATE']],
    [
      'one that nobody linked',
      { defaultRate: 'r1', links: [] },
      {},
      'differs Port, theirs, not linked',
      ['DEFAULT_RATE'],
    ],
    ['one that it does not hold', { defaultRate: 'r9' }, {}, 'differs r9, not linked', ['DEFAULT_RATE']],
  ])('itself: %s', (_, holds, changes, says, codes) => {
    const rows = build('rates', [{ rates, links, ...holds }], { ...within, ...changes })
    const row = rows.find((one) => one.id === NEW_ROW)
    expect([row?.cells.map((cell) => `${cell.state} ${cell.words}`).join(), row && codesOf([row])]).toEqual([
      says,
      codes,
    ])
  })
  test.each<[string, Partial<Holds>, Partial<Baseline>]>([
    ['a system that says none', {}, within],
    ['a home whose rate the baseline has not', { defaultRate: 'r0' }, {}],
    ['a business that is at home nowhere', { defaultRate: 'r0' }, { ...within, homeAddress: null }],
  ])('itself: nothing is said of %s', (_, holds, changes) =>
    expect(build('rates', [{ rates, links, ...holds }], changes).some(({ id }) => id === NEW_ROW)).toBe(
      false,
    ),
  )

  test.each<[string, Partial<Party>, string[], string?]>([
    ['the rate of its address', { address: inState, defaultTaxRateId: 'r0' }, []],
    [
      'another',
      { address: inState, defaultTaxRateId: 'r1' },
      ['ALIGN_EXTRA extra', 'PARTY_RATE extra'],
      'taxable, at another place’s rate',
    ],
    ['a rate, and no address', { defaultTaxRateId: 'r1' }, []],
    ['an address that lies nowhere', { address: nowhere, defaultTaxRateId: 'r1' }, []],
    ['a rate that is linked to nothing', { address: inState, defaultTaxRateId: 'r9' }, []],
    [
      'no tax, for no reason',
      { taxable: false },
      ['ALIGN_EXTRA extra', 'PARTY_FLAG extra'],
      'untaxed by a flag',
    ],
    [
      'no tax, and a reason',
      { taxable: false, exemption: exempt('resale') },
      ['ALIGN_EXTRA extra'],
      'exempt for resale',
    ],
    ['tax', { taxable: true }, []],
  ])('a customer: %s', (_, value, codes, held) => {
    const holds: Holds = { rates, links, parties: [['new', { name: 'Somebody new', ...value }]] }
    const rows = build('parties', [holds], { ...NO_CLAIMS, ...within })
    expect(codesOf(rows)).toEqual(codes)
    const says = rows.filter(({ extra }) => extra).map(({ cells }) => cells[0]?.words)
    expect(says).toEqual(codes.length === 0 ? [] : [held])
  })
  it('is said of a customer whom the baseline knows, beside what it claims', () => {
    const shop = { address: inState, defaultTaxRateId: 'r1', taxable: false }
    const [row] = build('parties', [{ rates, links, parties: [['shop', shop]] }], {
      ...within,
      certificates: [],
      parties: baseline.parties.flatMap((p) => (p.id === 'shop' ? [{ ...p, claims: null }] : [])),
    })
    expect([row && codesOf([row]), row?.cells[0]?.words]).toEqual([
      ['PARTY_RATE', 'PARTY_FLAG'],
      'at another place’s rate, untaxed by a flag',
    ])
  })
})
