import { csvTable } from './csv.ts'
import type { FileTable } from './fileTable.ts'
import { readSheets } from './workbook.ts'

const ZIP = [0x50, 0x4b, 0x03, 0x04] as const

/** The tables of a CSV or XLSX file, told by its content and not by its name. @throws AXION_FILE_UNREADABLE with where and why */
export async function tablesOf(content: Buffer, fileName: string): Promise<FileTable[]> {
  if (ZIP.every((byte, at) => content[at] === byte)) return readSheets(content, fileName)
  return [csvTable(content, fileName)]
}
