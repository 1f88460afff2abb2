import { describe, expect, it, test } from 'vitest'
import { readRows, writeRows, type FileRow, type ReadRow } from './columns.ts'
import { guessMapping, mapped, mappingProblem } from './mapping.ts'
import { BASELINE_SHEETS, type BaselineSheet } from './sheets.ts'
import { SYSTEM_SHEETS, type SheetResource } from './systemSheets.ts'

const there = (rows: readonly ReadRow[]): unknown[] =>
  rows.flatMap((row) => ('value' in row ? [row.value] : []))
const ADDRESS = { country: 'XA', region: 'XA-WN', city: 'Quillby', postalCode: '41002' }
const part = (agencyId: string, percent: string, changes: object = {}): object => ({
  agencyId,
  name: agencyId,
  percent,
  perUnit: null,
  onTopOf: [],
  from: null,
  to: null,
  ...changes,
})
const dated = { from: '2024-01-01', to: null }

const SYSTEM: Readonly<Record<SheetResource, readonly object[]>> = {
  agencies: [{ code: null, name: 'Tresurer ', liabilityAccountId: 'a1' }],
  'tax-rates': [
    {
      code: 'F',
      name: 'Fen',
      percent: '6.95',
      active: true,
      components: [part('w', '5.5'), part('h', '1.45', { from: '2026-09-01', onTopOf: [0] })],
    },
    { code: null, name: 'Typed', percent: '8.95', active: false, components: null },
  ],
  accounts: [{ number: '2210', name: 'Tax', type: 'current-liability' }],
  items: [{ code: 'H', name: '=Hive', kind: 'goods', taxable: false, itemTaxCode: null }],
  parties: [
    {
      name: 'A; b',
      exemption: { reason: 'resale', certificate: null, from: null, to: '2026-01-01' },
      address: ADDRESS,
      ...{ taxable: false, defaultTaxRateId: 'rate_1' },
    },
    { name: 'B', exemption: null, address: null, taxable: null, defaultTaxRateId: null },
  ],
  'item-tax-codes': [{ code: 'G', name: 'Goods' }],
  'payment-methods': [{ code: null, name: 'Card', kind: 'card', maskedNumber: '****4417', active: true }],
  locations: [{ code: 'Q', name: 'Quay', timeZone: 'America/Chicago', cutOff: '03:00', address: ADDRESS }],
  dimensions: [{ dimension: 'Department', code: 'Y', name: 'Yard', active: true }],
}
const BASELINE: Readonly<Partial<Record<BaselineSheet, readonly object[]>>> = {
  jurisdictions: [
    {
      code: 'F',
      name: 'Fen',
      level: 'district',
      parent: 'W',
      agency: null,
      covers: [
        { country: 'XA', region: 'XA-WN', postalCode: '40217', plus4: { from: '0001', to: '0999' } },
        { country: 'XA', region: 'XA-WN', city: 'Port Lennox' },
      ],
    },
  ],
  rateVersions: [{ jurisdiction: 'F', percent: '1.45', onTopOf: ['W', 'H'], ...dated }],
  codeRules: [
    {
      jurisdiction: 'F',
      itemTaxCode: 'G',
      treatment: 'standard',
      percent: null,
      perUnit: null,
      threshold: { limit: '120.00', taxes: 'excess' },
      cap: '5000.00',
      currency: 'USD',
      recoverable: '50',
      ...dated,
    },
  ],
  collecting: [{ jurisdiction: 'F', answer: 'another', why: 'the marketplace, by law', ...dated }],
  thresholds: [{ jurisdiction: 'F', sales: null, transactions: 200, currency: null, ...dated }],
  regionRules: [
    {
      jurisdiction: 'F',
      originLevels: [],
      taxedBy: 'supply-date',
      taxedBeforeDiscount: false,
      exemptionReasons: ['resale', 'farm-use'],
      ...dated,
    },
  ],
  postingRules: [
    { kind: 'clearing', agency: null, account: '1060', only: { by: 'method', id: 'CASH' }, ...dated },
    { kind: 'tax', agency: 'W', account: '2210', only: null, ...dated },
  ],
  parties: [{ code: 'c', name: 'C', claims: null, catchAll: true, address: null }],
  rules: [
    {
      code: 'R1',
      name: 'Wrap; all',
      when: {
        ...{ item: null, text: 'gift wrap', region: 'XA-WN', party: null, method: 'CARD', channel: null },
        ...{ system: 'till', stated: 'not-taxable', saleKind: 'own-use' },
      },
      then: { item: 'H1', itemTaxCode: 'G', account: null, dimension: 'Department: Y' },
      ...dated,
    },
  ],
}

