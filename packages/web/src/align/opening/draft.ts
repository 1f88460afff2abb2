import type { OpeningItem } from '@axion/contract'
import { Fault, formatAmount, parseAmount } from '@axion/core'

/** A line as it is typed: empty where nothing is. */
export interface TypedLine {
  reference: string
  party: string
  date: string
  amount: string
}
export const FIELDS = ['reference', 'party', 'date', 'amount'] as const

export const emptyLine = (): TypedLine => ({ reference: '', party: '', date: '', amount: '' })
export const typed = ({ date, ...item }: OpeningItem): TypedLine => ({ ...item, date: date ?? '' })
const isEmpty = (line: TypedLine): boolean => FIELDS.every((field) => line[field].trim() === '')

/** The lines that say something. */
export function itemsOf(lines: readonly TypedLine[]): OpeningItem[] {
  return lines
    .filter((line) => !isEmpty(line))
    .map(({ reference, party, date, amount }) => ({
      reference: reference.trim(),
      party: party.trim(),
      date: date === '' ? null : date,
      amount: amount.trim(),
    }))
}

/** What lines come to; null where one of them is no amount of the currency yet. */
export function sumOf(lines: readonly TypedLine[], currency: string): string | null {
  try {
    return formatAmount(
      itemsOf(lines).reduce((sum, { amount }) => sum + parseAmount(amount, currency), 0n),
      currency,
    )
  } catch (error) {
    if (error instanceof Fault) return null
    throw error
  }
}

/**
 * What was copied out of a spreadsheet goes down from a line and to the right from a field, over lines that are there and new ones.
 * @returns whether it was more than one cell
 */
export function pasteInto(
  lines: TypedLine[],
  from: { readonly at: number; readonly field: keyof TypedLine },
  text: string,
): boolean {
  const rows = text.replaceAll(/\r\n?/g, '\n').replace(/\n+$/, '').split('\n')
  if (rows.length === 1 && !text.includes('\t')) return false
  const first = FIELDS.indexOf(from.field)
  rows.forEach((row, down) => {
    const line = lines[from.at + down] ?? emptyLine()
    row.split('\t').forEach((cell, right) => {
      const field = FIELDS[first + right]
      if (field) line[field] = cell.trim()
    })
    lines[from.at + down] = line
  })
  return true
}
