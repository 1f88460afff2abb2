import { fault, parseAmount, parseDecimal, sum, type Address, type LineKind, type MinorUnits, type TaxDocument } from '@axion/core'
import type { SourceDocument } from './shapes.ts'

/** A source's document in exact amounts, with what it charged. */
export interface DecodedDocument {
  readonly number: string
  readonly status: SourceDocument['status']
  readonly documentDate: string
  readonly supplyDate: string
  readonly currency: string
  readonly party: { readonly id: string; readonly name: string }
  readonly shipTo: Address
  readonly lines: readonly { readonly id: string; readonly kind: LineKind; readonly itemCode: string | null; readonly description: string; readonly quantity: string; readonly net: MinorUnits; readonly taxRateId: string | null }[]
  readonly taxes: readonly { readonly taxRateId: string; readonly base: MinorUnits; readonly tax: MinorUnits; readonly components: readonly { readonly agencyId: string; readonly tax: MinorUnits }[] | null }[]
  readonly total: MinorUnits
}

/**
 * Reads a source's document exactly.
 * @throws AXION_NOT_AN_AMOUNT where an amount has more digits than its currency,
 *   or AXION_JOURNAL_OUT_OF_BALANCE where lines and taxes do not add up to the total
 */
export function decodeDocument(wire: SourceDocument): DecodedDocument {
  const units = (text: string): MinorUnits => parseAmount(text, wire.currency)
  const lines = wire.lines.map((line) => ({ ...line, net: units(line.net) }))
  const taxes = wire.taxes.map((tax) => ({
    taxRateId: tax.taxRateId,
    base: units(tax.base),
    tax: units(tax.tax),
    components: tax.components?.map((c) => ({ agencyId: c.agencyId, tax: units(c.tax) })) ?? null,
  }))
  const total = units(wire.total)
  const parts = sum(lines.map((l) => l.net)) + sum(taxes.map((t) => t.tax))
  if (parts !== total) throw fault('AXION_JOURNAL_OUT_OF_BALANCE', { debit: wire.total, credit: parts.toString(), document: wire.number })
  for (const tax of taxes) {
    if (tax.components && sum(tax.components.map((c) => c.tax)) !== tax.tax) {
      throw fault('AXION_JOURNAL_OUT_OF_BALANCE', { debit: tax.tax.toString(), credit: 'its components', document: wire.number })
    }
  }
  const { number, status, documentDate, supplyDate, currency, party, shipTo } = wire
  return { number, status, documentDate, supplyDate, currency, party, shipTo, lines, taxes, total }
}

/** The document as determination wants it; the item tax code of a line is the baseline's for its item. */
export function toTaxDocument(id: string, document: DecodedDocument, itemTaxCodeOf: (itemCode: string) => string | undefined): TaxDocument {
  const { number, documentDate, supplyDate, currency, shipTo } = document
  const lines = document.lines.map((line) => ({
    id: line.id,
    kind: line.kind,
    itemTaxCode: line.itemCode === null ? null : (itemTaxCodeOf(line.itemCode) ?? null),
    quantity: parseDecimal(line.quantity),
    net: line.net,
  }))
  return { id, number, documentDate, supplyDate, currency, shipTo, lines }
}
