import { two, seen, voiceOf, naming, credited, percent, STATE, index } from '../../../test/mistaken.ts'
import { describe, expect, it, test } from 'vitest'
import { invoice } from '../../../test/baseline.ts'
import type { TaxDocument } from '../../determination/document.ts'
import { parsePercent, ratio } from '../../money/decimal.ts'
import { statedVoice, type VoiceFacts } from '../../tieout/facts.ts'
import { UNCHANGED } from '../recompute.ts'
import type { Names } from './cause.ts'
import {
  causeKey,
  CAUSES,
  isReproduced,
  rankOf,
  reproducedFacts,
  sayReproduced,
  type Assumption,
  type AssumptionKind,
} from './index.ts'

const FOREIGN = { currency: 'EUR', rate: ratio(1n, 3n), date: '2026-09-17' }
const taxes = (voice: VoiceFacts | null): string[] | null =>
  voice && voice.facts.map((f) => `${f.agency ?? 'no agency'} ${f.tax}`)

const farm = invoice([[10000n, 'GOODS']], { partyId: 'farm', supplyDate: '2026-08-10' })

describe('each kind of mistake', () => {
  it('stands under its own name', () =>
    expect(Object.values(CAUSES).map(({ kind }) => kind)).toEqual(Object.keys(CAUSES)))

  test.each<[string, TaxDocument, { readonly [kind in AssumptionKind]?: readonly string[] }]>([
    [
      'a sale of two lines with three components',
      two,
      {
        'component-lost': ['north', 'north', 'hollow', 'hollow', 'rail', 'rail'],
        'one-agency': ['state', 'county', 'transit'],
        'exempted-without-certificate': [''],
        'line-left-out': ['', ''],
        // Ended on the day before, and began then: one date tells either from today's.
        'rate-date': ['2026-08-31'],
        discount: [],
        'exchange-at-one': [],
        'named-rate': [],
        'exemption-ignored': [],
        sign: [''],
        prices: ['true'],
      },
    ],
    ['before the rate changed', farm, { 'rate-date': ['2026-09-01'], 'exemption-ignored': [''] }],
    ['under a certificate nothing was exempted without one', farm, { 'exempted-without-certificate': [] }],
    [
      'one component alone',
      invoice([[10000n, 'GOODS']], { shipTo: STATE }),
      { 'component-lost': [], 'one-agency': [], 'line-left-out': [] },
    ],
    ['a discount', { ...two, discount: 100n }, { discount: ['true', 'false'] }],
    [
      'a credit whose original had one',
      { ...credited({ ...two, discount: 100n }), discount: 0n },
      { discount: ['true', 'false'] },
    ],
    ['another currency', { ...two, exchange: FOREIGN }, { 'exchange-at-one': [''] }],
    ['nothing is taxed', invoice([[10000n, 'BOOK']]), { 'exempted-without-certificate': [] }],
    [
      'rates named, one of them twice',
      naming(
        invoice([
          [1n, 'GOODS'],
          [2n, 'GOODS'],
          [3n, 'GOODS'],
        ]),
        'STD',
        'SOUTH',
        'STD',
      ),
      { 'named-rate': ['their-STD', 'their-SOUTH'] },
    ],
    ['a credit of what named one', credited(naming(two, 'STD')), { 'named-rate': ['their-STD'] }],
  ])('could have been made: %s', (_, document, expected) => {
    const of = seen(document)
    for (const [kind, keys] of Object.entries(expected)) {
      const cause = CAUSES[kind as AssumptionKind]
      const found: readonly Assumption[] = cause.candidates(of)
      expect([kind, found.map((one) => causeKey(one).split('|').slice(1).join('|'))]).toEqual([kind, keys])
    }
  })

  test.each<[string, TaxDocument, Assumption, readonly string[] | null]>([
    ['a component’s percent', two, percent('hollow', 'ALL'), ['state 825', 'county 150', 'transit 75']],
    ['of a rate that none of its lines has', two, percent('hollow', 'STD'), null],
    ['of a rate that nobody knows', two, percent('hollow', 'none'), null],
    [
      'a component lost',
      two,
      { kind: 'component-lost', jurisdictionId: 'hollow', dropped: true },
      ['state 825', 'transit 75'],
    ],
    [
      'all lines on the default code',
      two,
      { kind: 'default-code', systemId: 's', itemTaxCode: 'BOOK', lineId: null },
      [],
    ],
    ['the opposite sign', two, { kind: 'sign' }, ['state -825', 'county -218', 'transit -75']],
    [
      'every component to one agency',
      two,
      { kind: 'one-agency', agencyId: 'county' },
      ['county 825', 'county 218', 'county 75'],
    ],
    [
      'a line left out',
      two,
      { kind: 'line-left-out', lineId: '2' },
      ['state 550', 'county 145', 'transit 50'],
    ],
    ['a line that it has not', two, { kind: 'line-left-out', lineId: '3' }, null],
    ['the only line', invoice([[10000n, 'GOODS']]), { kind: 'line-left-out', lineId: '1' }, null],
    ['the place that it is taxed at', { ...two, shipFrom: two.shipTo }, place('origin'), null],
    ['a place that nobody stated', two, place('origin'), null],
    ['the place of a customer without one', { ...two, partyId: 'farm' }, place('party'), null],
    ['the place of a customer whom nobody knows', { ...two, partyId: 'no one' }, place('party'), null],
    ['no customer', two, place('party'), null],
    ['the customer’s place', { ...two, partyId: 'inn' }, place('party'), ['state 825', 'city 300']],
    [
      'a place outside the register',
      { ...two, shipFrom: { country: 'ZZ', region: null, city: null, postalCode: null } },
      place('origin'),
      null,
    ],
    ['the entity’s place', two, place('entity'), ['state 825', 'city 300']],
    ['the outlet’s, which it was taxed at', { ...two, outlet: STATE }, place('outlet'), null],
    ['no outlet', two, place('outlet'), null],
    ['of no other currency', two, { kind: 'exchange-at-one' }, null],
  ])('changes what it concerns: %s', (_, document, assumption, expected) => {
    const of = seen(document)
    const voice = voiceOf(of, assumption)
    const byAgency = voice && totals(voice)
    expect(byAgency).toEqual(expected && totals({ facts: expected.map(read) }))
  })

  it('is assumed once of the same thing', () => {
    const of = seen({ ...two, discount: 100n })
    expect(
      voiceOf(of, { kind: 'discount', beforeTax: true }, { kind: 'discount', beforeTax: false }),
    ).toBeNull()
    expect(voiceOf(of, { kind: 'exemption-ignored' }, { kind: 'exempted-without-certificate' })).toBeNull()
    expect(voiceOf(of, { kind: 'discount', beforeTax: true }, { kind: 'exemption-ignored' })).not.toBeNull()
  })
})

