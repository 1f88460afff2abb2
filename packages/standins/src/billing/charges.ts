import { percentOf, toText, toUnits } from '../shared/exact.ts'

export interface BillingRate {
  readonly code: string | null
  readonly name: string
  readonly percent: string
  readonly active: boolean
  readonly components: readonly { readonly agencyId: string; readonly name: string; readonly percent: string; readonly from: string | null; readonly to: string | null }[] | null
}
export interface InvoiceLine {
  readonly id: string
  readonly kind: string
  readonly itemCode: string | null
  readonly description: string
  readonly quantity: string
  readonly unitPrice: string
  readonly net: string
  readonly taxRateId: string | null
}
export interface Invoice {
  readonly number: string
  readonly kind: string
  readonly status: string
  readonly documentDate: string
  readonly supplyDate: string
  readonly currency: string
  readonly party: { readonly id: string; readonly name: string }
  readonly shipTo: object
  readonly shipFrom: object | null
  readonly lines: readonly InvoiceLine[]
  readonly webAddress: string | null
}

/** Adds what this billing system charges: by document and component, a rate without components by its flat percent. */
export function charged(invoice: Invoice, rates: ReadonlyMap<string, BillingRate>): object {
  const { currency } = invoice
  const bases = new Map<string, bigint>()
  let total = 0n
  for (const line of invoice.lines) {
    const net = toUnits(line.net, currency)
    total += net
    if (line.taxRateId !== null) bases.set(line.taxRateId, (bases.get(line.taxRateId) ?? 0n) + net)
  }
  const taxes = [...bases].map(([taxRateId, base]) => {
    const rate = rates.get(taxRateId)
    if (!rate) throw new Error(`invoice ${invoice.number} has the unknown rate ${taxRateId}`)
    const components = rate.components?.map((c) => ({ agencyId: c.agencyId, percent: c.percent, tax: percentOf(base, c.percent) })) ?? null
    const tax = components ? components.reduce((sum, c) => sum + c.tax, 0n) : percentOf(base, rate.percent)
    total += tax
    return {
      taxRateId, base: toText(base, currency), tax: toText(tax, currency),
      components: components?.map((c) => ({ ...c, tax: toText(c.tax, currency) })) ?? null,
    }
  })
  return { ...invoice, taxes, total: toText(total, currency) }
}
