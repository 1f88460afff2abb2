import {
  currencyDigits,
  multiply,
  parseAmount,
  parseDecimal,
  ratio,
  sum,
  type Address,
  type CreditedOriginal,
  type DocumentLine,
  type Exchange,
  type LineKind,
  type MinorUnits,
  type SaleKind,
  type TaxDocument,
} from '@axion/core'
import { outOfBalance, requireComponents, requireSize, taxesIn, type DecodedTax } from './decodeTaxes.ts'
import { DOCUMENT } from './kinds.ts'
import type { SourceDocument } from './documents.ts'

/** A source's document in exact amounts, with what it charged. On a credit note every amount is negative. */
export interface DecodedDocument {
  readonly number: string
  readonly kind: SourceDocument['kind']
  readonly status: SourceDocument['status']
  readonly documentDate: string
  readonly supplyDate: string
  readonly paymentDate: string | null
  readonly currency: string
  readonly exchangeRate: string | null
  readonly pricesIncludeTax: boolean
  readonly creditsDocumentId: string | null
  readonly party: { readonly id: string; readonly name: string }
  readonly shipTo: Address
  readonly shipFrom: Address | null
  readonly locationId: string | null
  readonly channel: string | null
  readonly marketplace: string | null
  readonly methodIds: readonly string[]
  readonly enteredBy: string | null
  readonly saleKind: SaleKind | null
  readonly lines: readonly DecodedLine[]
  readonly discount: MinorUnits
  readonly reimbursed: MinorUnits
  readonly taxes: readonly DecodedTax[]
  readonly total: MinorUnits
  /** The total less its tax. */
  readonly net: MinorUnits
}

export interface DecodedLine {
  readonly id: string
  readonly kind: LineKind
  readonly itemCode: string | null
  readonly description: string
  readonly quantity: string
  readonly amount: MinorUnits
  readonly taxRateId: string | null
  readonly creditsLineId: string | null
  readonly taxableFlag?: boolean | null
  readonly overridden?: { readonly by: string | null; readonly why: string | null } | null
}

/**
 * Reads a source's document exactly.
 * @throws AXION_NOT_AN_AMOUNT where an amount has more digits than its currency, AXION_AMOUNT_TOO_LARGE,
 *   or AXION_JOURNAL_OUT_OF_BALANCE where lines and taxes do not add up to the total
 */
export function decodeDocument(wire: SourceDocument): DecodedDocument {
  const sign = DOCUMENT[wire.kind].returns ? -1n : 1n
  const units = (text: string): MinorUnits => sign * parseAmount(text, wire.currency)
  const lines = wire.lines.map((line) => ({ ...line, amount: units(line.amount) }))
  const taxes = taxesIn(wire, units)
  const [total, discount, reimbursed] = [units(wire.total), units(wire.discount), units(wire.reimbursed)]
  const tax = sum(taxes.map((t) => t.tax))
  const parts = sum(lines.map((l) => l.amount)) - discount + (wire.pricesIncludeTax ? 0n : tax)
  requireSize(wire, [
    ...lines.map((line) => line.amount),
    ...taxes.flatMap(({ base, tax: of, components }) => [base, of, ...(components ?? []).map((c) => c.tax)]),
    ...[total, discount, reimbursed],
  ])
  requireBalance(wire, { parts, total, taxes })
  return decodedOf(wire, { lines, discount, reimbursed, taxes, total, net: total - tax })
}

/** @throws AXION_JOURNAL_OUT_OF_BALANCE where the parts are not the total, or components not their tax */
function requireBalance(
  wire: SourceDocument,
  { parts, total, taxes }: Pick<DecodedDocument, 'total' | 'taxes'> & { readonly parts: MinorUnits },
): void {
  if (parts !== total) throw outOfBalance(wire, { debit: wire.total, credit: parts.toString() })
  requireComponents(wire, taxes)
}

type Amounts = Pick<DecodedDocument, 'lines' | 'discount' | 'reimbursed' | 'taxes' | 'total' | 'net'>

/** A document with its amounts; what of it is no amount is taken as it was sent. */
function decodedOf(wire: SourceDocument, amounts: Amounts): DecodedDocument {
  // Documents that were kept before sources could say so have none.
  const {
    enteredBy = null,
    saleKind = null,
    tenders = [],
  } = wire as Partial<Pick<SourceDocument, 'enteredBy' | 'saleKind' | 'tenders'>>
  return {
    number: wire.number,
    kind: wire.kind,
    status: wire.status,
    documentDate: wire.documentDate,
    supplyDate: wire.supplyDate,
    paymentDate: wire.paymentDate,
    currency: wire.currency,
    exchangeRate: wire.exchangeRate,
    pricesIncludeTax: wire.pricesIncludeTax,
    creditsDocumentId: wire.creditsDocumentId,
    party: wire.party,
    shipTo: wire.shipTo,
    shipFrom: wire.shipFrom,
    locationId: wire.locationId,
    channel: wire.channel,
    marketplace: wire.marketplace,
    enteredBy,
    saleKind,
    methodIds: [...new Set(tenders.map((tender) => tender.paymentMethodId))],
    lines: amounts.lines,
    discount: amounts.discount,
    reimbursed: amounts.reimbursed,
    taxes: amounts.taxes,
    total: amounts.total,
    net: amounts.net,
  }
}

