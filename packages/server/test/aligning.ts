import type { Account, AlignKind, Item, Party, TaxRate } from '@axion/contract'
import { indexBaseline, type Baseline } from '@axion/core'
import { baseline } from '../../core/test/baseline.ts'
import { buildRows } from '../src/align/grid/rows.ts'
import type { BuiltRow } from '../src/align/grid/column.ts'
import { KINDS, type GridBasis } from '../src/align/kinds/index.ts'
import { crosswalk } from '../src/setUp/crosswalk.ts'
import type { Held, HeldSystem, Link } from '../src/setUp/held.ts'

export const DATE = '2026-09-30'

export interface Holds {
  readonly role?: 'ledger' | 'billing'
  readonly rates?: readonly Partial<TaxRate>[]
  readonly items?: readonly Partial<Item>[]
  readonly parties?: readonly (readonly [id: string, value: Partial<Party>])[]
  readonly accounts?: readonly (readonly [number: string, type: Account['type']])[]
  readonly agencies?: readonly (readonly [id: string, name: string])[]
  readonly links?: readonly (readonly [kind: Link['kind'], objectId: string, baselineId: string])[]
  readonly defaultCode?: string | null
  readonly newTaxable?: boolean | null
  readonly defaultRate?: string | null
  readonly stock?: boolean
}

export function system({
  role = 'billing',
  rates = [],
  items = [],
  parties = [],
  accounts = [],
  agencies = [],
  links = [],
  defaultCode = 'GOODS',
  newTaxable = null,
  defaultRate = null,
  stock = false,
}: Holds): HeldSystem {
  const hold = <T>(values: readonly (readonly [string, T])[]): Held<T>[] =>
    values.map(([id, value]) => ({ id, revision: '1', value }))
  const own = links.map(([kind, objectId, baselineId]): Link => ({
    systemId: role,
    kind,
    objectId,
    baselineId,
  }))
  const linkOf: HeldSystem['linkOf'] = (kind, objectId) =>
    own.find((l) => l.kind === kind && l.objectId === objectId)?.baselineId ?? null
  return {
    row: {
      system_id: role,
      role,
      name: role === 'ledger' ? 'Ledger' : 'Billing',
      settings: {
        defaultItemTaxCode: defaultCode,
        newPartiesTaxable: newTaxable,
        keepsInventory: stock,
        defaultTaxRateId: defaultRate,
      },
      about: {
        resources: ['agencies', 'tax-rates', ...(role === 'ledger' ? ['accounts'] : ['items', 'parties'])],
        takes: [],
        creates: [],
      },
    } as unknown as HeldSystem['row'],
    rows: { objects: [], links: [], codes: [] },
    rates: hold(
      rates.map((value, at) => [
        `r${at}`,
        { code: null, name: 'Rest of state', percent: '5.5', active: true, components: null, ...value },
      ]),
    ),
    items: hold(
      items.map((value, at) => [
        `i${at}`,
        { code: 'H1', name: 'Hive', kind: 'goods', taxable: true, itemTaxCode: 'GOODS', ...value },
      ]),
    ),
    parties: hold(
      parties.map(([id, value]) => [
        id,
        { name: 'A shop', exemption: null, address: null, taxable: null, defaultTaxRateId: null, ...value },
      ]),
    ),
    accounts: hold(accounts.map(([number, type]) => [`a${number}`, { number, name: number, type }])),
    agencies: hold(agencies.map(([id, name]) => [id, { code: null, name, liabilityAccountId: null }])),
    links: own,
    linkOf,
    agencyOf: (id) => linkOf('agency', id),
    combinedRateOf: (id) => linkOf('combined-rate', id),
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
    linkedTo: (kind, id) => own.filter((l) => l.kind === kind && l.baselineId === id).map((l) => l.objectId),
    accountNumber: (id) => id?.slice(1) ?? null,
    accountName: (number) => number,
  }
}

export function build(
  kind: AlignKind,
  systems: readonly Holds[],
  changes: Partial<Baseline> = {},
): BuiltRow[] {
  const index = indexBaseline({ ...baseline, ...changes })
  const basis: GridBasis = {
    index,
    date: DATE,
    purposes: new Map(),
    systems: systems.map(system).map((held) => ({ held, crosswalk: crosswalk(held, index, DATE) })),
  }
  return buildRows(basis, KINDS[kind])
}
export const codesOf = (rows: readonly BuiltRow[]): string[] =>
  rows.flatMap((row) =>
    row.findings.map((f) => `${f.code.replace('AXION_', '')}${row.extra ? ' extra' : ''}`),
  )
export const exempt = (reason: string): Party['exemption'] => ({
  reason,
  certificate: null,
  from: null,
  to: null,
})
export const part = (
  percent: string,
  changes: Partial<NonNullable<TaxRate['components']>[number]> = {},
): NonNullable<TaxRate['components']>[number] => ({
  agencyId: 's',
  name: 's',
  percent,
  perUnit: null,
  onTopOf: [],
  from: null,
  to: null,
  ...changes,
})
export const STATE: Holds = {
  agencies: [['s', 'state']],
  links: [
    ['agency', 's', 'state'],
    ['combined-rate', 'r0', 'state-only'],
  ],
}
export const NO_CLAIMS = { certificates: [], parties: baseline.parties.map((p) => ({ ...p, claims: null })) }
