import type { Row } from './changes.ts'

/** What the lines of a journal entry say, as far as balances need it. */
interface Entry {
  readonly postingDate: string
  readonly voided: boolean
  readonly baseCurrency: string
  readonly lines: readonly {
    readonly accountId: string
    readonly debit: string
    readonly credit: string
    readonly baseDebit: string | null
    readonly baseCredit: string | null
  }[]
}
export interface Balance {
  readonly accountId: string
  readonly currency: string
  readonly opening: string
  readonly debit: string
  readonly credit: string
  readonly closing: string
}

/** As many digits behind the point as any currency has. */
const DIGITS = 4

/** Exact: in whole units of the smallest digit. */
function units(text: string): bigint {
  const [, sign = '', whole = '', fraction = ''] = /^(-?)(\d+)(?:\.(\d{1,4}))?$/.exec(text) ?? []
  if (whole === '') throw new Error(`"${text}" is no amount`)
  return BigInt(sign + whole + fraction.padEnd(DIGITS, '0'))
}

function decimal(amount: bigint): string {
  const digits = String(amount < 0n ? -amount : amount).padStart(DIGITS + 1, '0')
  const fraction = digits.slice(-DIGITS).replace(/0+$/, '')
  return `${amount < 0n ? '-' : ''}${digits.slice(0, -DIGITS)}${fraction && `.${fraction}`}`
}

/** One row an account: what its entries come to, in the books' currency, before and within a span of days. Credits less debits. */
export function balancesOf(entries: readonly Row[], from: string, to: string): Balance[] {
  const accounts = new Map<string, { currency: string; opening: bigint; debit: bigint; credit: bigint }>()
  for (const { value } of entries) {
    const { postingDate, voided, baseCurrency, lines } = value as Entry
    if (voided || postingDate > to) continue
    for (const line of lines) {
      const [debit, credit] = [units(line.baseDebit ?? line.debit), units(line.baseCredit ?? line.credit)]
      const row = accounts.get(line.accountId) ?? {
        currency: baseCurrency,
        opening: 0n,
        debit: 0n,
        credit: 0n,
      }
      if (postingDate < from) row.opening += credit - debit
      else {
        row.debit += debit
        row.credit += credit
      }
      accounts.set(line.accountId, row)
    }
  }
  return [...accounts].map(([accountId, { currency, opening, debit, credit }]) => ({
    accountId,
    currency,
    opening: decimal(opening),
    debit: decimal(debit),
    credit: decimal(credit),
    closing: decimal(opening + credit - debit),
  }))
}
