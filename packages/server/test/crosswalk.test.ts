import type { Agency, TaxRate } from '@axion/contract'
import { combinedRatesOf, determine, indexBaseline, type Assumption } from '@axion/core'
import { describe, expect, it, test } from 'vitest'
import { baseline, invoice } from '../../core/test/baseline.ts'
import { compareNames } from '../src/align/grid/compareNames.ts'
import { compareAgency, compareRate, departingPercents } from '../src/setUp/compare.ts'
import { crosswalk, isClear, standsFor } from '../src/setUp/crosswalk.ts'
import { alignedOf } from '../src/setUp/aligned.ts'
import type { Departing } from '../src/setUp/departing.ts'
import { departuresOf } from '../src/setUp/departures.ts'
import type { HeldSystem } from '../src/setUp/held.ts'
import { stakesOf } from '../src/setUp/stake.ts'

const index = indexBaseline(baseline)
const DATE = '2026-09-30'
const component = (
  agencyId: string,
  percent: string,
  name = agencyId,
): NonNullable<TaxRate['components']>[number] => ({
  agencyId,
  name,
  percent,
  perUnit: null,
  onTopOf: [],
  from: null,
  to: null,
})
const rate = (name: string, components: TaxRate['components'], changes: Partial<TaxRate> = {}): TaxRate => ({
  code: null,
  name,
  percent: '7.45',
  active: true,
  components,
  ...changes,
})
const fenwick = [component('L-state', '5.5'), component('L-county', '1.45'), component('L-transit', '0.5')]
const LINKS: Readonly<Record<string, string>> = {
  'L-state': 'state',
  'L-county': 'county',
  'L-transit': 'transit',
  'L-city': 'city',
}

function held(
  rates: readonly TaxRate[],
  changes: {
    role?: string
    links?: Readonly<Record<string, string>>
    rateLinks?: Readonly<Record<string, string>>
    agencies?: readonly (readonly [string, Agency])[]
  } = {},
): HeldSystem {
  const { role = 'ledger', links = LINKS, rateLinks = {}, agencies = [] } = changes
  return {
    row: { system_id: role, role, name: role } as HeldSystem['row'],
    rows: { objects: [], links: [], codes: [] },
    agencies: agencies.map(([id, value]) => ({ id, revision: '1', value })),
    rates: rates.map((value, at) => ({ id: `r${at}`, revision: '1', value })),
    accounts: ['2210', '2212', '2214', '2216'].map((number) => ({
      id: `a${number}`,
      revision: '1',
      value: { number, name: number, type: 'current-liability' },
    })),
    items: [],
    parties: [],
    links: [],
    account: () => undefined,
    hasAgency: (id) => agencies.some(([own]) => own === id),
    itemOf: (code) => code,
    partyOf: (id) => id,
    genericParty: () => null,
    locationOf: () => null,
    methodOf: () => null,
    outletOf: () => null,
    codes: [],
    methods: [],
    locations: [],
    dimensions: [],
    linkOf: (kind, id) =>
      kind === 'agency' ? (links[id] ?? null) : kind === 'combined-rate' ? (rateLinks[id] ?? null) : null,
    agencyOf: (id) => links[id] ?? null,
    combinedRateOf: (id) => rateLinks[id] ?? null,
    linkedTo: () => [],
    accountName: (number) => number,
    accountNumber: (id) => (id === null ? null : id.slice(1)),
  }
}
const hollow = baseline.combinedRates[0] as (typeof baseline.combinedRates)[number]
const linked = (id: string): string | null => LINKS[id] ?? null

describe('a rate beside the baseline’s', () => {
  test.each<[string, TaxRate, (id: string) => string | null, boolean, string]>([
    ['agrees in any order', rate('x', [...fenwick].reverse()), linked, true, '7.45 %'],
    [
      'differs in a component',
      rate('x', [component('L-state', '5.5'), component('L-county', '1.25'), component('L-transit', '0.5')]),
      linked,
      false,
      '7.25, not 7.45',
    ],
    [
      'has the right total, split otherwise',
      rate('x', [component('L-state', '5.45'), component('L-county', '1.5'), component('L-transit', '0.5')]),
      linked,
      false,
      '7.45, split otherwise',
    ],
    ['lacks a component', rate('x', fenwick.slice(0, 2)), linked, false, '6.95, not 7.45'],
    ['has one too many', rate('x', [...fenwick, component('L-city', '2')]), linked, false, '9.45, not 7.45'],
    ['has no parts', rate('x', null), linked, false, '7.45 by hand, no parts'],
    ['meets in order where agencies are not known', rate('x', fenwick), () => null, true, '7.45 %'],
  ])('%s', (_, theirs, agencyOf, agrees, words) => {
    const compared = compareRate(hollow, theirs, { agencyOf, index, date: DATE })
    expect([compared.agrees, compared.words]).toEqual([agrees, words])
    expect(departingPercents(compared).size > 0 && agrees).toBe(false)
  })

  it('is compared on the date: what agreed in August differs in September', () => {
    const old = rate('x', [
      component('L-state', '5.5'),
      component('L-county', '1.25'),
      component('L-transit', '0.5'),
    ])
    expect([
      compareRate(hollow, old, { agencyOf: linked, index, date: '2026-08-31' }).agrees,
      compareRate(hollow, old, { agencyOf: linked, index, date: '2026-09-01' }).agrees,
    ]).toEqual([true, false])
  })
})

