import { Problem } from '../faults/problem.ts'

/** A table of a file: its header, and its rows with the line that each begins on. */
export interface FileTable {
  /** The sheet's name in a workbook; null in a file of one table. */
  readonly name: string | null
  readonly header: readonly string[]
  readonly rows: readonly { readonly line: number; readonly cells: readonly string[] }[]
}

/** A table whose first row that is not empty is its header. @throws AXION_FILE_UNREADABLE where there is none */
export function tableOf(
  name: string | null,
  rows: readonly { readonly line: number; readonly cells: readonly string[] }[],
  fileName: string,
): FileTable {
  const filled = rows.filter(({ cells }) => cells.some((cell) => cell.trim() !== ''))
  const [header, ...rest] = filled
  if (!header)
    throw new Problem('AXION_FILE_UNREADABLE', {
      file: name === null ? fileName : `${fileName}, sheet ${name}`,
      problem: 'it is empty',
    })
  return { name, header: header.cells.map((cell) => cell.trim()), rows: rest }
}
