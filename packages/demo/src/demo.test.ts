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
  moneyExceptions,
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
    readonly documentDate: string
    readonly soldAt: string
    readonly tenders: readonly { readonly paymentMethodId: string; readonly amount: string }[]
  }
  interface Moved {
    readonly kind: string
    readonly at: string
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
        ['pos', 86],
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

  it('pay out just what the settlements of a week come to, whatever the seed', () => {
    for (const seed of [1, 5, 77])
      for (const id of ['payments', 'payments-web']) {
        const moved = of<Moved>(seed, id, 'settlements')
        const payouts = moved.filter((m) => m.kind === 'payout')
        const settled = moved.filter((m) => m.payoutId !== null)
        expect(payouts).toHaveLength(4)
        expect(-payouts.reduce((all, p) => all + units(p.amount), 0n)).toBe(
          settled.reduce((all, m) => all + units(m.amount) - units(m.fee), 0n),
        )
      }
  })

  it('move just what was sold, tender by tender and day by day, but for the exceptions of the key', () => {
    for (const seed of [1, 5, 77, 20_260_901]) {
      const key = moneyExceptions(seed)
      const planted = (...kinds: readonly string[]): number =>
        key.filter((one) => kinds.includes(one.kind)).length
      expect(key).toHaveLength(20)
      const sales = [...of<Sold>(seed, 'pos', 'documents'), ...of<Sold>(seed, 'commerce', 'documents')]
      const due = (method: string): string[] =>
        sales.flatMap(({ kind, soldAt, tenders }) =>
          tenders
            .filter((tender) => tender.paymentMethodId === method)
            .map((tender) => `${kind === 'refund' ? '-' : ''}${tender.amount} ${soldAt.slice(0, 10)}`),
        )
      const less = (from: readonly string[], those: readonly string[]): string[] => {
        const left = [...those]
        return from.filter((one) => {
          const at = left.indexOf(one)
          if (at >= 0) left.splice(at, 1)
          return at < 0
        })
      }
      for (const [id, method, hundredths, each] of [
        ['payments', 'pm_card', 260n, 10n],
        ['payments-web', 'pm_web_card', 290n, 30n],
      ] as const) {
        const moved = of<Moved>(seed, id, 'settlements').filter((m) => m.kind !== 'payout')
        const seen = moved.map((m) => `${m.amount} ${m.at.slice(0, 10)}`)
        const own = (...kinds: readonly string[]): number =>
          key.filter((one) => one.system === id && kinds.includes(one.kind)).length
        expect(less(due(method), seen)).toHaveLength(
          own('charge-missing', 'charge-amount', 'charge-day', 'charge-elsewhere'),
        )
        expect(less(seen, due(method))).toHaveLength(
          own(
            'charge-twice',
            'charge-amount',
            'charge-day',
            'chargeback',
            'charge-without-sale',
            'refund-without-return',
          ) + (id === 'payments' ? planted('charge-elsewhere') : 0),
        )
        const charges = moved.filter((m) => m.kind === 'charge')
        const fee = (amount: string): bigint => (units(amount) * hundredths * 2n + 10_000n) / 20_000n + each
        expect(charges.filter((m) => units(m.fee) !== fee(m.amount))).toHaveLength(own('charge-fee'))
      }
      const lines = of<{ amount: string; text: string }>(seed, 'bank', 'bank-lines')
      const payouts = ['payments', 'payments-web'].flatMap((id) =>
        of<Moved>(seed, id, 'settlements').filter((m) => m.kind === 'payout'),
      )
      const arrived = lines.filter((l) => l.text.startsWith('Payout')).map((l) => l.amount)
      expect(
        less(
          payouts.map((p) => p.amount.replace('-', '')),
          arrived,
        ),
      ).toHaveLength(planted('payout-short', 'payout-missing'))
      // Cash of four whole weeks, at whichever outlet, less what is short and what never came.
      const cash = sales
        .filter((sale) => sale.soldAt.slice(8, 10) <= '29' && Number(sale.documentDate.slice(8, 10)) <= 28)
        .flatMap((sale) =>
          sale.tenders
            .filter((t) => t.paymentMethodId === 'pm_cash')
            .map((t) => (sale.kind === 'refund' ? -units(t.amount) : units(t.amount))),
        )
        .reduce((sum, amount) => sum + amount, 0n)
      const banked = lines
        .filter((l) => l.text.startsWith('Cash'))
        .reduce((sum, l) => sum + units(l.amount), 0n)
      expect(cash - banked > 2000n).toBe(true)
      expect(sales.flatMap((sale) => sale.tenders.map((t) => t.paymentMethodId))).toContain('pm_gift')
      expect(sales.some((sale) => sale.tenders.length > 1)).toBe(true)
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
