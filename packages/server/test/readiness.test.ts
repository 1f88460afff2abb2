import { readFileSync } from 'node:fs'
import { indexBaseline, type PostingRule } from '@axion/core'
import { describe, expect, it, test } from 'vitest'
import { baseline as sample } from '../../core/test/baseline.ts'
import { CHECKS, checkReadiness, type ReadinessFacts } from '../src/connect/readiness.ts'

const settings = {
  baseCurrency: 'USD',
  currencies: ['USD'],
  timeZone: 'UTC',
  taxEnabled: true,
  computesTax: false,
  keepsDocumentNumbers: true,
  pairsCreditsItself: false,
  usesAccountNumbers: true,
  lockedThrough: null,
}
const about = {
  takes: ['bookings'],
  taxComputation: 'by-rate',
  findsByExternalId: true,
  longestLateCommitSeconds: 5,
}
const facts = (changes: Partial<Record<keyof ReadinessFacts, unknown>> = {}): ReadinessFacts =>
  ({
    system: { role: 'ledger', name: 'Ledger', goesOut: true },
    about,
    settings,
    others: [
      { name: 'Billing', role: 'billing', settings: { ...settings, computesTax: true }, served: false },
    ],
    entity: { currency: 'USD', name: 'L' },
    baseline: indexBaseline(sample),
    rates: 6,
    accountNumbers: new Set(sample.postingRules.map((r: PostingRule) => r.account)),
    entriesOfOthers: 0,
    dimensions: new Set(),
    places: [],
    month: '2026-09',
    pulled: true,
    servedBy: [],
    ...changes,
  }) as unknown as ReadinessFacts
const billing = { role: 'billing', name: 'Billing' }
const stocked = [
  ...sample.postingRules,
  ...(['cost-of-sales', 'inventory'] as const).map((kind): PostingRule => ({
    id: kind,
    kind,
    agencyId: null,
    only: null,
    account: '5000',
    valid: { from: '2024-01-01', to: null },
  })),
]

