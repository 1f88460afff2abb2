import { money } from './exact.ts'
import type { Charge, Sale } from './sale.ts'

/** A sale as billing is handed it: its own rates on its lines, and no tax, which it charges by itself. */
export function documentOf(number: string, sale: Sale, creditsId: string | null, webAddress: string): object {
  const { place, currency } = sale
  const text = (units: bigint): string => money(units, currency)
  return {
    number,
    kind: sale.kind,
    status: sale.status,
    documentDate: sale.date,
    supplyDate: sale.supply,
    paymentDate: null,
    currency,
    exchangeRate: sale.exchangeRate,
    pricesIncludeTax: sale.inside,
    creditsDocumentId: creditsId,
    party: { id: sale.customer.id, name: sale.customer.name },
    discount: text(sale.discount),
    reimbursed: text(sale.reimbursed),
    webAddress,
    ...(sale.taxTo === null ? {} : { taxTo: `auth_${sale.taxTo}` }),
    shipTo: { country: place.country, region: place.region, city: place.city, postalCode: place.postalCode },
    shipFrom: { country: 'XA', region: 'XA-WN', city: 'Quillby', postalCode: '41002' },
    lines: sale.lines.map((line, at) => {
      const { rate, taxable }: Charge = line.charged ?? line.right
      return {
        id: String(at + 1),
        kind: line.item.kind,
        itemCode: line.item.typed ? null : line.item.code,
        description: line.item.name,
        quantity: String(line.quantity),
        unitPrice: text(line.unitPrice),
        discount: text(line.discount),
        amount: text(line.amount),
        taxRateId: rate === null ? null : `rate_${rate}`,
        creditsLineId: line.credits === undefined ? null : String(line.credits),
        ...(taxable === undefined || rate === null ? {} : { taxable: text(taxable) }),
      }
    }),
  }
}