it('every component to one agency is converted as one, where amounts are in another currency', () => {
  const of = seen({ ...two, exchange: FOREIGN })
  const voice = voiceOf(of, { kind: 'one-agency', agencyId: 'state' })
  // 1,118 of them at a third is 372.67, while a third of each part comes to 275 + 73 + 25.
  expect(voice?.facts.map((f) => [f.account, f.inBase])).toEqual([
    ['2210', { currency: 'EUR', tax: 373n }],
    ...(voice?.facts.slice(1) ?? []).map(() => ['2210', { currency: 'EUR', tax: 0n }]),
  ])
  expect(voiceOf(of, { kind: 'one-agency', agencyId: 'nobody' })?.facts[0]?.account).toBeNull()
  expect(voiceOf(of, { kind: 'exchange-at-one' })?.facts.map((f) => f.inBase?.tax)).toEqual(
    of.expected.facts.map((f) => f.tax),
  )
})

it('the opposite sign turns what is held, and leaves what is not', () => {
  const of = seen({ ...two, exchange: FOREIGN })
  const voice = voiceOf(of, { kind: 'sign' })
  expect(voice?.facts.map((f) => [f.tax, f.base, f.inBase?.tax])).toEqual(
    of.expected.facts.map((f) => [-f.tax, f.base === null ? null : -f.base, -(f.inBase?.tax ?? 0n)]),
  )
  expect(voice?.nets.map((n) => n.net)).toEqual(of.expected.nets.map((n) => -n.net))
  const without = CAUSES.sign.apply({ kind: 'sign' }, UNCHANGED(two), of)?.voice[0]
  const bare = statedVoice(two, [{ rateId: null, agency: null, base: null, tax: 5n }], 1n)
  expect(without?.(bare, of).facts.map((f) => [f.tax, f.base, f.inBase])).toEqual([[-5n, null, null]])
})