describe('readiness', () => {
  it('passes where every fact is as it should be', () => {
    expect(checkReadiness(facts()).filter((r) => r.state !== 'passes')).toEqual([])
    expect(
      checkReadiness(
        facts({ system: billing, settings: { ...settings, computesTax: true }, others: [] }),
      ).map((r) => [r.code, r.state]),
    ).toEqual([
      ['holds-tax', 'passes'],
      ['one-computes', 'passes'],
      ['base-currency', 'passes'],
      ['places-resolve', 'passes'],
    ])
  })

  test.each<[string, Partial<Record<keyof ReadinessFacts, unknown>>, string, RegExp]>([
    ['holds-tax', { settings: { ...settings, taxEnabled: false } }, 'fails', /Tax is off/],
    ['holds-tax', { rates: 0, pulled: false }, 'open', /not been pulled/],
    ['holds-tax', { rates: 0 }, 'fails', /has no rate/],
    ['holds-tax', { system: billing, rates: 0 }, 'open', /has no rate/],
    ['holds-tax', { rates: 1 }, 'passes', /with 1 rate$/],
    ['tax-computation', { about: { ...about, taxComputation: null } }, 'fails', /does not say/],
    ['tax-computation', { about: { ...about, taxComputation: 'as-given' } }, 'passes', /handed/],
    ['one-computes', { system: billing, others: [] }, 'fails', /Nothing does/],
    ['one-computes', { system: billing, others: [], servedBy: ['Reckoner'] }, 'passes', /^Reckoner does$/],
    [
      'one-computes',
      { system: billing, others: [], servedBy: ['Reckoner', 'Another'] },
      'fails',
      /^Reckoner and Another do$/,
    ],
    [
      'one-computes-all',
      { others: [{ name: 'Billing', role: 'billing', settings, served: true }] },
      'passes',
      /one each/,
    ],
    [
      'one-computes',
      {
        system: billing,
        settings: { ...settings, computesTax: true },
        others: [{ name: 'Ledger', role: 'ledger', settings: { ...settings, computesTax: true } }],
      },
      'fails',
      /Billing and Ledger do/,
    ],
    [
      'one-computes',
      {
        system: billing,
        settings: { ...settings, computesTax: true },
        others: [{ name: 'Billing abroad', role: 'billing', settings: { ...settings, computesTax: true } }],
      },
      'passes',
      /^Billing does/,
    ],
    ['one-computes-sales', { system: { role: 'pos', name: 'Tills' }, others: [] }, 'fails', /Nothing does/],
    ['inventory', {}, 'passes', /Nobody says/],
    [
      'inventory',
      { others: [{ name: 'Tills', role: 'pos', settings: { ...settings, keepsInventory: true } }] },
      'fails',
      /^Tills keeps it; no posting rule for cost of sales and inventory/,
    ],
    [
      'inventory',
      {
        settings: { ...settings, keepsInventory: true },
        baseline: indexBaseline({ ...sample, postingRules: stocked }),
      },
      'passes',
      /^Ledger keeps it, and both/,
    ],
    [
      'inventory',
      {
        settings: { ...settings, keepsInventory: true },
        others: [{ name: 'Tills', role: 'pos', settings: { ...settings, keepsInventory: true } }],
        baseline: indexBaseline({ ...sample, postingRules: stocked }),
      },
      'fails',
      /Ledger and Tills keep it/,
    ],
    ['base-currency', { settings: { ...settings, baseCurrency: 'EUR' } }, 'fails', /EUR here, USD/],
    [
      'currencies',
      {
        others: [{ name: 'Billing', role: 'billing', settings: { ...settings, currencies: ['USD', 'KWD'] } }],
      },
      'fails',
      /lacks KWD/,
    ],
    [
      'keeps-numbers',
      { settings: { ...settings, keepsDocumentNumbers: false } },
      'fails',
      /number of its own/,
    ],
    ['finds-bookings', { about: { ...about, findsByExternalId: false } }, 'fails', /Not by external id/],
    ['finds-bookings', { about: { ...about, longestLateCommitSeconds: null } }, 'fails', /no limit/],
    ['pairs-credits', { settings: { ...settings, pairsCreditsItself: true } }, 'fails', /pairs them itself/],
    ['accounts-there', { accountNumbers: new Set(['1100']) }, 'fails', /lacks .*2210/],
    ['accounts-there', { accountNumbers: new Set(), pulled: false }, 'open', /not been pulled/],
    ['accounts-there', { accountNumbers: new Set() }, 'fails', /lacks 1100/],
    ['takes-bookings', { about: { ...about, takes: ['accounts'] } }, 'fails', /takes none/],
    [
      'takes-bookings',
      { system: { role: 'ledger', name: 'Ledger', goesOut: false }, about: { ...about, takes: [] } },
      'fails',
      /scope sends nothing/,
    ],
    ['account-numbers', { settings: { ...settings, usesAccountNumbers: false } }, 'fails', /by name alone/],
    [
      'dimensions-there',
      {
        baseline: indexBaseline({
          ...sample,
          dimensions: [{ id: 'Department: Y', dimension: 'Department', code: 'Y', name: 'Yard' }],
        }),
      },
      'fails',
      /lacks Yard/,
    ],
    [
      'dimensions-there',
      {
        baseline: indexBaseline({
          ...sample,
          dimensions: [{ id: 'Department: Y', dimension: 'Department', code: 'Y', name: 'Yard' }],
        }),
        dimensions: new Set(['Department: Y']),
      },
      'passes',
      /All 1/,
    ],
    [
      'places-resolve',
      {
        system: billing,
        places: [
          { name: 'Yard', address: { country: 'ZZ', region: null, city: 'Nowhere', postalCode: null } },
        ],
      },
      'fails',
      /Yard \(Nowhere, ZZ\) does not/,
    ],
    [
      'places-resolve',
      {
        system: billing,
        places: [
          { name: 'Port', address: { country: 'XA', region: 'XA-NO', city: 'Port', postalCode: '20000' } },
        ],
      },
      'passes',
      /All 1 do/,
    ],
    [
      'period-open',
      { settings: { ...settings, lockedThrough: '2026-09-15' } },
      'fails',
      /Locked through 2026-09-15/,
    ],
    ['period-open', { settings: { ...settings, lockedThrough: '2026-08-31' } }, 'passes', /2026-08-31/],
    ['already-there', { entriesOfOthers: 2 }, 'fails', /2 in 2026-09/],
    ['already-there', { pulled: false }, 'open', /not been pulled/],
  ])('%s, %#', (code, changes, state, fact) => {
    const result = checkReadiness(facts(changes)).find((r) => r.code === code)
    expect(result?.state).toBe(state)
    expect(result?.fact).toMatch(fact)
  })

  it('says of each check why it matters and how to mend it', () => {
    expect(new Set(CHECKS.map((c) => c.code)).size).toBe(CHECKS.length)
    expect(CHECKS.every((c) => c.question.endsWith('?') && c.why.endsWith('.') && c.mend.endsWith('.'))).toBe(
      true,
    )
  })
})

describe('docs/operations.md', () => {
  it('lists every setting that is read', () => {
    const page = readFileSync(new URL('../../../docs/operations.md', import.meta.url), 'utf8')
    const source = readFileSync(new URL('../src/settings/settings.ts', import.meta.url), 'utf8')
    for (const [name] of source.matchAll(/AXION_[A-Z_]+/g)) expect(page).toContain(`\`${name}\``)
  })
})