describe('an agency beside the baseline’s', () => {
  const agency = (account: string | null): Agency => ({
    code: null,
    name: 'County',
    liabilityAccountId: account,
  })
  test.each<[string, string, Agency, boolean, string]>([
    ['ledger', 'the right account', agency('a2212'), true, '2212'],
    ['ledger', 'another account', agency('a2214'), false, 'posts to 2214, not 2212'],
    ['ledger', 'no account', agency(null), false, 'no account, not 2212'],
    ['billing', 'a system without accounts', agency(null), true, 'County'],
  ])('%s with %s', (role, _, theirs, agrees, words) => {
    const compared = compareAgency('county', theirs, { system: held([], { role }), index, date: DATE })
    expect([compared.agrees, compared.words]).toEqual([agrees, words])
  })
})

describe('what a system’s objects stand for', () => {
  it('is a link before a proposal, and an ambiguous one is nothing', () => {
    const met = crosswalk(
      held([rate('Hollow with rail', fenwick), rate('Elsewhere', null)], { rateLinks: { r1: 'state-only' } }),
      index,
      DATE,
    )
    expect(met.of('combined-rate').map(standsFor)).toEqual(['hollow-rail', 'state-only'])
    expect(met.of('combined-rate').map(isClear)).toEqual([true, false])
  })
  it('is not clear by a near name alone', () => {
    const met = crosswalk(held([rate('Hollow with rial', null)]), index, DATE)
    expect([standsFor(met.of('combined-rate')[0]), isClear(met.of('combined-rate')[0] as never)]).toEqual([
      'hollow-rail',
      false,
    ])
  })
})

describe('stakes and departures', () => {
  const document = invoice([[396000n, 'GOODS']])
  const determination = determine(document, index)
  const wrong = rate('Hollow with rail', [
    component('L-state', '5.5'),
    component('L-county', '1.25'),
    component('L-transit', '0.5'),
  ])
  const NONE: Departing = { item: () => undefined, party: () => undefined, parties: () => [] }
  const itemIn = (system: string, code: string): Departing => ({
    ...NONE,
    item: (systemId, of) => (systemId === system && of === 'H1' ? { objectId: 'i7', code } : undefined),
  })
  const partyWith = (certificates: 'ignored' | 'everyone'): Departing => ({
    ...NONE,
    party: (systemId, id) =>
      systemId === 'billing' && id === 'p' ? { objectId: 'p', certificates } : undefined,
  })
  const stakes = (
    system: HeldSystem,
    rateIds: readonly string[] = [],
    departing = NONE,
  ): [string, bigint][] =>
    stakesOf(
      {
        document,
        determination,
        systemId: 'billing',
        stated: 0n,
        rateIds: new Set(rateIds),
        rates: combinedRatesOf(document, determination, index),
        party: 'p',
        itemCodes: new Map([['1', 'H1']]),
      },
      [{ held: system, aligned: alignedOf(system, index, DATE) }],
      index,
      departing,
    ).map((s) => [s.findingKey, s.amount])

  test.each<[string, HeldSystem, string[], [string, bigint][]]>([
    ['a wrong rate in the ledger', held([wrong]), [], [['ledger|combined-rate|r0', 792n]]],
    ['the same rate in order', held([rate('Hollow with rail', fenwick)]), [], []],
    [
      'a flat rate that the document carries',
      held([rate('By hand', null)], { role: 'billing' }),
      ['r0'],
      [['billing|combined-rate|r0', 29502n]],
    ],
    ['a flat rate that it does not', held([rate('By hand', null)], { role: 'billing' }), ['other'], []],
    [
      'an agency with another account',
      held([], { agencies: [['L-county', { code: null, name: 'county', liabilityAccountId: 'a2214' }]] }),
      [],
      [['ledger|agency|L-county', 5742n]],
    ],
  ])('%s', (_, system, rateIds, expected) => expect(stakes(system, rateIds)).toEqual(expected))

  test.each<[string, Departing, [string, bigint][]]>([
    ['an item under an exempt code', itemIn('billing', 'FOOD'), [['billing|item|i7', 29502n]]],
    ['the same in another system', itemIn('shop', 'FOOD'), []],
    ['an item under a code without rules', itemIn('billing', 'NONE'), []],
    ['a party exempt there alone', partyWith('everyone'), [['billing|party|p', 29502n]]],
    ['a party taxed there, that claims nothing anyhow', partyWith('ignored'), []],
  ])('%s', (_, departing, expected) =>
    expect(stakes(held([], { role: 'billing' }), [], departing)).toEqual(expected),
  )

  it('gives rise to one assumption a component that differs and one an agency, from links alone', () => {
    const agencies = [['L-county', { code: null, name: 'x', liabilityAccountId: 'a2214' }]] as const
    expect(departuresOf(held([wrong], { agencies }), index, DATE)).toHaveLength(1)
    const all = departuresOf(held([wrong], { agencies, rateLinks: { r0: 'hollow-rail' } }), index, DATE)
    const told = (a: Assumption): string =>
      a.kind === 'component-percent'
        ? `${a.jurisdictionId} ${a.percent}`
        : a.kind === 'liability-account'
          ? `${a.agencyId} ${a.account}`
          : a.kind
    expect(all.map(told)).toEqual(['hollow 1250000', 'county 2214'])
  })
})

describe('names', () => {
  it('shows two names character by character', () => {
    expect(compareNames('Treasurer', 'Tresurer').left).toEqual([
      { text: 'Tre', same: true },
      { text: 'a', same: false },
      { text: 'surer', same: true },
    ])
    expect(compareNames('A ', 'A').left.at(-1)).toEqual({ text: ' ', same: false })
    expect(compareNames('ab-c😀', 'ab–c😀')).toEqual({
      left: [
        { text: 'ab', same: true },
        { text: '-', same: false },
        { text: 'c😀', same: true },
      ],
      right: [
        { text: 'ab', same: true },
        { text: '–', same: false },
        { text: 'c😀', same: true },
      ],
    })
  })
})