/** What a document's determination needs beyond the document itself. */
export interface DocumentContext {
  /** The code that an item stands under on a day. */
  readonly itemTaxCodeOf: (itemCode: string, on: string) => string | undefined
  /** The system that it was sent by; null where nothing goes by it. */
  readonly system?: string | null
  /** The baseline's item that a source's code stands for; undefined where it has none. */
  readonly itemOf?: (itemCode: string) => string | undefined
  /** The baseline's party that a source's party stands for; itself where nothing says otherwise. */
  readonly partyOf?: (partyId: string) => string
  /** The baseline's combined rate that a source's rate is linked to; null where it is linked to none. */
  readonly rateOf?: (taxRateId: string) => string | null
  /** The baseline's payment method that a source's stands for; null where it stands for none. */
  readonly methodOf?: (methodId: string) => string | null
  readonly baseCurrency: string
  /** The address of an outlet, by the id that its system knows it under. */
  readonly outletOf?: (locationId: string) => Address | null
  /** The original of a credit note, and what earlier credits took of it; null where nobody knows it. */
  readonly original: CreditedOriginal | null
}

/** The document as determination wants it; the item tax code of a line is the baseline's for its item. */
export function toTaxDocument(
  id: string,
  document: DecodedDocument,
  {
    itemTaxCodeOf,
    system = null,
    itemOf = (code) => code,
    partyOf = (id) => id,
    methodOf = () => null,
    rateOf = () => null,
    baseCurrency,
    original,
    outletOf = () => null,
  }: DocumentContext,
): TaxDocument {
  const {
    number,
    kind,
    documentDate,
    supplyDate,
    paymentDate,
    currency,
    party,
    shipTo,
    shipFrom,
    pricesIncludeTax,
    discount,
    reimbursed,
  } = document
  const named = (taxRateId: string | null): Pick<DocumentLine, 'names'> => {
    const combinedRateId = taxRateId === null ? null : rateOf(taxRateId)
    return taxRateId === null || combinedRateId === null
      ? {}
      : { names: { systemRateId: taxRateId, combinedRateId } }
  }
  const lines = document.lines.map((line) => ({
    ...named(line.taxRateId),
    id: line.id,
    kind: line.kind,
    itemTaxCode: line.itemCode === null ? null : (itemTaxCodeOf(line.itemCode, supplyDate) ?? null),
    quantity: parseDecimal(line.quantity),
    amount: line.amount,
    credits: line.creditsLineId,
    itemId: line.itemCode === null ? null : (itemOf(line.itemCode) ?? null),
    text: line.description,
    ...overrideOf(line),
    stated:
      line.taxableFlag == null ? null : line.taxableFlag ? ('taxable' as const) : ('not-taxable' as const),
  }))
  const exchange = original ? original.document.exchange : exchangeOf(document, baseCurrency)
  return {
    id,
    number,
    kind: DOCUMENT[kind].returns ? 'credit-note' : 'invoice',
    documentDate,
    supplyDate,
    paymentDate,
    currency,
    exchange,
    partyId: partyOf(party.id),
    shipTo,
    shipFrom,
    pricesIncludeTax,
    discount,
    reimbursed,
    lines,
    original,
    // Goods handed over the counter are taxed at the outlet; what an outlet ships goes by the rules of shipping.
    outlet: DOCUMENT[kind].counter && document.locationId !== null ? outletOf(document.locationId) : null,
    marketplace: document.marketplace,
    channel: document.channel,
    system,
    saleKind: document.saleKind,
    enteredBy: document.enteredBy,
    methods: document.methodIds.flatMap((id) => methodOf(id) ?? []),
    purchase: DOCUMENT[kind].purchase,
  }
}

function overrideOf({ overridden, taxRateId }: DecodedLine): Pick<DocumentLine, 'overridden'> {
  if (overridden == null) return {}
  return { overridden: { by: overridden.by, why: overridden.why, untaxed: taxRateId === null } }
}

/** A stated rate, for one whole unit, as minor units for one minor unit. */
export function exchangeOf(
  { currency, exchangeRate }: Pick<DecodedDocument, 'currency' | 'exchangeRate'>,
  baseCurrency: string,
): Exchange | null {
  if (currency === baseCurrency || exchangeRate === null) return null
  const [to, from] = [10n ** BigInt(currencyDigits(baseCurrency)), 10n ** BigInt(currencyDigits(currency))]
  return { currency: baseCurrency, rate: multiply(parseDecimal(exchangeRate), ratio(to, from)) }
}
