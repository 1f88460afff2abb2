import { absolute, formatAmount, parseAmount, sum } from '@axion/core'
import { MOST_UNITS } from './decodeTaxes.ts'
import type { JournalEntry } from './books.ts'

/**
 * What is wrong with a ledger's entry beyond its shape: a line on both sides, sides that do not balance, in its own currency or in
 * the books', or books in another currency than the entity's. Null where nothing is.
 * @param booksCurrency the entity's base currency; null where nobody said yet
 * @throws AXION_NOT_AN_AMOUNT where an amount has more digits than its currency
 */
export function problemOfEntry(entry: JournalEntry, booksCurrency: string | null): string | null {
  const { currency, baseCurrency, lines } = entry
  if (booksCurrency !== null && baseCurrency !== booksCurrency)
    return `its books are in ${baseCurrency}, and this entity's are in ${booksCurrency}`
  const own = lines.map(
    (line) => [parseAmount(line.debit, currency), parseAmount(line.credit, currency)] as const,
  )
  const large = own.findIndex((sides) => sides.some((one) => absolute(one) > MOST_UNITS))
  if (large >= 0) return `lines.${large} has an amount past what is kept`
  const both = own.findIndex(([debit, credit]) => debit !== 0n && credit !== 0n)
  if (both >= 0) return `lines.${both} has a debit and a credit`
  for (const { base } of lines) if (base !== null) parseAmount(base, currency)
  const balance = outOfBalance(own, currency)
  if (balance !== null) return balance
  const missing = lines.findIndex(
    (line) => (line.baseDebit === null || line.baseCredit === null) !== (currency === baseCurrency),
  )
  if (missing >= 0 && currency !== baseCurrency) return `lines.${missing} says nothing in ${baseCurrency}`
  const inBooks = lines.flatMap(({ baseDebit, baseCredit }) =>
    baseDebit === null || baseCredit === null
      ? []
      : [[parseAmount(baseDebit, baseCurrency), parseAmount(baseCredit, baseCurrency)] as const],
  )
  if (inBooks.some((sides) => sides.some((one) => absolute(one) > MOST_UNITS)))
    return `it has an amount in ${baseCurrency} past what is kept`
  return outOfBalance(inBooks, baseCurrency)
}

function outOfBalance(
  lines: readonly (readonly [debit: bigint, credit: bigint])[],
  currency: string,
): string | null {
  const [debit, credit] = [sum(lines.map(([d]) => d)), sum(lines.map(([, c]) => c))]
  return debit === credit
    ? null
    : `it does not balance: debit ${formatAmount(debit, currency)}, credit ${formatAmount(credit, currency)} ${currency}`
}