describe('a sheet', () => {
  const all = [
    ...Object.entries(SYSTEM).map(
      ([key, values]) => [key, SYSTEM_SHEETS[key as SheetResource], values] as const,
    ),
    ...Object.entries(BASELINE).map(
      ([key, values]) => [key, BASELINE_SHEETS[key as BaselineSheet], values] as const,
    ),
  ]
  test.each(all)('of %s reads back what it wrote', (_, sheet, values) => {
    const lines = values.flatMap((value) => writeRows(sheet, null, value))
    const mapping = guessMapping(
      sheet,
      sheet.columns.map((c) => c.title),
    )
    expect(
      mappingProblem(
        sheet,
        mapping,
        sheet.columns.map((c) => c.title),
      ),
    ).toBeNull()
    expect(
      there(
        readRows(
          sheet,
          lines.map((cells, at) => ({ line: at + 2, cells: mapped(sheet, mapping, cells) })),
        ),
      ),
    ).toEqual(values)
  })

  const row = (cells: Record<string, string>, line = 2): FileRow => ({
    line,
    cells: { code: 'H', name: 'Hive', kind: 'goods', taxable: 'yes', itemTaxCode: '', ...cells },
  })
  test.each<[string, FileRow[], ReadRow[]]>([
    ['a needed cell that is empty', [row({ name: ' ' })], [{ line: 2, problem: 'Name is missing' }]],
    [
      'a flag that is none',
      [row({ taxable: 'maybe' })],
      [{ line: 2, problem: 'Taxable: “maybe” is neither yes nor no' }],
    ],
    [
      'a choice that is none',
      [row({ kind: 'thing' })],
      [{ line: 2, problem: expect.stringContaining('Kind: ') as string }],
    ],
    [
      'the same object twice',
      [row({}), row({ name: 'Another' }, 3)],
      [
        { line: 2, problem: 'H is there more than once' },
        { line: 3, problem: 'H is there more than once' },
      ],
    ],
  ])('says by line what is wrong: %s', (_, rows, expected) =>
    expect(readRows(SYSTEM_SHEETS.items, rows)).toEqual(expected),
  )

  it('keeps the spaces of a name, and knows an object by its own id where the file has one', () => {
    expect(readRows(SYSTEM_SHEETS.items, [row({ id: 'i1', name: 'Hive ' })])).toMatchObject([
      { id: 'i1', value: { name: 'Hive ' } },
    ])
    expect(
      readRows(SYSTEM_SHEETS.dimensions, [
        { line: 2, cells: { dimension: 'Department', code: 'Y', name: 'Yard', active: '1' } },
      ]),
    ).toMatchObject([{ id: 'Department Y' }])
  })

  it('finds its columns by title, in any order and case, and nearly', () => {
    expect(guessMapping(SYSTEM_SHEETS.accounts, ['NAME', 'account', ' Numbr', 'type'])).toEqual({
      id: null,
      number: 2,
      name: 0,
      type: 3,
    })
    expect(mappingProblem(SYSTEM_SHEETS.accounts, { number: 0, name: null, type: 1 }, ['a', 'b'])).toBe(
      'Name has no column of the file',
    )
    expect(mappingProblem(SYSTEM_SHEETS.accounts, { number: 0, name: 9, type: 1 }, ['a', 'b'])).toContain(
      'does not have',
    )
  })
})
