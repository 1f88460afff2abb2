import { parse } from 'csv-parse/sync'
import { stringify } from 'csv-stringify/sync'
import { Problem } from '../faults/problem.ts'
import { tableOf, type FileTable } from './fileTable.ts'

/** The one table of a CSV file; its delimiter is the commonest of comma, semicolon and tab in the header. */
export function csvTable(content: Buffer, fileName: string): FileTable {
  return tableOf(null, csvRows(textOf(content, fileName), fileName), fileName)
}

function textOf(content: Buffer, fileName: string): string {
  const utf16 =
    content[0] === 0xff && content[1] === 0xfe
      ? 'utf-16le'
      : content[0] === 0xfe && content[1] === 0xff
        ? 'utf-16be'
        : null
  try {
    const text = new TextDecoder(utf16 ?? 'utf-8', { fatal: true }).decode(content)
    if (text.includes('\0')) throw new TypeError('it is no text')
    return text
  } catch {
    throw new Problem('AXION_FILE_UNREADABLE', {
      file: fileName,
      problem: 'it is neither a workbook (XLSX) nor text in UTF-8 or UTF-16',
    })
  }
}

interface CsvRecord {
  readonly record: readonly string[]
  readonly info: { readonly lines: number }
}

function csvRows(text: string, fileName: string): { line: number; cells: string[] }[] {
  const [firstLine = ''] = text.split(/\r?\n/, 1)
  const delimiter =
    [',', ';', '\t']
      .map((sign) => ({ sign, many: firstLine.replace(/"[^"]*"/g, '').split(sign).length }))
      .sort((a, b) => b.many - a.many)[0]?.sign ?? ','
  try {
    const records = parse(text, {
      bom: true,
      delimiter,
      relax_column_count: true,
      info: true,
      skip_empty_lines: true,
    }) as unknown as CsvRecord[]
    return records.map(({ record, info }) => ({ line: info.lines, cells: record.map(unguarded) }))
  } catch (error) {
    throw new Problem('AXION_FILE_UNREADABLE', { file: fileName, problem: (error as Error).message })
  }
}

/** What a spreadsheet may take for the start of a formula, after any blanks, also in the full width of East Asian text. */
const FORMULA = String.raw`[\s\uFEFF]*[=+\-@\t\r\n\uFF1D\uFF0B\uFF0D\uFF20]`
const STARTS_A_FORMULA = new RegExp(`^${FORMULA}`, 'u')
const IS_GUARDED = new RegExp(`^'+${FORMULA}`, 'u')
/** An amount is none, whatever its sign. */
const IS_NUMBER = /^[+-]?\d+(\.\d+)?$/
/** What would start a formula in a spreadsheet goes out behind an apostrophe, and comes in without it. */
const guarded = (cell: string): string =>
  (STARTS_A_FORMULA.test(cell) && !IS_NUMBER.test(cell)) || IS_GUARDED.test(cell) ? `'${cell}` : cell
const unguarded = (cell: string): string => (IS_GUARDED.test(cell) ? cell.slice(1) : cell)

/** Rows as CSV (RFC 4180) in UTF-8 with a byte-order mark, which spreadsheets need to see that it is UTF-8. */
export function csvOf(header: readonly string[], rows: readonly (readonly string[])[]): string {
  return stringify([header, ...rows.map((cells) => cells.map(guarded))] as string[][], {
    bom: true,
    record_delimiter: 'windows',
    // A line break by itself is one too, to whoever reads it.
    quoted_match: /[\r\n]/,
  })
}
