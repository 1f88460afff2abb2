/** An amount as a legal entity's locale writes it, with as many digits as it has. */
export function moneyOf(locale: string, text: string): string {
  return new Intl.NumberFormat(locale, { minimumFractionDigits: text.split('.')[1]?.length ?? 0 })
    .format(text as Intl.StringNumericLiteral)
    .replace('-', '−')
}
