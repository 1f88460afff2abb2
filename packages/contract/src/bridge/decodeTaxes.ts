import {
  absolute,
  currencyDigits,
  fault,
  formatAmount,
  parseAmount,
  parseDecimal,
  ratio,
  sum,
  type Fault,
  type MinorUnits,
} from '@axion/core'
import type { Committed } from './committed.ts'
import type { SourceDocument } from './documents.ts'
import { DOCUMENT } from './kinds.ts'

/** What one rate came to, on one base. */
export interface DecodedTax {
  readonly taxRateId: string
  readonly base: MinorUnits
  readonly tax: MinorUnits
  readonly components: readonly { readonly agencyId: string; readonly tax: MinorUnits }[] | null
}

/** The most minor units that one amount may have, in its own currency and in the books': a month of the largest still adds up in 64 bits. */
export const MOST_UNITS = 10n ** 15n
/** The most digits that a currency of books has. */
const MOST_DIGITS = 3

export type Taxed = Pick<SourceDocument, 'number' | 'currency' | 'exchangeRate' | 'taxes'>

export function taxesIn({ taxes }: Taxed, units: (text: string) => MinorUnits): readonly DecodedTax[] {
  return taxes.map((tax) => ({
    taxRateId: tax.taxRateId,
    base: units(tax.base),
    tax: units(tax.tax),
    components: tax.components?.map((c) => ({ agencyId: c.agencyId, tax: units(c.tax) })) ?? null,
  }))
}

/**
 * The taxes that a tax service keeps of a document, negative where it takes back.
 * @throws AXION_NOT_AN_AMOUNT, AXION_AMOUNT_TOO_LARGE, or AXION_JOURNAL_OUT_OF_BALANCE where components do not add up to their tax
 */
export function decodeCommitted(wire: Committed): readonly DecodedTax[] {
  const sign = DOCUMENT[wire.kind].returns ? -1n : 1n
  const taxes = taxesIn(wire, (text) => sign * parseAmount(text, wire.currency))
  requireSize(
    wire,
    taxes.flatMap(({ base, tax, components }) => [base, tax, ...(components ?? []).map((c) => c.tax)]),
  )
  requireComponents(wire, taxes)
  return taxes
}

/** @throws AXION_AMOUNT_TOO_LARGE */
export function requireSize({ number, currency, exchangeRate }: Taxed, amounts: readonly MinorUnits[]): void {
  const largest = amounts.map(absolute).reduce((most, one) => (one > most ? one : most), 0n)
  const rate = exchangeRate === null ? ratio(1n) : parseDecimal(exchangeRate)
  const scale =
    exchangeRate === null ? 1n : 10n ** BigInt(MOST_DIGITS - Math.min(currencyDigits(currency), MOST_DIGITS))
  if (largest > MOST_UNITS || largest * rate.numerator * scale > MOST_UNITS * rate.denominator)
    throw fault('AXION_AMOUNT_TOO_LARGE', {
      document: number,
      text: formatAmount(largest, currency),
      currency,
    })
}

/** @throws AXION_JOURNAL_OUT_OF_BALANCE */
export function requireComponents(wire: Pick<Taxed, 'number'>, taxes: readonly DecodedTax[]): void {
  for (const { components, tax } of taxes)
    if (components && sum(components.map((c) => c.tax)) !== tax)
      throw outOfBalance(wire, { debit: tax.toString(), credit: 'its components' })
}

export function outOfBalance(
  { number }: Pick<Taxed, 'number'>,
  sides: { readonly debit: string; readonly credit: string },
): Fault {
  return fault('AXION_JOURNAL_OUT_OF_BALANCE', { ...sides, document: number })
}
