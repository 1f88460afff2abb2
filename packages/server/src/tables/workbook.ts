import readWorkbook, { InvalidInputError } from 'read-excel-file/node'
import writeWorkbook from 'write-excel-file/node'
import { Problem } from '../faults/problem.ts'
import { tableOf, type FileTable } from './fileTable.ts'

/** The media type of a workbook. */
export const XLSX = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'

/** Every sheet of a workbook that holds anything. @throws AXION_FILE_UNREADABLE */
export async function readSheets(content: Buffer, fileName: string): Promise<FileTable[]> {
  try {
    const sheets = await readWorkbook<string>(content, { trim: false, parseNumber: decimalText })
    const filled = sheets
      .map(({ sheet, data }) => ({
        sheet,
        rows: data.map((cells, at) => ({ line: at + 1, cells: cells.map(cellText) })),
      }))
      .filter(({ rows }) => rows.some(({ cells }) => cells.some((cell) => cell !== '')))
    if (filled.length === 0)
      throw new Problem('AXION_FILE_UNREADABLE', { file: fileName, problem: 'it is empty' })
    return filled.map(({ sheet, rows }) => tableOf(sheet, rows, fileName))
  } catch (error) {
    if (error instanceof Problem) throw error
    throw new Problem('AXION_FILE_UNREADABLE', {
      file: fileName,
      problem:
        error instanceof InvalidInputError ? 'it is no workbook of the XLSX kind' : 'the workbook is damaged',
    })
  }
}

function cellText(cell: unknown): string {
  if (cell === null || cell === undefined) return ''
  if (typeof cell === 'boolean') return cell ? 'yes' : 'no'
  return cell instanceof Date ? cell.toISOString().slice(0, 10) : String(cell as string | number)
}

/** Significant digits that a spreadsheet shows; what stands behind them is an artefact of its binary numbers. */
const DIGITS = 15

/**
 * A number as the workbook's text has it, never through a binary number: "7.4500000000000002", which is how some programs store what
 * was typed as 7.45, is rounded to the fifteen digits that they show.
 */
export function decimalText(text: string): string {
  const match = /^(-?)(\d+)(?:\.(\d+))?(?:[eE]([+-]?\d{1,3}))?$/.exec(text.trim())
  if (!match) return text
  const [, sign = '', whole = '0', fraction = '', power = '0'] = match
  const all = (whole + fraction).replace(/^0+(?=\d)/, '')
  let scale = fraction.length - Number(power)
  let digits = BigInt(all)
  const over = all.length - DIGITS
  if (over > 0) {
    const unit = 10n ** BigInt(over)
    digits = (digits + unit / 2n) / unit
    scale -= over
  }
  if (digits === 0n) return '0'
  const plain =
    scale <= 0
      ? `${digits}${'0'.repeat(-scale)}`
      : digits
          .toString()
          .padStart(scale + 1, '0')
          .replace(new RegExp(`(\\d{${scale}})$`), '.$1')
          .replace(/\.?0+$/, '')
  return sign + plain
}

/** A sheet on its way out, all of it text. */
export interface SheetOut {
  readonly name: string
  readonly header: readonly string[]
  readonly rows: readonly (readonly string[])[]
}

/** Sheets of text as a workbook; every cell is text, so that no code loses its leading zeros and nothing is a formula. */
export async function workbookOf(sheets: readonly SheetOut[]): Promise<Buffer> {
  const text = (value: string, { bold = false }: { readonly bold?: boolean } = {}): object => ({
    value,
    type: String,
    ...(bold ? { fontWeight: 'bold' as const } : {}),
  })
  return writeWorkbook(
    sheets.map(({ name, header, rows }) => ({
      sheet: name,
      stickyRowsCount: 1,
      columns: header.map((title, at) => ({
        width: Math.min(
          44,
          Math.max(title.length, ...rows.slice(0, 200).map((row) => row[at]?.length ?? 0)) + 2,
        ),
      })),
      data: [
        header.map((title) => text(title, { bold: true })),
        ...rows.map((row) => row.map((cell) => (cell === '' ? null : text(cell)))),
      ],
    })) as never,
  ).toBuffer()
}
