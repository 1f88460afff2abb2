import { halfUp, millionths, money as inCurrency, spread } from './exact.ts'
import type { Item, Place, Rate } from './sale.ts'

export const addressOf = ({ country, region, city, postalCode }: Place): object => ({
  country,
  region,
  city,
  postalCode,
})

/** What a till, a shop or purchasing has of one sale or purchase. */
export interface Taken {
  readonly id: string
  readonly number: string
  readonly kind: string
  readonly date: string
  readonly at: string | null
  readonly place: Place
  readonly location: string | null
  readonly party: { readonly id: string; readonly name: string }
  readonly lines: readonly { readonly item: Item; readonly quantity: number }[]
  readonly rateId: (code: string) => string
  readonly agencyId: (code: string) => string
  readonly rateOf: (code: string) => Rate
  readonly method: string | null
  readonly marketplace?: string
  /** The rate that a line is charged at; null where it is not taxed. */
  readonly rightly: (place: Place, item: Item, quantity: number) => string | null
  readonly currency: string
  readonly shipFrom: object
}

/** A document of a system that charges line by line on the rate as it has it, rounded half up once a line. */
export function taken(sold: Taken): object {
  const money = (units: bigint): string => inCurrency(units, sold.currency)
  const lines = sold.lines.map(({ item, quantity }, at) => {
    const amount = BigInt(item.price * quantity)
    const rate = sold.marketplace === undefined ? sold.rightly(sold.place, item, quantity) : null
    return { id: String(at + 1), item, quantity, amount, rate }
  })
  const taxes = [...new Set(lines.flatMap((l) => l.rate ?? []))].map((code) => {
    const rate = sold.rateOf(code)
    const parts = rate.components.filter(
      (c) => (c.from === undefined || sold.date >= c.from) && (c.to === undefined || sold.date <= c.to),
    )
    const total = parts.reduce((sum, c) => sum + millionths(c.percent), 0n)
    const own = lines.filter((l) => l.rate === code)
    // A line's tax is rounded once, and goes over its components: so the parts of a document are those of its lines.
    const byLine = own.map((l) =>
      spread(
        halfUp(l.amount * total, 100_000_000n),
        parts.map((c) => millionths(c.percent)),
      ),
    )
    const each = parts.map((_, at) => byLine.reduce((sum, of) => sum + (of[at] ?? 0n), 0n))
    const tax = each.reduce((sum, of) => sum + of, 0n)
    return {
      rate: code,
      tax,
      base: own.reduce((sum, l) => sum + l.amount, 0n),
      parts: parts.map((c, at) => ({
        agencyId: sold.agencyId(c.agency),
        percent: c.percent,
        tax: money(each[at] ?? 0n),
      })),
    }
  })
  const total = lines.reduce((sum, l) => sum + l.amount, 0n) + taxes.reduce((sum, t) => sum + t.tax, 0n)
  return {
    number: sold.number,
    kind: sold.kind,
    status: 'paid',
    documentDate: sold.date,
    supplyDate: sold.date,
    paymentDate: sold.date,
    currency: sold.currency,
    exchangeRate: null,
    pricesIncludeTax: false,
    creditsDocumentId: null,
    party: sold.party,
    shipTo: addressOf(sold.place),
    shipFrom: sold.shipFrom,
    discount: money(0n),
    reimbursed: money(0n),
    total: money(total),
    webAddress: null,
    lines: lines.map((l) => ({
      id: l.id,
      kind: l.item.kind,
      itemCode: l.item.typed ? null : l.item.code,
      description: l.item.name,
      quantity: String(l.quantity),
      unitPrice: money(BigInt(l.item.price)),
      discount: money(0n),
      amount: money(l.amount),
      taxRateId: l.rate === null ? null : sold.rateId(l.rate),
      creditsLineId: null,
    })),
    taxes: taxes.map((t) => ({
      taxRateId: sold.rateId(t.rate),
      base: money(t.base),
      tax: money(t.tax),
      components: t.parts,
    })),
    soldAt: sold.at,
    locationId: sold.location,
    channel: sold.kind === 'order' ? (sold.marketplace ?? 'Own shop') : null,
    marketplace: sold.marketplace ?? null,
    tenders: sold.method === null ? [] : [{ paymentMethodId: sold.method, amount: money(total) }],
  }
}
