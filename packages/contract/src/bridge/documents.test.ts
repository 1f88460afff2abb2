import { readFileSync } from 'node:fs'
import { describe, expect, it, test } from 'vitest'
import type { z } from 'zod'
import {
  About,
  Account,
  Agency,
  ALSO_OF,
  Balances,
  BankLine,
  Booking,
  BookingRequest,
  bridgeDocument,
  Committed,
  decodeDocument,
  Dimension,
  DOCUMENT_KINDS,
  Item,
  ItemTaxCodeObject,
  JournalEntry,
  Location,
  Page,
  Party,
  PaymentMethod,
  RESOURCES,
  RESOURCES_OF,
  Settings,
  Settlement,
  SourceDocument,
  TaxRate,
} from '../index.ts'

const page = readFileSync(new URL('../../../../docs/bridge.md', import.meta.url), 'utf8')
const samples = [...page.matchAll(/```json\n([\s\S]*?)```/g)].map(
  ([, text]) => JSON.parse(text ?? '') as unknown,
)

describe('docs/bridge.md', () => {
  const shapes: readonly [string, z.ZodType][] = [
    ['about', About],
    ['settings', Settings],
    ['a page', Page],
    ['an agency', Agency],
    ['a tax rate', TaxRate],
    ['an account', Account],
    ['an item', Item],
    ['a party', Party],
    ['an item tax code', ItemTaxCodeObject],
    ['a payment method', PaymentMethod],
    ['a location', Location],
    ['a dimension', Dimension],
    ['a document', SourceDocument],
    ['a journal entry', JournalEntry],
    ['a settlement', Settlement],
    ['a bank line', BankLine],
    ['what a tax service keeps', Committed],
    ['balances', Balances],
    ['a booking request', BookingRequest],
    ['a booking', Booking],
  ]
  it('has a sample of each shape, in this order', () => expect(samples).toHaveLength(shapes.length))
  test.each(shapes.map(([name, shape], at) => [name, shape, samples[at]] as const))(
    'shows %s as the contract takes it',
    (_, shape, sample) => {
      expect(shape.safeParse(sample).error?.issues ?? []).toEqual([])
    },
  )
  it('shows a document whose amounts add up', () => {
    expect(decodeDocument(SourceDocument.parse(samples[12])).total).toBe(425502n)
  })
  it('names every resource and every role', () => {
    for (const resource of Object.keys(RESOURCES)) expect(page).toContain(`\`${resource}\``)
    for (const [role, resources] of Object.entries(RESOURCES_OF)) {
      const row = page.split('\n').find((line) => line.startsWith(`| \`${role}\` |`)) ?? ''
      for (const resource of [...resources, ...ALSO_OF[role as keyof typeof ALSO_OF]])
        expect(row, role).toContain(resource)
    }
    for (const kind of DOCUMENT_KINDS) expect(page).toContain(`\`${kind}\``)
  })
  it('says what every field of about and settings is called', () => {
    for (const field of [...Object.keys(About.shape), ...Object.keys(Settings.shape)])
      expect(page).toContain(field)
  })
})

describe('the OpenAPI document of the bridge', () => {
  const { paths } = bridgeDocument() as {
    paths: Record<
      string,
      Record<string, { responses: object; parameters?: { name: string; required: boolean }[] }>
    >
  }
  it('has every path of the contract, each with its refusals', () => {
    expect(Object.keys(paths).sort()).toEqual([
      '/about',
      '/accounts',
      '/accounts/{id}',
      '/agencies',
      '/agencies/{id}',
      '/balances',
      '/bank-lines',
      '/bookings',
      '/bookings/{id}',
      '/bookings/{id}/void',
      '/committed',
      '/committed/{id}',
      '/dimensions',
      '/dimensions/{id}',
      '/documents',
      '/item-tax-codes',
      '/items',
      '/items/{id}',
      '/journal-entries',
      '/locations',
      '/locations/{id}',
      '/parties',
      '/parties/{id}',
      '/payment-methods',
      '/payment-methods/{id}',
      '/settings',
      '/settlements',
      '/tax-rates',
      '/tax-rates/{id}',
    ])
    for (const methods of Object.values(paths))
      for (const operation of Object.values(methods))
        expect(Object.keys(operation.responses)).toContain('default')
  })
  it('asks for a key with a booking and for a revision with a change', () => {
    const needed = (path: string, method: string): string[] =>
      (paths[path]?.[method]?.parameters ?? []).filter((p) => p.required).map((p) => p.name)
    expect(needed('/bookings', 'post')).toEqual(['Idempotency-Key'])
    expect(needed('/bookings/{id}', 'put')).toEqual(['id', 'Idempotency-Key', 'If-Match'])
    expect(needed('/agencies', 'post')).toEqual(['Idempotency-Key'])
    expect(needed('/agencies/{id}', 'patch')).toEqual(['id', 'If-Match'])
  })
  it('is plain JSON', () =>
    expect(JSON.parse(JSON.stringify(bridgeDocument()))).toMatchObject({
      openapi: '3.1.0',
      info: { version: '1' },
    }))
})