describe('a flat rate', () => {
  const flat: Assumption = {
    kind: 'flat-rate',
    systemId: 's',
    systemRateId: 'r',
    percent: parsePercent('10'),
  }

  test.each<[string, TaxDocument, string, bigint, bigint]>([
    ['on what is taxed', two, 'no agency 1500', 1500n, 15000n],
    [
      'not on what is exempt',
      invoice([
        [10000n, 'GOODS'],
        [5000n, 'BOOK'],
      ]),
      'no agency 1000',
      1000n,
      15000n,
    ],
    ['of what was given back', credited(two), 'no agency -1500', -1500n, -15000n],
    // 10,745 with 745 inside: a tenth of what is before it is 977.
    [
      'out of a price with tax inside',
      invoice([[10745n, 'GOODS']], { pricesIncludeTax: true }),
      'no agency 977',
      977n,
      9768n,
    ],
  ])('%s', (_, document, said, tax, net) => {
    const voice = voiceOf(seen(document), flat)
    expect(taxes(voice)).toEqual([said])
    expect(voice?.facts[0]).toMatchObject({ tax, base: null, lineId: null, account: null, source: null })
    expect(voice?.nets.reduce((total, n) => total + n.net, 0n)).toBe(net)
  })

  it('on nothing taxed is nothing', () => {
    const of = seen(invoice([[10000n, 'BOOK']]))
    expect(voiceOf(of, flat)?.facts.every((f) => f.tax === 0n)).toBe(true)
  })
})

describe('what is said of it', () => {
  const names: Names = {
    index,
    day: '2026-09-30',
    jurisdiction: (id) => `J ${id}`,
    agency: (id) => `A ${id}`,
    rate: (system, id) => `${system ?? 'its own'} ${id}`,
    account: (system, number) => `${system} ${number || 'none'}`,
  }
  const named = { kind: 'named-rate', systemRateId: 'r', combinedRateId: 'ALL', within: true } as const
  test.each<[Assumption, RegExp]>([
    [{ kind: 'exchange-at-one' }, /^Till took .* unit for unit\.$/],
    [{ kind: 'exempted-without-certificate' }, /^Till taxed nothing/],
    [{ kind: 'exemption-ignored' }, /^Till taxed a customer whose certificate holds\.$/],
    [{ kind: 'sign' }, /^Till has it with the opposite sign/],
    [{ kind: 'line-left-out', lineId: '1' }, /^Till left one line out\.$/],
    [
      { ...named, enteredBy: null },
      /the rate “its own r” that the document itself names, .* place and items\.$/,
    ],
    [{ ...named, enteredBy: 'Ida' }, /place and items; Ida entered it\.$/],
    [
      percent('hollow', 'ALL'),
      /holds J hollow at 1\.00\s% in “s r”\. The baseline has 1\.45\s% since on 2026-09-01\.$/,
    ],
    [percent('hollow', 'RED'), /The baseline has 0\.00\s%\.$/],
    [percent('north', 'STD'), /The baseline has 5\.50\s% since on 2020-01-01\.$/],
    [
      { kind: 'liability-account', systemId: 's', systemAgencyId: 'a', agencyId: 'nobody', account: '1' },
      /^Till posts the tax of A nobody to s 1\. It belongs in s none\.$/,
    ],
  ])('%o', (assumption, sentence) => {
    const facts = reproducedFacts(assumption, 'Till', names)
    expect(isReproduced(facts)).toBe(true)
    expect(sayReproduced(facts, (iso) => `on ${iso}`)).toMatch(sentence)
    expect(facts.system).toBe('Till')
  })

  it('is no cause of these where it has another kind', () =>
    expect(isReproduced({ kind: 'period' })).toBe(false))

  it('a rate that lacks a place comes right after one that was lost', () => {
    const ranks = [
      { ...named, enteredBy: null },
      { ...named, within: false, enteredBy: null },
    ].map(rankOf)
    const lost = rankOf({ kind: 'component-lost', jurisdictionId: 'x', dropped: false })
    expect(ranks[0]).toBeGreaterThan(lost)
    expect(ranks[0]).toBeLessThan(rankOf({ kind: 'one-agency', agencyId: 'x' }))
    expect(ranks[1]).toBeLessThan(lost)
  })
})

function read(said: string): VoiceFacts['facts'][number] {
  const [agency = '', tax = ''] = said.split(' ')
  return { agency, tax: BigInt(tax) } as VoiceFacts['facts'][number]
}
function totals({ facts }: Pick<VoiceFacts, 'facts'>): Record<string, bigint> {
  const of: Record<string, bigint> = {}
  for (const { agency, tax } of facts) if (tax !== 0n) of[agency ?? ''] = (of[agency ?? ''] ?? 0n) + tax
  return of
}
function place(of: 'origin' | 'party' | 'entity' | 'outlet'): Assumption {
  return { kind: 'rate-place', place: of, whole: false }
}
