import { FINDING_CODES } from '@axion/contract'
import { describe, expect, it } from 'vitest'
import {
  answers,
  billingData,
  disagreements,
  ledgerData,
  billingOf,
  FERNHOLLOW,
  FERNHOLLOW_AMOUNTS,
  otherSystems,
  QUILLON,
  SALTMARSH,
} from './index.ts'

const month = (seed: number): ReturnType<typeof billingData> =>
  billingData(seed, 'http://127.0.0.1:4101/billing/desk')
interface Drawn {
  readonly number: string
  readonly kind: string
  readonly status: string
  readonly documentDate: string
  readonly creditsDocumentId: string | null
  readonly currency: string
  readonly lines: readonly { readonly taxRateId: string | null }[]
}
const documents = (seed: number): (Drawn & { id: string })[] =>
  month(seed)
    .objects.filter((o) => o.resource === 'documents')
    .map((o) => ({ id: o.id, ...(o.value as Drawn) }))

describe('Larkspur Apiary Supply', () => {
  it('is the same bytes for the same seed, and others for another', () => {
    expect(JSON.stringify(month(7))).toBe(JSON.stringify(month(7)))
    expect(JSON.stringify(month(7))).not.toBe(JSON.stringify(month(8)))
    expect(JSON.stringify(ledgerData())).toBe(JSON.stringify(ledgerData()))
  })

  it('makes a quarter of documents of every kind, in order, whatever the seed', () => {
    for (const seed of [1, 2026, 77]) {
      const all = documents(seed)
      const of = (test: (d: Drawn) => boolean): number => all.filter(test).length
      expect(all.map((d) => d.documentDate)).toEqual(all.map((d) => d.documentDate).sort())
      expect(new Set(all.map((d) => d.number)).size).toBe(all.length)
      expect([...new Set(all.map((d) => d.documentDate.slice(0, 7)))]).toEqual([
        '2026-07',
        '2026-08',
        '2026-09',
      ])
      expect(of((d) => d.lines.some((l) => l.taxRateId === 'rate_typed'))).toBe(1)
      expect([
        of((d) => d.kind === 'credit-note'),
        of((d) => d.status === 'draft'),
        of((d) => d.status === 'void'),
      ]).toEqual([3, 2, 1])
      expect([...new Set(all.map((d) => d.currency))].sort()).toEqual(['EUR', 'JPY', 'KWD', 'USD'])
      // What is credited stands before its credit notes.
      for (const credit of all.filter((d) => d.creditsDocumentId !== null))
        expect(all.findIndex((d) => d.id === credit.creditsDocumentId)).toBeLessThan(all.indexOf(credit))
    }
  })

  it('has an answer for every document of the month that is booked in the end', () => {
    const key = answers(5, '2026-09')
    expect(key.map((a) => a.number).sort()).toEqual(
      documents(5)
        .filter((d) => d.documentDate.startsWith('2026-09') && d.status === 'open')
        .map((d) => d.number)
        .sort(),
    )
    const credits = key.filter((a) => a.number.startsWith('CN-'))
    // 198.00 of cedar hives at 5.5 %, then 165.00 and 49.50 of frames, each to the cent of what is credited so far.
    expect(credits.map((a) => [a.net, a.tax.get('WRO')])).toEqual([
      [-19800n, -1089n],
      [-23178n, -516n],
      [-21450n, -1180n],
    ])
  })
})

