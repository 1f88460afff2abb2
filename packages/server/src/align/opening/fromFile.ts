import { MOST_OPENING_ITEMS, OpeningItem } from '@axion/contract'
import { currencyDigits, Fault, formatAmount, parseAmount } from '@axion/core'
import { Problem } from '../../faults/problem.ts'
import type { SheetOut } from '../../tables/workbook.ts'
import { tablesOf } from '../../tables/tablesOf.ts'

/** The columns of a list, as they go out and come in. */
const COLUMNS = ['Reference', 'Party', 'Date', 'Amount'] as const
type Column = (typeof COLUMNS)[number]

export function sheetOf(name: string, items: readonly OpeningItem[]): SheetOut {
  return {
    name,
    header: [...COLUMNS],
    rows: items.map(({ reference, party, date, amount }) => [reference, party, date ?? '', amount]),
  }
}

/**
 * The lines of a list that came as CSV or XLSX, by the names of its columns in any order and case; a file of one table.
 * @throws AXION_FILE_UNREADABLE that names the line and what is wrong with it
 */
export async function linesOf(
  content: Buffer,
  { fileName, currency }: { readonly fileName: string; readonly currency: string },
): Promise<readonly OpeningItem[]> {
  const refuse = (problem: string): Problem =>
    new Problem('AXION_FILE_UNREADABLE', { file: fileName, problem })
  if (content.length === 0) throw refuse('nothing came')
  const [table, ...others] = await tablesOf(content, fileName)
  if (!table) throw refuse('it is empty')
  if (others.length > 0) throw refuse('it has several sheets, and a list is one')
  const at = new Map(table.header.map((name, column) => [name.trim().toLowerCase(), column]))
  const columnOf = (column: Column): number | undefined => at.get(column.toLowerCase())
  for (const column of ['Reference', 'Amount'] as const)
    if (columnOf(column) === undefined) throw refuse(`it has no column ${column}`)
  if (table.rows.length > MOST_OPENING_ITEMS) throw refuse(`it has more than ${MOST_OPENING_ITEMS} lines`)
  return table.rows.map(({ line, cells }) => {
    const cell = (column: Column): string => (cells[columnOf(column) ?? -1] ?? '').trim()
    const read = OpeningItem.safeParse({
      reference: cell('Reference'),
      party: cell('Party'),
      date: cell('Date') === '' ? null : cell('Date'),
      amount: cell('Amount'),
    })
    if (!read.success) {
      const [issue] = read.error.issues
      const column = COLUMNS.find((one) => one.toLowerCase() === issue?.path[0]) ?? 'Amount'
      throw refuse(`line ${line}: ${column} "${cell(column)}" is not one`)
    }
    return { ...read.data, amount: amountOf(read.data.amount, { line, currency, refuse }) }
  })
}

/** An amount in all digits of its currency. */
function amountOf(
  text: string,
  {
    line,
    currency,
    refuse,
  }: { readonly line: number; readonly currency: string; readonly refuse: (problem: string) => Problem },
): string {
  try {
    return formatAmount(parseAmount(text, currency), currency)
  } catch (error) {
    if (!(error instanceof Fault)) throw error
    throw refuse(`line ${line}: "${text}" has more digits than ${currency} has, ${currencyDigits(currency)}`)
  }
}