describe('the systems beside ledger and billing', () => {
  const units = (text: string): bigint => BigInt(text.replace('.', ''))
  const of = <T>(seed: number, id: string, resource: string): T[] =>
    otherSystems(seed)
      .find((s) => s.id === id)
      ?.data.objects.filter((o) => o.resource === resource)
      .map((o) => o.value as T) ?? []
  interface Sold {
    readonly kind: string
    readonly total: string
    readonly marketplace: string | null
    readonly locationId: string | null
    readonly lines: readonly { readonly amount: string }[]
    readonly taxes: readonly {
      readonly tax: string
      readonly components: readonly { readonly tax: string }[]
    }[]
    readonly tenders: readonly { readonly amount: string }[]
  }
  interface Moved {
    readonly kind: string
    readonly amount: string
    readonly fee: string
    readonly payoutId: string | null
  }

  it('are the same for the same seed, and others for another', () => {
    expect(JSON.stringify(otherSystems(7))).toBe(JSON.stringify(otherSystems(7)))
    expect(JSON.stringify(otherSystems(7))).not.toBe(JSON.stringify(otherSystems(8)))
  })

  it('state documents whose lines, taxes, parts and tenders add up, whatever the seed', () => {
    for (const seed of [1, 2026, 77]) {
      for (const [id, many] of [
        ['pos', 84],
        ['commerce', 40],
        ['purchasing', 12],
      ] as const) {
        const documents = of<Sold>(seed, id, 'documents')
        expect(documents).toHaveLength(many)
        for (const { lines, taxes, total, tenders } of documents) {
          const sum = (texts: readonly string[]): bigint => texts.reduce((all, text) => all + units(text), 0n)
          expect(sum(lines.map((l) => l.amount)) + sum(taxes.map((t) => t.tax))).toBe(units(total))
          for (const { tax, components } of taxes) expect(sum(components.map((c) => c.tax))).toBe(units(tax))
          if (tenders.length > 0) expect(sum(tenders.map((t) => t.amount))).toBe(units(total))
        }
      }
      expect(new Set(of<Sold>(seed, 'pos', 'documents').map((d) => d.locationId)).size).toBe(3)
      // What a marketplace collects, the shop does not charge.
      const market = of<Sold>(seed, 'commerce', 'documents').filter((d) => d.marketplace !== null)
      expect([market.length, market.every((d) => d.taxes.length === 0)]).toEqual([8, true])
    }
  })

  it('pay out, and receive at the bank, just what the charges of a week come to', () => {
    for (const id of ['payments', 'payments-web']) {
      const moved = of<Moved>(5, id, 'settlements')
      const payouts = moved.filter((m) => m.kind === 'payout')
      const settled = moved.filter((m) => m.payoutId !== null)
      expect(payouts).toHaveLength(4)
      expect(-payouts.reduce((all, p) => all + units(p.amount), 0n)).toBe(
        settled.reduce((all, m) => all + units(m.amount) - units(m.fee), 0n),
      )
      expect(of<{ amount: string }>(5, 'bank', 'bank-lines').map((l) => l.amount)).toEqual(
        expect.arrayContaining(payouts.map((p) => p.amount.replace('-', ''))),
      )
    }
  })
})

describe('what is set up otherwise than agreed', () => {
  it('is of every kind that there is, and told once', () => {
    const key = disagreements()
    expect(
      [
        ...new Set([...key.map((one) => one.finding), ...FERNHOLLOW_AMOUNTS.map(([, , finding]) => finding)]),
      ].sort(),
    ).toEqual([...FINDING_CODES].sort())
    expect(new Set(key.map((one) => JSON.stringify(one))).size).toBe(key.length)
  })
})

describe('the small entities', () => {
  it.each([
    [SALTMARSH, 26],
    [FERNHOLLOW, 66],
    [QUILLON, 30],
  ])(
    '$id makes a month of invoices, and one before where it has it, and the same for the same seed',
    (entity, many) => {
      const made = billingOf(entity, 3, 'http://127.0.0.1:1')
      const months = made.objects
        .filter((o) => o.resource === 'documents')
        .map((o) => (o.value as Drawn).documentDate.slice(0, 7))
      expect(months.filter((month) => month === '2026-09')).toHaveLength(many)
      expect([...new Set(months)].sort()).toEqual([...(entity.earlier ?? []), '2026-09'])
      expect(JSON.stringify(billingOf(entity, 3, 'http://127.0.0.1:1'))).toBe(JSON.stringify(made))
    },
  )
})
